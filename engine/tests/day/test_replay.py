"""A day is told from its frames as it was shot, and replayed as one long series is."""

from dataclasses import replace
from random import Random
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from engine import Result, Scenario
from engine.burst.scenario import Hold
from engine.burst.simulate import simulate
from engine.day.frames_taken import LATE, REPRESS_S, FramesTaken, day_as_it_was
from engine.day.presses import Presses, shoot
from engine.day.replay import replay
from engine.quantities import BYTES_IN_MB, NS_IN_S
from engine.tests.builders import scenario, scenarios


def frames_of(result: Result) -> FramesTaken:
    """The frames of a burst or a series as its files tell them."""
    mb = np.full(result.frames, result.scenario.file_bytes / BYTES_IN_MB)
    return FramesTaken(result.taken_ns / NS_IN_S, mb)


@st.composite
def days(draw: st.DrawFn, most_fps: float = 120, slower: float = 1) -> Scenario:
    """Some holds in a row by a hand, whose pauses are none that the camera could have made.

    Nor one whose cards are so many times `slower`.
    """
    any_shot = draw(scenarios())
    fps = min(any_shot.frame_rate_fps, most_fps)
    shot = replace(any_shot, frame_rate_fps=fps, hold_s=draw(st.floats(0.05, 4)))
    for number in range(draw(st.integers(0, 5))):
        so_far = simulate(shot)
        pause_s = REPRESS_S + 1.5 / shot.frame_rate_fps + draw(st.floats(0.1, 3))
        pause_s *= 1.3**number  # not as even as a camera
        last_s = so_far.taken_ns.max(initial=0) / NS_IN_S
        may_be_full = so_far.holds[-1].wall_ns is not None or (
            so_far.memory_mb_at(shot.end_ns)
            + max(6 * shot.frame_bytes / BYTES_IN_MB, 0.3 * shot.memory_mb)
            > shot.memory_mb
        )
        if may_be_full:  # when the next frame is due
            pause_s += LATE * slower * (so_far.light_out_s - last_s)
        press_s = shot.end_ns / NS_IN_S + pause_s
        hold = Hold(press_s=press_s, hold_s=draw(st.floats(0.05, 4)))
        shot = replace(shot, later_holds=(*shot.later_holds, hold))
    return shot


