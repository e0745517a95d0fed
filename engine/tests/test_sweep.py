"""Very many bursts at once: the same answers as one at a time, and the same draws for all."""

from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from engine import InvalidScenario, rates, simulate
from engine.sweep import MOST_FRAMES_IN_ALL, Spread, sweep
from engine.tests.builders import scenario, scenarios


class Sweep(TestCase):
    @given(st.lists(scenarios(), min_size=1, max_size=4))
    def test_agrees_with_simulate_to_the_frame(self, bursts) -> None:
        outcomes = sweep(bursts, [Spread()] * len(bursts), draws=1)
        for number, burst in enumerate(bursts):
            result = simulate(burst)
            self.assertEqual(result.frames, outcomes.frames[number, 0])
            depth = result.frames_at_full_speed
            self.assertEqual(
                -1 if depth is None else depth, outcomes.frames_at_full_speed[number, 0]
            )
            self.assertEqual(round(result.clear_s * 1e9), outcomes.clear_ns[number, 0])
            slowest_fps = min(rates.writer_fps(burst), burst.process_fps or float("inf"))
            frame_ns = 1e9 / slowest_fps  # to the ns, and rates are read to 6 decimals
            self.assertAlmostEqual(
                frame_ns, outcomes.frame_ns[number, 0], delta=4 + 2e-6 * frame_ns
            )

    def test_draws_are_common_and_come_again(self) -> None:
        spread = Spread(frame_to_frame=0.1, file_size=0.05, write_1=0.05, memory=0.05)
        one = sweep([scenario()], [spread], draws=50)
        among_others = sweep([scenario(hold_s=9), scenario()], [spread] * 2, draws=50)
        self.assertFalse(np.ptp(one.frames) == 0)
        self.assertEqual(
            one.clear_ns[0].tolist(), sweep([scenario()], [spread], 50).clear_ns[0].tolist()
        )
        faster = sweep([scenario(), scenario(write_mb_s=240)], [spread] * 2, draws=50).frames
        self.assertTrue((faster[1] >= faster[0]).all())
        self.assertEqual(2, len(among_others.frames))

    def test_each_spread_moves_the_middle_by_what_it_should(self) -> None:
        for name in ("frame_to_frame", "file_size", "write_1", "memory"):
            frames = sweep([scenario()], [Spread(**{name: 0.05})], draws=400).frames[0]
            self.assertAlmostEqual(simulate(scenario()).frames, np.median(frames), delta=1.5)
            self.assertGreater(np.ptp(frames), 0, name)

    def test_draws_too_small_for_one_frame_end_and_take_none(self) -> None:
        outcomes = sweep([scenario(memory_mb=50)], [Spread(memory=0.5)], draws=50)
        self.assertEqual(0, outcomes.frames.min())

    def test_a_request_too_large_is_refused(self) -> None:
        for draws in (0, MOST_FRAMES_IN_ALL):
            with self.assertRaisesRegex(InvalidScenario, "draws must be"):
                sweep([scenario()], [Spread()], draws=draws)
