"""Strokes of simulated bursts are read back: full rate, wall, the rate after it, the stutter."""

import unittest
from itertools import accumulate

from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from engine.burst.scenario import File, LoadedSlot, Scenario
from engine.burst.simulate import simulate
from engine.measurement.strokes import Strokes


def strokes_of(
    fps: float, write_share: float, buffer_frames: int, resume: int, resolution_s: float
) -> tuple[Strokes, int | None, float]:
    """A burst with files of 10 MB as a camera notes it; its depth and its rate once full."""
    result = simulate(Scenario(
        frame_rate_fps=fps, hold_s=max(15.0, 90 / fps), memory_mb=10.0 * buffer_frames + 1,
        files=(File(name="raw", mb=10),), slots=(LoadedSlot(write_mb_s=10 * fps * write_share),),
        resume_free_frames=resume,
    ))  # fmt: skip
    times = [round(ns / 1e9 / resolution_s) * resolution_s for ns in result.taken_ns]
    return Strokes(tuple(times), resolution_s), result.frames_at_full_speed, fps * write_share


class ReadingStrokes(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(
        st.floats(4, 40), st.floats(0.15, 0.85), st.integers(4, 30), st.sampled_from([1, 1, 3, 8]),
        st.sampled_from([0.001, 0.01]),
    )  # fmt: skip
    @example(20.0, 0.8, 10, 1, 0.01)
    @example(4.0, 0.234375, 4, 1, 0.001)
    def test_a_simulated_burst_is_read_back(
        self, fps: float, share: float, buffer_frames: int, resume: int, resolution_s: float
    ) -> None:
        assume(resume < buffer_frames)
        strokes, depth, sustained_fps = strokes_of(fps, share, buffer_frames, resume, resolution_s)
        assume(depth is not None and depth > 4)
        assume(strokes.frames - depth > 2 * resume / (1 - share))  # else a wait for focus looks so
        digits = resolution_s * fps / (depth - 1)  # what the last digit leaves open of the rate
        self.assertAlmostEqual(fps, strokes.frame_rate_fps, delta=fps * (0.02 + digits))
        self.assertIsNotNone(strokes.wall)
        late_s = 1 / sustained_fps - 1 / fps  # of each frame, until it stands out of the noise
        unsure_s = 0.12 / fps + 2 * resolution_s  # the last digit counts in the rate, too
        self.assertAlmostEqual(depth, strokes.wall, delta=1 + unsure_s / late_s)
        told = strokes.sustained_fps
        self.assertAlmostEqual(sustained_fps, told, delta=0.1 * sustained_fps)

    @given(st.floats(4, 40), st.sampled_from([0.001, 0.01]), st.integers(0, 79))
    @example(10.0, 0.01, 79)
    @example(10.0, 0.01, 78)
    def test_an_even_burst_has_no_wall_even_if_one_frame_waits_for_focus(
        self, fps: float, resolution_s: float, late: int
    ) -> None:
        times = [n / fps + (0.4 if late and n >= late else 0) for n in range(80)]
        times = [round(time / resolution_s) * resolution_s for time in times]
        self.assertIsNone(Strokes(tuple(times), resolution_s).wall)

    @given(st.lists(st.floats(0, 2), min_size=2, max_size=30))
    @example([0.1] * 9 + [0.7])
    @example([0.1] * 9 + [0.7, 0.0])
    def test_what_has_a_wall_has_a_rate_after_it(self, gaps_s: list[float]) -> None:
        strokes = Strokes(tuple(accumulate(gaps_s, initial=0.0)))
        self.assertEqual(strokes.wall is None, strokes.sustained_fps is None)

    def test_of_a_late_last_frame_or_one_long_pause_it_can_not_be_told_whether_it_slowed(
        self,
    ) -> None:
        for gaps_s, slowed in (([0.1] * 9, False), ([0.1] * 9 + [0.7], None),
                               ([0.1] * 9 + [0.7] * 3, True),
                               ([0.1] * 9 + [0.7] + [0.1] * 9, False),
                               ([0.1] * 9 + [1.4] + [0.1] * 9, None)):  # fmt: skip
            self.assertEqual(slowed, Strokes(tuple(accumulate(gaps_s, initial=0.0))).slowed)

    def test_the_room_before_it_fires_again_is_told(self) -> None:
        for resume in (1, 4, 8):
            strokes, _, _ = strokes_of(20, 0.3, 20, resume, 0.01)
            self.assertAlmostEqual(resume, strokes.resume_free_frames, delta=1)

    def test_what_is_no_burst_is_refused(self) -> None:
        for times in ((), (0.0,), (0.0, -1.0), (0.0, float("nan"))):
            with self.assertRaises(ValueError):
                Strokes(times)