class ReplayedDays(TestCase):
    @given(scenarios(series=True))
    def test_a_day_is_shot_as_a_series_is_burst_by_burst(self, shot: Scenario) -> None:
        series, day = simulate(shot), replay(shot, Presses.of(shot.holds))
        for hold, burst in zip(series.holds, day.bursts, strict=True):
            self.assertEqual(hold.frames, burst.frames)
            self.assertEqual(series.full_speed_frames_of(hold), burst.frames_at_full_speed)
            self.assertEqual(shot.frames_due_in(hold.hold) - hold.frames, burst.missed)
            self.assertEqual(hold.clear_s, burst.clear_s)
        self.assertEqual(series.card_full_ns is None, day.full_burst is None)

    @given(days())
    def test_a_day_replayed_on_its_own_set_up_has_the_frames_that_it_had(
        self, shot: Scenario
    ) -> None:
        result = simulate(shot)
        if not result.frames:
            return
        day = day_as_it_was(shot, frames_of(result))
        again = replay(shot, day.presses, day.first_presses)
        seen = [frames for hold in result.holds if (frames := hold.frames)]
        self.assertEqual(seen, [burst.frames for burst in day.bursts])
        for was, is_again in zip(day.bursts, again.bursts, strict=True):
            self.assertEqual((was.frames, was.missed), (is_again.frames, is_again.missed))
            self.assertIn(is_again.frames_at_full_speed, (was.frames_at_full_speed, was.frames))
        missed_ns = result.missed_ns
        for was, hold in zip(day.bursts, (one for one in result.holds if one.frames), strict=True):
            first_ns = hold.hold.press_ns
            last_ns = result.taken_ns[hold.first_frame + hold.frames - 1]
            missed = np.count_nonzero((missed_ns >= first_ns) & (missed_ns < last_ns))
            self.assertGreaterEqual(was.missed, missed)

    @given(days())
    def test_told_how_long_bursts_were_held_it_misses_what_was_missed(self, shot: Scenario) -> None:
        result = simulate(shot)
        holds = [hold for hold in result.holds if hold.frames]
        if not holds or result.card_full_ns is not None:
            return
        firsts_ns = [int(result.taken_ns[hold.first_frame]) for hold in holds]
        told_s = {
            first_ns / NS_IN_S: (hold.hold.finger_up_ns - first_ns) / NS_IN_S
            for hold, first_ns in zip(holds, firsts_ns, strict=True)
        }
        taken = frames_of(result)
        day = day_as_it_was(shot, taken, told_s)
        for was, hold, first_ns in zip(day.bursts, holds, firsts_ns, strict=True):
            due = -((first_ns - hold.hold.finger_up_ns) // shot.frame_interval_ns)
            if was.longest_s is None:
                self.assertEqual(hold.frames, was.frames)
            else:
                self.assertEqual(due - hold.frames, was.missed)

    def test_a_frame_that_focus_made_late_is_of_its_burst_and_of_a_press_of_its_own(self) -> None:
        for late_s, bursts in ((0.0, 1), (0.1, 1), (0.19, 1), (0.3, 2), (5.0, 2)):
            times_s = np.arange(8) / 20 + np.where(np.arange(8) < 4, 0, late_s)
            day = day_as_it_was(scenario(), FramesTaken(times_s, np.full(8, 50.0)))
            with self.subTest(late_s=late_s):
                self.assertEqual(bursts, len(day.bursts))
                self.assertEqual(1 if not late_s else 2, len(day.presses.press_ns))
                self.assertEqual([0] * bursts, [burst.missed for burst in day.bursts])

    def test_what_files_show_beats_what_was_assumed_of_the_camera(self) -> None:
        """A camera that is full before it should be is told from one whose button is tapped."""
        shot = simulate(scenario(memory_mb=500, hold_s=5))
        believed = scenario(memory_mb=5_000)
        [burst] = day_as_it_was(believed, frames_of(shot)).bursts
        self.assertEqual((shot.frames, shot.frames_at_full_speed),
                         (burst.frames, burst.frames_at_full_speed))  # fmt: skip
        self.assertAlmostEqual(shot.frames_missed, burst.missed, delta=3)
        self.assertFalse(burst.is_explained)
        self.assertTrue(
            day_as_it_was(scenario(memory_mb=500), frames_of(shot)).bursts[0].is_explained
        )
        taps_s = np.cumsum([0, 0.05, 0.05, 0.05, 0.05, 0.5, 0.62, 0.45, 0.55, 0.7])
        tapped = day_as_it_was(believed, FramesTaken(taps_s, np.full(10, 50.0))).bursts
        self.assertEqual([5, 1, 1, 1, 1, 1], [burst.frames for burst in tapped])

    def test_what_is_missed_is_right_on_average_whenever_the_finger_was_up(self) -> None:
        """Also of a camera that is silent for long once it is full."""
        random = np.random.default_rng(1)
        for resume_free_frames, write_mb_s in ((1, 230), (12, 230), (1, 60)):
            shot = scenario(resume_free_frames=resume_free_frames, write_mb_s=write_mb_s)
            holds = [
                Hold(press_s=100 * number, hold_s=float(hold_s))
                for number, hold_s in enumerate(random.uniform(2, 8, 300))
            ]
            true = shoot(shot, Presses.of(holds))
            taken = FramesTaken(true.taken_ns / NS_IN_S, np.full(len(true.taken_ns), 50.0))
            missed = sum(burst.missed for burst in day_as_it_was(shot, taken).bursts)
            with self.subTest(resume_free_frames=resume_free_frames, write_mb_s=write_mb_s):
                self.assertAlmostEqual(1, missed / int(true.missed.sum()), delta=0.03)

    @given(days(most_fps=30, slower=1.4), st.floats(0.75, 1.25), st.randoms(use_true_random=False))
    def test_bursts_are_told_on_a_camera_that_is_not_quite_as_assumed(
        self, shot: Scenario, faster: float, random: Random
    ) -> None:
        """Its cards are faster or slower, it is late at times, and files tell hundredths."""
        result = simulate(shot)
        if not result.frames:
            return
        exact, interval_s = frames_of(result), 1 / shot.frame_rate_fps
        late_s = [random.uniform(0, 0.05) * interval_s for _ in exact.times_s]
        taken = FramesTaken(np.round(exact.times_s + late_s, 2), exact.mb, 0.01)
        slots = tuple(
            replace(
                slot,
                write_mb_s=slot.write_mb_s * faster,
                cache_write_mb_s=slot.cache_write_mb_s and slot.cache_write_mb_s * faster,
            )
            for slot in shot.slots
        )
        day = day_as_it_was(replace(shot, slots=slots), taken)
        seen = [hold.frames for hold in result.holds if hold.frames]
        self.assertEqual(seen, [burst.frames for burst in day.bursts])
