"""What limits a burst, held against what each part brings when it is made better."""

import math
from dataclasses import replace
from unittest import TestCase

from hypothesis import assume, example, given, settings

from engine import File, LoadedSlot
from engine.burst.bottleneck import Bottleneck, Parts, better_scenario
from engine.burst.rates import Regime
from engine.burst.scenario import HOLD_S
from engine.burst.simulate import simulate
from engine.tests.builders import scenario, scenarios


def bottleneck(**changes) -> Bottleneck:
    return Bottleneck(simulate(scenario(**changes)))


def two(first: float, second: float, **of_both) -> dict[str, object]:
    """Two slots that write at these MB/s, the same to both."""
    slots = tuple(LoadedSlot(write_mb_s=speed, **of_both) for speed in (first, second))
    return {"arrangement": "mirror", "slots": slots}


class NamedCases(TestCase):
    def test_the_narrowest_part(self) -> None:
        for part, changes in {
            "sensor": {"write_mb_s": 1000, "process_fps": 20},
            "encoder": {"process_fps": 4, "write_mb_s": 230},
            "slot 1": {"process_fps": 5, "write_mb_s": 230},
            "nothing in this hold": {"hold_s": 1},
            "card 1": {"slot_limit_mb_s": 400},
            "card 2": two(400, 100, slot_limit_mb_s=600),
            "slot 2": two(400, 200, slot_limit_mb_s=200) | two(190, 170),
            "slot 1 and slot 2": two(200, 200),
        }.items():
            with self.subTest(part):
                self.assertEqual(part, bottleneck(**changes).words)

    def test_an_encoder_that_fills_memory_is_told_from_the_card_that_limits_afterwards(
        self,
    ) -> None:
        found = bottleneck(
            frame_rate_fps=40, process_fps=15, held_mb=80, file_mb=30, write_mb_s=420, hold_s=3
        )
        self.assertEqual((("encoder",), ("slot 1",)), (found.fills, found.limits))

    def test_after_the_wall_the_regime_counts_in_which_the_burst_ended(self) -> None:
        fast_then_slow = (LoadedSlot(write_mb_s=900, free_mb=1_000), LoadedSlot(write_mb_s=85))
        worn = {"cache_mb": 800, "cache_write_mb_s": 900, "write_mb_s": 85}
        nearly_full = {"write_mb_s": 850, "slow_factor": 0.1, "free_mb": 5_000,
                       "slow_below_free_mb": 4_500}  # fmt: skip
        for changes, part in (
            ({"arrangement": "overflow", "slots": fast_then_slow}, "slot 2"),
            (worn, "slot 1"),
            (nearly_full, "slot 1"),
        ):
            found = bottleneck(hold_s=8, **changes)
            with self.subTest(part, **changes):
                self.assertAlmostEqual(1.7, found.sustained_fps or 0)
                self.assertEqual(part, found.words)

    def test_the_next_in_line_is_what_a_faster_card_brings_at_most(self) -> None:
        for changes, narrow, following in (
            ({"process_fps": 12}, ("slot 1",), ("encoder", 12)),
            ({"process_fps": 30}, ("slot 1",), ("sensor", 20)),
            ({"process_fps": 4}, ("encoder",), ("slot 1", 4.6)),
        ):
            with self.subTest(narrow, **changes):
                found = bottleneck(**changes)
                part = found.next_in_line
                self.assertEqual(narrow, found.limits)
                self.assertEqual(following, part and (part.name, round(part.fps, 6)))

    def test_each_part_of_the_path_passes_what_goes_through_it(self) -> None:
        slots = (
            LoadedSlot(write_mb_s=200, overhead_s=0.01),
            LoadedSlot(write_mb_s=100, slot_limit_mb_s=150),
        )
        files = (File(name="raw", mb=40), File(name="jpeg", mb=10))
        burst = scenario(slots=slots, files=files, arrangement="split", process_fps=12)
        found = {part.name: (round(part.fps, 6), round(part.mb_s, 6))
                 for part in Regime.at_press(burst).path}  # fmt: skip
        self.assertEqual({
            "sensor": (20, 1000), "encoder": (12, 600),
            "slot 1": (round(1 / 0.21, 6), round(40 / 0.21, 6)), "card 2": (10, 100),
        }, found)  # fmt: skip
        self.assertEqual([0, 1], Parts(["slot 1", "encoder", "card 2"]).slots)

    def test_a_memory_too_tight_for_two_to_work_side_by_side_is_timed(self) -> None:
        # One frame at a time: 100 ms to encode, 200 ms to write.
        one = bottleneck(memory_mb=50, process_fps=10, write_mb_s=250)
        self.assertAlmostEqual(1 / 0.3, one.sustained_fps or 0, places=3)
        # Silent until memory is empty: 4 frames in 150 ms, the last one written after 800 ms.
        stalling = bottleneck(memory_mb=200, resume_free_frames=4, write_mb_s=250)
        self.assertAlmostEqual(4 / 0.8, stalling.sustained_fps or 0, delta=0.25)


class Laws(TestCase):
    @settings(max_examples=200)
    @given(scenarios(most_resume_frames=1))
    @example(
        scenario(frame_rate_fps=1, hold_s=1.1, memory_mb=2, file_mb=2, write_mb_s=10, process_fps=1)
    )
    def test_what_is_named_is_what_brings_most_when_made_better(self, burst) -> None:
        result = simulate(burst)
        found = Bottleneck(result)
        self.assertEqual(bool(found.narrowest), result.wall_ns is not None)
        if not found.narrowest:
            return

        def gained(parts) -> int:
            return simulate(better_scenario(burst, parts)).frames - result.frames

        self.assertGreaterEqual(
            gained(found.narrowest),
            max(gained((part,)) for part in ("encoder", "slot 1", "slot 2")),
        )

    @given(scenarios(most_resume_frames=1))
    def test_the_rate_after_the_wall_is_that_of_the_frames(self, burst) -> None:
        constant = tuple(
            LoadedSlot(write_mb_s=slot.effective_mb_s, overhead_s=slot.overhead_s)
            for slot in burst.slots
        )
        burst = replace(burst, slots=constant)
        fps = Bottleneck(simulate(burst)).sustained_fps
        assume(fps is not None)
        frames_in_memory = burst.memory_bytes / burst.file_bytes
        hold_s = 5 * (frames_in_memory + 20) / fps
        # Frames wait for a slower writer, taken as fast as they are encoded until memory is full.
        queued_fps = min(burst.frame_rate_fps, burst.process_fps or math.inf) - fps
        if queued_fps > 0.05 * fps:
            hold_s += 2 * frames_in_memory / queued_fps
        assume(hold_s < HOLD_S.highest)
        result = simulate(replace(burst, hold_s=hold_s))
        assume(result.wall_ns is not None and result.wall_ns < result.scenario.end_ns / 2)
        half = result.taken_ns[result.frames // 2 :]
        timed_fps = (len(half) - 1) / (half[-1] - half[0]) * 1e9
        self.assertAlmostEqual(fps, timed_fps, delta=0.06 * timed_fps)
