"""A run is flagged where other runs contradict it, and never for being unusual."""

import unittest
from collections.abc import Callable
from dataclasses import replace
from unittest.mock import Mock, patch

from engine.figures.key import FigureKey, FigureKind
from engine.measurement.contradictions import contradictions
from engine.measurement.learning import Learning
from engine.measurement.learnt import LearntBody
from engine.measurement.runs import ObservedRun
from engine.tests.measurement.test_learning import CARD_A, CARD_B, MEMORY, learnt_of, run
from engine.tests.stand_in_runs import stand_in_runs

PLAN = [run(), run("B", hold_s=8), run(recording="jpeg", hold_s=12), run("B"), run(hold_s=8)]
TAIL = 3.09  # of a normal, one in a thousand is further out
UNUSUAL = [
    MEMORY, CARD_A, CARD_B, FigureKey(FigureKind.HELD, "raw"), FigureKey(FigureKind.ENCODER, "raw"),
    FigureKey(FigureKind.SLOT, "1"), FigureKey(FigureKind.OVERHEAD, "1"),
    FigureKey.of_frame_rate(12.0),
]  # fmt: skip


def doubled(of: ObservedRun) -> ObservedRun:
    frames = (of.observed.frames or 1) * 2
    return replace(of, observed=replace(of.observed, frames=frames))


class Contradictions(unittest.TestCase):
    def test_a_run_that_was_noted_twice_as_long_is_flagged_and_it_alone(self) -> None:
        found = []
        for seed in range(6):
            _, runs = stand_in_runs(PLAN, seed)
            runs[seed % 5] = doubled(runs[seed % 5])
            found.append((seed % 5, [one.place for one in contradictions(learnt_of(runs))]))
        self.assertGreaterEqual(sum(flagged == [place] for place, flagged in found), 5, found)

    def test_of_runs_that_all_contradict_each_other_a_few_are_found_in_bounded_work(self) -> None:
        _, runs = stand_in_runs([run(hold_s=4 + place / 2) for place in range(8)], 1)
        for place in range(0, 8, 2):
            runs[place] = doubled(runs[place])
        learnt, learnings = learnt_of(runs), []
        of = LearntBody.of

        def counted(learning: Learning, advanced: Callable[[], object]) -> LearntBody:
            learnings.append(len(learning.runs))
            return of(learning, advanced)

        with (
            patch.object(LearntBody, "of", counted),
            patch("engine.measurement.contradictions.MOST_LEARNT_ANEW", 30),
        ):
            found = contradictions(learnt)
        self.assertLessEqual(sum(learnings), 30 + 3 * len(runs))
        self.assertIn(len(found), (1, 2))

        class EndedError(Exception):
            pass

        with self.assertRaises(EndedError):
            contradictions(learnt, Mock(side_effect=EndedError))

    def test_one_run_or_two_of_different_set_ups_are_never_flagged(self) -> None:
        _, runs = stand_in_runs([run(), run("B")], 1)
        for few in ([doubled(runs[0])], [runs[0], doubled(runs[1])]):
            self.assertEqual([], contradictions(learnt_of(few)))

    def test_of_two_runs_of_one_set_up_one_that_quarrels_is_flagged_and_only_then(self) -> None:
        """Whatever the body is, as no unusual one explains that they differ."""
        honest, quarrelling = [], []
        for seed in range(8):
            unusual = dict.fromkeys(UNUSUAL[:2], TAIL * (-1) ** seed) if seed > 3 else {}
            _, runs = stand_in_runs([run(), run(hold_s=8)], seed, unusual)
            honest.append([one.place for one in contradictions(learnt_of(runs))])
            runs[seed % 2] = doubled(runs[seed % 2])
            flagged = [one.place for one in contradictions(learnt_of(runs))]
            quarrelling.append(seed % 2 in flagged)
        self.assertEqual([[]] * 8, honest)
        self.assertGreaterEqual(sum(quarrelling), 7, quarrelling)

    def test_whatever_body_there_may_be_its_honest_runs_are_believed(self) -> None:
        """One figure at a time, and all of them, as far off as one body in a thousand has it."""
        unusual = [{key: side * TAIL} for key in UNUSUAL for side in (-1, 1)]
        flagged = 0
        for normals in [*unusual, dict.fromkeys(UNUSUAL, -TAIL), dict.fromkeys(UNUSUAL, TAIL)]:
            _, runs = stand_in_runs(PLAN, 4, normals)
            learnt = learnt_of(runs)
            flagged += len(contradictions(learnt))
            with self.subTest(str(normals)):
                off = [abs(misfit) for of_run in learnt.misfits for misfit in of_run.values()]
                self.assertLess(max(off), 3.5)
        self.assertLessEqual(flagged, 2)
