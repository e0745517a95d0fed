"""Runs of a subject: the same for a seed, with known odds, and no clock that could be learnt."""

from itertools import pairwise
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from engine.practice.shot_run import LONGEST_RUN_S
from engine.practice.subject_run import (
    LEVEL,
    MEAN_WAIT_S,
    PAUSE_S,
    RUNS,
    RUNS_WITH_MOMENT,
    SHORTEST_WAIT_S,
    InvalidSubjectRun,
    subject_run,
)
from engine.practice.subjects import SUBJECTS, StageKind

seeds = st.integers(1, 999_999_999)
subjects = st.sampled_from(list(SUBJECTS.values()))
numbers = st.integers(1, RUNS)
levels = st.integers(int(LEVEL.lowest), int(LEVEL.highest))
GANNET = SUBJECTS["gannet"]
LONGEST_SESSION_S = 150  # of three minutes; the rest is for reading the answers


class SubjectRuns(TestCase):
    @given(subjects, seeds, numbers, levels)
    def test_a_run_is_a_row_of_stages_that_ends_in_the_moment_or_in_nothing(
        self, subject, seed, number, level
    ) -> None:
        run = subject_run(subject, seed, number, level)
        self.assertEqual(subject_run(subject, seed, number, level), run)
        kinds = [stage.kind for stage in run.stages]
        starts = [stage.starts_s for stage in run.stages]
        self.assertTrue(all(before < after for before, after in pairwise([*starts, run.ends_s])))
        self.assertEqual((starts[0], kinds[0]), (0.0, StageKind.WAITING))
        self.assertLess(run.ends_s, LONGEST_RUN_S)
        if run.moment_s is None:
            self.assertTrue({*kinds} == {StageKind.WAITING, StageKind.BUILD_UP})
            self.assertIsNone(run.sure_sign_s)
        else:
            self.assertEqual(kinds[-2:], [StageKind.MOMENT, StageKind.AFTER])
            self.assertAlmostEqual(run.moment_s[1] - run.moment_s[0], subject.moment_s, delta=0.002)
            self.assertLess(run.final_build_up_s, run.sure_sign_s)

    @given(subjects, seeds, levels)
    def test_as_many_runs_have_a_moment_whatever_the_seed_in_three_minutes(
        self, subject, seed, level
    ) -> None:
        runs = [subject_run(subject, seed, number, level) for number in range(1, RUNS + 1)]
        self.assertEqual(sum(run.moment_s is not None for run in runs), RUNS_WITH_MOMENT)
        self.assertLess(sum(run.ends_s + PAUSE_S for run in runs), LONGEST_SESSION_S)

    def test_however_long_one_has_waited_the_next_second_is_as_likely(self) -> None:
        waits = [
            subject_run(GANNET, seed, number, 10).stages[1].starts_s - SHORTEST_WAIT_S
            for seed in range(1, 801)
            for number in range(1, RUNS + 1)
        ]

        def hazard(since_s: float) -> float:
            waiting = [wait for wait in waits if wait > since_s]
            return sum(wait <= since_s + 0.5 for wait in waiting) / len(waiting)

        for since_s in (0.0, 1.0, 2.0, 3.0):  # thereafter the cut of the longest waits shows
            self.assertAlmostEqual(hazard(since_s), hazard(0.5), delta=0.06)
        mean_s = sum(waits) / len(waits)
        self.assertAlmostEqual(mean_s, MEAN_WAIT_S * 0.843, delta=0.02)  # cut at three means

    def test_a_seed_is_the_same_run_in_years_to_come(self) -> None:
        run = subject_run(GANNET, 20261202, 3, 7)
        self.assertEqual(
            [(str(stage.kind), stage.starts_s) for stage in run.stages],
            [("waiting", 0.0), ("build_up", 1.623), ("waiting", 2.94), ("build_up", 4.343),
             ("lead", 5.064), ("moment", 5.975), ("after", 6.425)],
        )  # fmt: skip

    def test_what_no_run_has_is_refused(self) -> None:
        for seed, number, level in ((0, 1, 1), (1, 11, 1), (1, 1, 21)):
            with self.assertRaises(InvalidSubjectRun):
                subject_run(GANNET, seed, number, level)
