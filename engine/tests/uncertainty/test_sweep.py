"""Very many bursts at once: the same answers as one at a time, and the same draws for all."""

from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from engine import InvalidScenario
from engine.burst.simulate import simulate
from engine.figures.key import Factor, FigureKind
from engine.figures.uncertainty import LogNormal, LogUniform
from engine.tests.builders import scenario, scenarios, sources
from engine.uncertainty.draws import Draws
from engine.uncertainty.sources import FACTORS
from engine.uncertainty.sweep import MOST_FRAMES_IN_ALL, sweep


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
