"""Very many bursts at once: the same answers as one at a time, and the same draws for all."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from engine import File, InvalidScenario, LoadedSlot
from engine.burst.event_loop import HOLD_OUTCOME_LENGTH
from engine.burst.plan import FILE_SIZE, NOMINAL
from engine.burst.scenario import COUPLINGS, Hold
from engine.burst.simulate import simulate
from engine.figures.key import Factor, FigureKind
from engine.figures.uncertainty import LogNormal, LogUniform
from engine.tests.builders import scenario, scenarios, sources
from engine.uncertainty.draws import Draws, drawn_holds, frame_sizes
from engine.uncertainty.sources import (
    BURST,
    ENCODER,
    FACTORS,
    FILES,
    FRAME_RATE,
    HELD,
    MEMORY,
)
from engine.uncertainty.sweep import MOST_FRAMES_IN_ALL, shoot_all, sweep
from engine.uncertainty.tables import drawn_plans


class Sweep(TestCase):
    @given(scenarios(series=True))
    def test_agrees_with_simulate_to_the_frame(self, burst) -> None:
        came = sweep([burst], [sources(burst)], Draws(1))
        result = simulate(burst)
        depth = result.frames_at_full_speed
        self.assertEqual(result.frames, came.frames[0, 0])
        self.assertEqual(-1 if depth is None else depth, came.frames_at_full_speed[0, 0])
        self.assertEqual(
            [round(hold.clear_s * 1e9) for hold in result.holds], came.clear_ns[0, 0].tolist()
        )
        self.assertEqual(result.card_full_ns is not None, came.card_full[0, 0])
        # To the ns, and rates are read to 6 decimals.
        frame_ns = 1e9 / result.final_regime.camera_fps
        self.assertAlmostEqual(frame_ns, came.frame_ns[0, 0], delta=4 + 2e-6 * frame_ns)

    @given(scenarios(series=True), st.integers(1, 9))
    def test_what_is_told_without_following_every_frame_is_what_following_tells(
        self, burst, draws
    ) -> None:
        """Many draws at once, bursts that nothing hinders shot by their ends, to the nanosecond."""
        unsure = sources(
            burst, frame_rate_fps=0.02, held_mb=0.1, memory_mb=0.1, process_fps=0.1, files=0.1,
            write_mb_s=0.1, overhead_s=0.1, cache_mb=0.1, file_to_file=0.1, knows_coupling=False,
        )  # fmt: skip
        plans, holds = (
            drawn_plans(burst, unsure, Draws(draws)),
            drawn_holds(burst, unsure, Draws(draws)),
        )
        sizes = frame_sizes(draws, burst.frames_due, unsure.within_burst)
        followed = np.empty((draws, holds.shape[1], HOLD_OUTCOME_LENGTH), dtype=np.int64)
        full_ns, frame_ns = np.empty(draws, dtype=np.int64), np.empty(draws, dtype=np.int64)
        shoot_all(plans, holds, sizes, followed, full_ns, frame_ns)
        came = sweep([burst], [unsure], Draws(draws))
        np.testing.assert_array_equal(followed, came.holds[0])
        np.testing.assert_array_equal(full_ns, came.card_full_ns[0])
        np.testing.assert_array_equal(frame_ns, came.frame_ns[0])

    def test_draws_are_common_and_come_again(self) -> None:
        burst = scenario()
        unsure = sources(burst, write_mb_s=0.05, files=0.05, file_to_file=0.1, memory_mb=0.05)
        one = sweep([burst], [unsure], Draws(50))
        among_others = sweep([scenario(hold_s=9), burst], [unsure] * 2, Draws(50))
        self.assertFalse(np.ptp(one.frames) == 0)
        self.assertEqual(one.frames[0].tolist(), among_others.frames[1].tolist())

    @given(
        st.sampled_from(("frame_rate_fps", "held_mb", "files", "memory_mb", "process_fps")),
        st.floats(0.05, 0.3),
    )
    def test_each_spread_moves_what_it_is_of_and_keeps_the_middle(self, name, spread) -> None:
        burst = scenario(held_mb=80, process_fps=12)
        came = sweep([burst], [sources(burst, **{name: spread})], Draws(201))
        self.assertAlmostEqual(simulate(burst).frames, np.median(came.frames), delta=1.5)
        self.assertGreater(np.ptp(came.frames_at_full_speed), 0)

    @given(st.floats(60, 900), st.floats(60, 900), st.floats(0, 0.5), st.floats(0, 0.5))
    def test_card_and_slot_are_drawn_apart_and_the_bus_caps_both(
        self, card, limit, of_card, of_limit
    ) -> None:
        bus = 400
        burst = scenario(write_mb_s=card, slot_limit_mb_s=limit, bus_mb_s=bus)
        unsure = sources(burst, write_mb_s=of_card, slot_limit_mb_s=of_limit)
        draws = Draws(60)
        passed = np.minimum(
            card * draws.ratios(Factor(FigureKind.CARD, 1), LogNormal(of_card)),
            limit * draws.ratios(Factor(FigureKind.SLOT, 1), LogNormal(of_limit)),
        )
        shot = [simulate(scenario(write_mb_s=min(mb_s, bus))).frames for mb_s in passed]
        self.assertLessEqual(np.ptp(sweep([burst], [unsure], draws).frames[0] - shot), 1)

    def test_no_two_factors_are_drawn_alike(self) -> None:
        """Orders that happened to be correlated would widen or narrow what depends on both."""
        normals = [np.log(Draws(500).ratios(factor, LogNormal(1.0))) for factor in FACTORS]
        together = np.corrcoef(normals) - np.eye(len(FACTORS))
        self.assertLess(np.abs(together).max(), 0.04)

    def test_an_even_spread_never_leaves_its_ends(self) -> None:
        ratios = Draws(500).ratios(Factor(FigureKind.CARD, 1), LogUniform(0.5, 1.5))
        self.assertTrue(((ratios >= 0.5) & (ratios <= 1.5)).all())
        self.assertAlmostEqual(np.sqrt(0.75), np.median(ratios), delta=0.01)

    def test_every_number_is_multiplied_by_its_ratio_and_a_time_divided(self) -> None:
        burst, draws = scenario(held_mb=80, process_fps=12), Draws(30)
        unsure = sources(
            burst, frame_rate_fps=0.2, held_mb=0.2, memory_mb=0.2, process_fps=0.2, files=0.2,
            file_to_file=0.1,
        )  # fmt: skip
        drawn = drawn_plans(burst, unsure, draws)
        for name, value, factor in (
            ("held_bytes", 80e6, HELD), ("memory_bytes", 1.2e9, MEMORY),
            ("interval_ns", 1e9 / 20, FRAME_RATE), ("encode_ns", 1e9 / 12, ENCODER),
        ):  # fmt: skip
            ratios = draws.ratios(factor, LogNormal(0.2))
            expected = value / ratios if name.endswith("_ns") else value * ratios
            np.testing.assert_allclose(drawn[name], expected, rtol=1e-6)
        sizes = drawn_holds(burst, unsure, draws)[:, 0, FILE_SIZE] / NOMINAL
        ratios = draws.ratios(FILES, LogNormal(0.2)) * draws.ratios(BURST, unsure.between_bursts)
        np.testing.assert_allclose(sizes, ratios, atol=1 / NOMINAL)

    def test_bursts_of_a_series_have_files_of_their_own_and_half_of_the_variance(self) -> None:
        burst = replace(scenario(), later_holds=(Hold(press_s=9, hold_s=1),))
        unsure = sources(burst, file_to_file=0.2)
        sizes = np.log(drawn_holds(burst, unsure, Draws(500))[..., FILE_SIZE] / NOMINAL)
        for of_burst in sizes.T:
            self.assertAlmostEqual(0.2 / math.sqrt(2), of_burst.std(), delta=0.005)
        self.assertLess(abs(np.corrcoef(sizes.T)[0, 1]), 0.15)
        frames = np.log(frame_sizes(50, 900, unsure.within_burst) / NOMINAL)
        self.assertAlmostEqual(0.2 / math.sqrt(2), frames.std(), delta=0.005)
        longer = frame_sizes(50, 2_000, unsure.within_burst)
        self.assertTrue(
            (longer[:, :900] == frame_sizes(50, 900, unsure.within_burst)[:, :900]).all()
        )

    def test_a_coupling_of_slots_that_share_the_files_may_be_any(self) -> None:
        slots = (LoadedSlot(write_mb_s=150), LoadedSlot(write_mb_s=60))
        files = (File(name="raw", mb=40), File(name="jpeg", mb=10))
        burst = scenario(slots=slots, files=files, arrangement="split")
        came = sweep([burst], [sources(burst, knows_coupling=False)], Draws(100)).frames[0]
        each = {simulate(replace(burst, coupling=one)).frames for one in COUPLINGS}
        self.assertEqual(3, len(each))
        self.assertEqual(each, set(came.tolist()))

    def test_a_coupling_that_nobody_tested_may_be_any(self) -> None:
        slots = scenario(write_mb_s=100).slots * 2
        burst = scenario(slots=slots, arrangement="mirror", coupling="parallel")
        unsure = sources(burst, knows_coupling=False)
        frames, times = np.unique(
            sweep([burst], [unsure], Draws(100)).frames[0], return_counts=True
        )
        # Serial, one writer brings both copies: half the pace. It is what one in five bodies do.
        self.assertEqual([20, 80], times.tolist())
        serial = simulate(scenario(slots=slots, arrangement="mirror", coupling="serial"))
        self.assertEqual([serial.frames, simulate(burst).frames], frames.tolist())

    def test_draws_too_small_for_one_frame_end_and_take_none(self) -> None:
        burst = scenario(memory_mb=50)
        came = sweep([burst], [sources(burst, memory_mb=0.5)], Draws(50))
        self.assertEqual(0, came.frames.min())

    def test_a_request_too_large_is_refused(self) -> None:
        for count in (0, MOST_FRAMES_IN_ALL):
            with self.assertRaisesRegex(InvalidScenario, "draws must be"):
                sweep([scenario()], [sources(scenario())], Draws(count))
