"""Ranges hold four bodies in five, and what is too close to call is called so."""

import math
from dataclasses import replace
from itertools import product
from unittest import TestCase

import numpy as np
from hypothesis import given, settings

from engine import File
from engine.burst.bottleneck import Bottleneck
from engine.burst.scenario import Hold, Scenario
from engine.burst.simulate import simulate
from engine.figures.uncertainty import (
    ESTIMATED,
    MEASURED_HERE,
    OF_SOURCE,
    PRINTED,
    LogUniform,
    Uncertainty,
)
from engine.tests.builders import scenario, scenarios, sources
from engine.uncertainty.intervals import Interval, as_counted, confidence
from engine.uncertainty.sensitivity import too_close_to_call, widest_input
from engine.uncertainty.sources import MEMORY, SlotSources, Sources

BODIES = 2_000
SHARE_IN_RANGE = (0.76, 0.84)


class Coverage(TestCase):
    """Bodies as they may truly be, held against the range predicted from what is known of them.

    Their numbers are drawn here, plainly and without any of the engine's draws.
    """

    def setUp(self) -> None:
        self.random = np.random.default_rng(9)

    def ratio(self, uncertainty: Uncertainty) -> float:
        if isinstance(uncertainty, LogUniform):
            return float(np.exp(self.random.uniform(*np.log([uncertainty.low, uncertainty.high]))))
        return float(np.exp(uncertainty.spread * self.random.standard_normal()))

    def true_body(self, told: Scenario, known: Sources) -> Scenario:
        size = self.ratio(known.files) * self.ratio(known.between_bursts)
        slots = [
            replace(
                slot,
                write_mb_s=slot.write_mb_s * self.ratio(of_slot.write_mb_s),
                slot_limit_mb_s=slot.slot_limit_mb_s
                and slot.slot_limit_mb_s * self.ratio(of_slot.slot_limit_mb_s),
                overhead_s=slot.overhead_s * self.ratio(of_slot.overhead_s),
            )
            for slot, of_slot in zip(told.slots, known.slots, strict=True)
        ]
        return replace(
            told,
            frame_rate_fps=told.frame_rate_fps * self.ratio(known.frame_rate_fps),
            memory_mb=told.memory_mb * self.ratio(known.memory_mb),
            held_mb=told.held_mb * self.ratio(known.held_mb),
            process_fps=told.process_fps and told.process_fps * self.ratio(known.process_fps),
            files=tuple(File(name=file.name, mb=file.mb * size) for file in told.files),
            slots=tuple(slots),
        )

    def test_a_range_holds_four_true_bodies_in_five_and_both_tails_alike(self) -> None:
        cases = {
            "plain": (scenario(held_mb=55, process_fps=18), {}),
            "a slot as fast as the card": (scenario(write_mb_s=250, slot_limit_mb_s=250), {}),
            "an estimated card": (
                scenario(write_mb_s=250, slot_limit_mb_s=250),
                {"write_mb_s": LogUniform(0.5, 1.6)},
            ),
            "a long hold": (scenario(hold_s=90, overhead_s=0.02), {}),
        }
        for source, (words, (told, of_slot)) in product(OF_SOURCE.values(), cases.items()):
            slot = SlotSources(
                **{"write_mb_s": source, "slot_limit_mb_s": source, "overhead_s": source} | of_slot
            )
            known = Sources(
                slots=(slot,),
                frame_rate_fps=source,
                held_mb=source,
                files=source,
                memory_mb=source,
                process_fps=source,
                file_to_file=0.1,
            )
            said = confidence(told, known)
            bodies = [simulate(self.true_body(told, known)) for _ in range(BODIES)]
            depths = [body.frames_at_full_speed for body in bodies]
            for figure, interval, values in (
                ("frames", said.frames, [body.frames for body in bodies]),
                ("depth", said.frames_at_full_speed, [np.inf if d is None else d for d in depths]),
                ("clear", said.clear_s, [body.clear_s for body in bodies]),
            ):
                with self.subTest(source=source, case=words, figure=figure):
                    self.check(interval, np.array(values, dtype=float))

    def check(self, interval: Interval, values) -> None:
        low, high = interval.low, np.inf if interval.high is None else interval.high
        below, above = float((values < low).mean()), float((values > high).mean())
        # Whole frames come in steps: an end may be half a step off, and that is all.
        steps = (float((values == low).mean()) + float((values == high).mean())) / 2
        self.assertGreaterEqual(1 - below - above, SHARE_IN_RANGE[0])
        self.assertLessEqual(1 - below - above, SHARE_IN_RANGE[1] + steps / 2)
        self.assertAlmostEqual(below, above, delta=0.06 + steps / 2)


