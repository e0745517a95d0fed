"""What a body would do in its formats by what was learnt, and which run would make that surer."""

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from urllib.parse import urlencode

import numpy as np

from bench.answer import NextRow, PredictionRow
from bench.engine_adapter import assumed
from engine import InvalidScenario
from engine.measurement.forward import Real
from engine.measurement.learnt import Learnt
from engine.measurement.next_test import Outcomes, ranked_tests
from engine.measurement.runs import Observed
from engine.measurement.runs import Run as EngineRun
from setups.setup import USUAL_HOLD_S, Setup

MOST_PREDICTIONS = 24
TEST_HOLD_S = 8.0
LEAST_NARROWING = 0.1  # of a range: less is not worth a test


def asked_of(setups: list[Setup]) -> dict[str, Setup]:
    """The set-ups to predict: each format of the body with the cards of each run."""
    found: dict[str, Setup] = {}
    for tested in setups:
        for setup in in_all_formats(replace(tested, hold_s=USUAL_HOLD_S)):
            found.setdefault(urlencode(setup.address), setup)
    return dict(list(found.items())[:MOST_PREDICTIONS])


def in_all_formats(setup: Setup) -> list[Setup]:
    """The set-up in each format of its body; those of one file can't be split between slots."""
    is_split = setup.arrangement is not None and setup.arrangement.kind == "split"
    return [
        replace(setup, recording=recording)
        for recording in setup.body.formats.all()
        if not is_split or len(recording.files.all()) > 1
    ]


def predicted(learnt: Learnt, setups: dict[str, Setup]) -> list[PredictionRow]:
    """What each of `setups` would do; those that can't shoot at all are left out."""
    rows = []
    for query, setup in setups.items():
        with suppress(InvalidScenario):  # a buffer that can't hold one frame of that format
            one = assumed(setup)
            ranges = learnt.predict(one.scenario, one.sources, one.figures)
            rows.append(PredictionRow(query, setup.name_in_body, one.scenario.frames_due, ranges))
    return rows


def frames_in(learnt: Learnt, setup: Setup) -> Real:
    """The frames that every body gets in a set-up."""
    one = assumed(setup)
    return learnt.frames_of(one.scenario, one.sources, one.figures)


def with_next(
    learnt: Learnt, setups: dict[str, Setup], predictions: list[PredictionRow]
) -> list[PredictionRow]:
    """The predictions, each with the run that would tell most of it."""
    tests = [replace(setups[row.query], hold_s=TEST_HOLD_S) for row in predictions]
    outcomes = Outcomes.of(learnt, list(map(_candidate, tests)))
    found = []
    for row in predictions:
        ranked = [] if row.is_sure else _ranked(learnt, setups[row.query], tests, outcomes)
        found.append(replace(row, next=ranked[0] if ranked else None))
    return found


def tests_for(learnt: Learnt, setup: Setup, tests: Sequence[Setup]) -> list[NextRow]:
    """Which of `tests` would narrow the frames of a set-up, the best first."""
    can_shoot, candidates = [], []
    for test in tests:
        with suppress(InvalidScenario):
            candidates.append(_candidate(test))
            can_shoot.append(test)
    return _ranked(learnt, setup, can_shoot, Outcomes.of(learnt, candidates))


def _candidate(setup: Setup) -> EngineRun:
    """A run that could be made; what it would show is not known yet."""
    one = assumed(setup)
    return EngineRun(
        scenario=one.scenario, sources=one.sources, figures=one.figures,
        observed=Observed(frames=1),
    )  # fmt: skip


def _ranked(
    learnt: Learnt, setup: Setup, tests: Sequence[Setup], outcomes: Outcomes
) -> list[NextRow]:
    one = assumed(setup)
    of_bursts = learnt.frames_of_bursts(one.scenario, one.sources, one.figures)
    return [
        NextRow(
            urlencode(tests[one.place].address), tests[one.place].name_in_body, one.narrowing,
            one.effort_s,
        )
        for one in ranked_tests(
            outcomes, np.log(frames_in(learnt, setup) + 1), np.log(of_bursts + 1)
        )
        if one.narrowing >= LEAST_NARROWING
    ]  # fmt: skip
