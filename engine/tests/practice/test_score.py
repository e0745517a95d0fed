"""What presses keep of the moment: laws over random cameras, runs and presses."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from engine.burst.scenario import HOLD_S, Hold
from engine.practice.presses import ImpossiblePresses, holds_of_presses
from engine.practice.rhythms import RhythmKind, better_rhythm
from engine.practice.score import Score, best_presses, has_succeeded
from engine.practice.shot_run import PlayedRun, ShotRun, never_full
from engine.practice.subject_run import SubjectRun, SubjectStage, subject_run
from engine.practice.subjects import SUBJECTS, StageKind
from engine.quantities import NS_IN_S
from engine.tests.builders import scenario, scenarios
from engine.tests.practice.test_subject_run import levels, numbers, seeds, subjects


@st.composite
def presses(draw: st.DrawFn, ends_s: float) -> tuple[Hold, ...]:
    """Presses that somebody can have made in a run."""
    moments = draw(st.lists(st.integers(0, int(1_000 * ends_s)), max_size=12, unique=True))
    moments = sorted(moments)
    pairs = zip(moments[::2], moments[1::2], strict=False)
    return holds_of_presses([(down / 1_000, up / 1_000) for down, up in pairs], ends_s)


@st.composite
def played_runs(draw: st.DrawFn) -> PlayedRun:
    run = subject_run(draw(subjects), draw(seeds), draw(numbers), draw(levels))
    return PlayedRun(run, draw(presses(run.ends_s)))


@st.composite
def shot_runs(draw: st.DrawFn, cached: bool = True) -> ShotRun:
    """A run, and up to two before it, on any set-up."""
    burst = never_full(draw(scenarios()))
    if not cached:
        plain = {"cache_mb": 0.0, "cache_write_mb_s": None, "cache_flush_mb_s": None}
        burst = replace(burst, slots=tuple(replace(slot, **plain) for slot in burst.slots))
    earlier = draw(st.lists(played_runs(), max_size=2))
    return ShotRun(burst, earlier, draw(played_runs()))


def a_run(*stages: tuple[StageKind, float], ends_s: float = 6.0) -> SubjectRun:
    return SubjectRun(stages=tuple(SubjectStage(*stage) for stage in stages), ends_s=ends_s)


DIVE = a_run(
    (StageKind.WAITING, 0), (StageKind.BUILD_UP, 2), (StageKind.LEAD, 3), (StageKind.MOMENT, 4),
    (StageKind.AFTER, 4.45),
)  # fmt: skip


class Laws(TestCase):
    @given(shot_runs(cached=False))
    def test_no_press_keeps_more_than_the_best_one(self, shot) -> None:
        assume(shot.run.moment_s)
        best = shot.with_presses(best_presses(shot))
        self.assertLessEqual(shot.kept, best.kept)

    @given(shot_runs(), st.floats(0.1, 1))
    def test_the_best_press_scores_highest(self, shot, reaction_s) -> None:
        score = Score(shot, reaction_s)
        assume(score.possible)
        self.assertEqual(Score(score.best, reaction_s).share, 1.0)
        self.assertLessEqual(score.kept, score.best.kept)

    @given(shot_runs(), st.floats(0.01, 1))
    def test_a_longer_hold_never_gains_the_same_moment_twice(self, shot, more_s) -> None:
        assume(shot.run.moment_s and shot.played.presses)
        *others, last = shot.played.presses
        longer = shot.with_presses([*others, replace(last, hold_s=last.hold_s + more_s)])
        self.assertGreaterEqual(longer.kept, shot.kept)
        if last.press_s + last.hold_s >= shot.run.moment_s[1]:
            self.assertEqual(longer.kept, shot.kept)

    @given(shot_runs())
    def test_what_was_shown_while_the_finger_was_down_is_what_counts(self, shot) -> None:
        assume(shot.played.presses)
        *others, last = shot.played.presses
        held_on = shot.with_presses([*others, replace(last, hold_s=shot.run.ends_s + 1)])
        up_ns = last.finger_up_ns
        shown = held_on.taken_ns[held_on.taken_ns < up_ns]
        np.testing.assert_array_equal(shown, shot.taken_ns)

    @given(shot_runs())
    def test_a_run_is_not_changed_by_those_after_it(self, shot) -> None:
        assume(shot.earlier)
        *before, last = shot.earlier
        alone = ShotRun(shot.scenario, before, last)
        assume(alone.result)
        frames = alone.result.frames
        np.testing.assert_array_equal(alone.result.taken_ns, shot.result.taken_ns[:frames])
        moments_ns, used_bytes = alone.memory
        since = np.searchsorted(moments_ns, shot.starts_ns - alone.starts_ns, side="right")
        _, found_bytes = shot.with_presses(()).memory
        self.assertEqual(found_bytes[0], used_bytes[since - 1])

    @given(shot_runs(), st.floats(0.1, 0.5))
    def test_a_rhythm_that_is_told_keeps_more_and_no_more_than_the_best(self, shot, reaction_s):
        score = Score(shot, reaction_s)
        better = better_rhythm(score)
        if better:
            self.assertGreater(better.kept, score.kept)
            self.assertEqual(shot.with_presses(better.rhythm.presses).kept, better.kept)


class WorkedByHand(TestCase):
    def shot(self, *presses: tuple[float, float], **changes: object) -> ShotRun:
        burst = never_full(scenario(**{"write_mb_s": 100, "memory_mb": 500} | changes))
        return ShotRun(burst, [], PlayedRun(DIVE, holds_of_presses(presses, DIVE.ends_s)))

    def test_the_build_up_burns_the_buffer(self) -> None:
        # Ten frames of 50 MB, and one more as the first is written after half a second.
        shot = self.shot((3.4, 4.5))
        score = Score(shot, reaction_s=0.25)
        self.assertEqual((score.kept, score.possible), (1, 9))
        self.assertAlmostEqual(score.early_s, 0.6)
        self.assertAlmostEqual(score.wall_s, 3.95)
        rhythm, kept = better_rhythm(score)
        self.assertEqual((rhythm.kind, kept), (RhythmKind.WAIT_FOR_MOMENT, 9))

    def test_half_a_second_of_the_finger_up_is_told_with_what_the_subject_did(self) -> None:
        held = self.shot((2.9, 4.5), memory_mb=850, write_mb_s=150)
        rhythm, kept = better_rhythm(Score(held, reaction_s=0.25))
        self.assertEqual((rhythm.kind, rhythm.pause_s), (RhythmKind.LET_GO, 0.5))
        self.assertEqual(rhythm.during, StageKind.LEAD)
        self.assertGreater(kept, held.kept)

    def test_runs_carry_over(self) -> None:
        full = PlayedRun(DIVE, holds_of_presses([(0.5, 6.0)], DIVE.ends_s))
        shot = ShotRun(never_full(scenario(write_mb_s=10, memory_mb=500)), [full],
                         PlayedRun(DIVE, ()))  # fmt: skip
        _, used_bytes = shot.memory
        self.assertGreater(used_bytes[0], 0)
        self.assertLess(Score(shot, 0.25).possible, 9)

    def test_letting_go_ends_a_silence(self) -> None:
        shot = self.shot(resume_free_frames=8)
        held = shot.with_presses(holds_of_presses([(4.0, 4.45)], DIVE.ends_s))
        best = Score(held, 0.25).best
        self.assertEqual((held.kept, best.kept), (9, 9))
        slow = self.shot(resume_free_frames=3, memory_mb=200, write_mb_s=500)
        held = slow.with_presses(holds_of_presses([(4.0, 4.45)], DIVE.ends_s))
        self.assertGreater(Score(held, 0.25).best.kept, held.kept)

    def test_reaction_is_taken_out_where_no_sign_comes_before(self) -> None:
        gate = a_run((StageKind.WAITING, 0), (StageKind.BUILD_UP, 1), (StageKind.MOMENT, 2),
                     (StageKind.AFTER, 2.8), ends_s=3.8)  # fmt: skip
        shot = ShotRun(never_full(scenario()), [], PlayedRun(gate, (Hold(press_s=2.3, hold_s=1),)))
        self.assertEqual(Score(shot, 0.3).share, 1.0)
        self.assertEqual(Score(shot, 0.1).share, 10 / 14)

    def test_a_run_without_a_moment_has_nothing_to_keep(self) -> None:
        nothing = a_run((StageKind.WAITING, 0), (StageKind.BUILD_UP, 1), (StageKind.WAITING, 2))
        shot = ShotRun(never_full(scenario()), [], PlayedRun(nothing, (Hold(press_s=1, hold_s=1),)))
        score = Score(shot, 0.25)
        self.assertEqual((score.kept, score.share, has_succeeded(0, 0)), (0, None, None))
        self.assertEqual(shot.frames, 20)


class Presses(TestCase):
    def test_what_nobody_can_have_pressed_is_refused_in_a_sentence(self) -> None:
        cases = {
            "at most": [(n / 100, n / 100) for n in range(96)],
            "times in a second": [(n / 1000, n / 1000) for n in range(40)],
            "before the finger was up": [(1, 2), (1.5, 3)],
            "must not end before it begins": [(2, 1)],
            "nor begin before the run": [(-1, 1)],
            "after the end of the run": [(1, 6.01)],
            "needs the moments": [(1, float("nan"))],
        }
        for words, pressed in cases.items():
            with self.subTest(words), self.assertRaisesRegex(ImpossiblePresses, words):
                holds_of_presses(pressed, 6)

    def test_a_touch_shorter_than_a_millisecond_counts_as_one(self) -> None:
        [hold] = holds_of_presses([(1, 1)], 6)
        self.assertEqual(hold.finger_up_ns - hold.press_ns, HOLD_S.lowest * NS_IN_S)

    def test_no_camera_fires_faster_than_its_rate(self) -> None:
        taps = holds_of_presses([(n / 20, n / 20 + 0.01) for n in range(40)], 6)
        shot = ShotRun(never_full(scenario(frame_rate_fps=5)), [], PlayedRun(DIVE, taps))
        self.assertEqual(shot.frames, 10)
        self.assertGreaterEqual(np.diff(shot.taken_ns).min(), 0.2 * NS_IN_S)


class Subjects(TestCase):
    def test_every_moment_outlasts_a_usual_reaction(self) -> None:
        for subject in SUBJECTS.values():
            self.assertGreater(subject.moment_s, 0.3)