class Ranges(TestCase):
    @settings(deadline=None)
    @given(scenarios())
    def test_nobody_counts_more_frames_than_are_due(self, one: Scenario) -> None:
        ranges = confidence(one, sources(one, frame_rate_fps=MEASURED_HERE), draws=50)
        counted, due = as_counted(ranges, one.frames_due), one.frames_due
        for shown, drawn in (
            (counted.frames, ranges.frames),
            (counted.frames_at_full_speed, ranges.frames_at_full_speed),
        ):
            for end, of_draws in (
                (shown.low, drawn.low), (shown.middle, drawn.middle), (shown.high, drawn.high)
            ):  # fmt: skip
                self.assertEqual(of_draws is None, end is None)
                self.assertTrue(end is None or end == min(of_draws or 0, due))

    @given(scenarios())
    def test_of_what_is_known_exactly_there_is_one_value_that_of_the_simulation(
        self, burst: Scenario
    ) -> None:
        said, result = confidence(burst, sources(burst), 20), simulate(burst)
        depth = result.frames_at_full_speed
        if depth is None and result.card_full_ns is not None:
            depth = result.frames
        pace_fps = min(Bottleneck(result).sustained_fps or math.inf, burst.frame_rate_fps)
        for interval, value in (
            (said.frames, result.frames), (said.frames_at_full_speed, depth),
            (said.clear_s, result.clear_s), (said.sustained_fps, pace_fps),
            (said.holds[0].frames_at_full_speed, depth),
        ):  # fmt: skip
            for end in (interval.low, interval.middle, interval.high):
                self.assertEqual(value is None, end is None)
                self.assertAlmostEqual(value or 0, end or 0, delta=1e-4 * (value or 0) + 1e-8)
        self.assertEqual(depth, said.full_speed_in_most)
        self.assertEqual(result.wall_ns is not None, said.wall_share)
        self.assertEqual(1, said.wall_share + said.no_wall_share)

    def test_what_is_predicted_lies_in_its_range_though_it_be_the_least_of_four(self) -> None:
        slots = scenario(write_mb_s=200, slot_limit_mb_s=200).slots * 2
        burst = scenario(slots=slots, arrangement="mirror")
        unsure = sources(burst, write_mb_s=0.3, slot_limit_mb_s=0.3)
        said, result = confidence(burst, unsure), simulate(burst)
        self.assertTrue(said.frames.low <= result.frames <= said.frames.high)
        self.assertEqual(result.frames, said.frames.high)

    def test_no_wall_is_no_number(self) -> None:
        easy = scenario(write_mb_s=2000)
        said = confidence(easy, sources(easy, write_mb_s=MEASURED_HERE))
        self.assertEqual((None, 0), (said.frames_at_full_speed.middle, said.wall_share))

    def test_a_card_that_fills_is_an_outcome_of_its_own(self) -> None:
        burst = scenario(free_mb=500, memory_mb=3_000)
        said = confidence(burst, sources(burst, files=ESTIMATED))
        self.assertEqual((0, 1), (said.wall_share, said.full_share))
        depth = said.frames_at_full_speed
        self.assertTrue(5 < depth.low < 10 < depth.high < 20, depth)

    def test_every_hold_of_a_series_has_its_odds(self) -> None:
        burst = replace(scenario(hold_s=1.4), later_holds=(Hold(press_s=2, hold_s=1.4),))
        fresh, second = confidence(
            burst, sources(burst, write_mb_s=PRINTED, memory_mb=PRINTED)
        ).holds
        self.assertLess(fresh.wall_share, 0.5)
        self.assertEqual(1, second.wall_share)


class TooCloseToCall(TestCase):
    def test_it_is_called_where_a_few_per_cent_decide_and_only_there(self) -> None:
        for write_mb_s, close in ((230, False), (700, False), (850, False), (950, True),
                                  (1010, True), (1100, False)):  # fmt: skip
            with self.subTest(write_mb_s):
                found = too_close_to_call(scenario(write_mb_s=write_mb_s, hold_s=60))
                self.assertEqual(close, found is not None)

    def test_it_says_what_either_way_brings(self) -> None:
        found = too_close_to_call(scenario(write_mb_s=970, hold_s=60))
        self.assertAlmostEqual(19.4, found.camera_fps)
        self.assertEqual((20, None), (found.frame_rate_fps, found.high))
        self.assertLess(found.low, simulate(scenario(write_mb_s=970, hold_s=60)).frames)

    def test_a_hold_that_every_burst_outlasts_is_not_close(self) -> None:
        self.assertIsNone(too_close_to_call(scenario(write_mb_s=970, hold_s=2)))

    def test_uncertain_inputs_alone_do_not_make_a_set_up_close(self) -> None:
        burst = scenario()
        unsure = sources(burst, memory_mb=ESTIMATED, write_mb_s=MEASURED_HERE)
        said = confidence(burst, unsure).frames_at_full_speed
        self.assertGreater(said.high, 1.5 * said.low)
        self.assertIsNone(too_close_to_call(burst))
        self.assertEqual(MEMORY, widest_input(burst, unsure))
        self.assertIsNone(widest_input(burst, sources(burst, write_mb_s=MEASURED_HERE)))
