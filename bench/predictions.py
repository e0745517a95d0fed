"""What a body would do in its formats by what was learnt, and which run would make that surer."""

from contextlib import suppress
from dataclasses import replace
from urllib.parse import urlencode

import numpy as np

from bench.answer import NextRow, PredictionRow
from bench.engine_adapter import assumed
from engine import InvalidScenario
from engine.measurement.forward import Real
from engine.measurement.learnt import Learnt
from engine.measurement.next_test import Outcomes, next_test
from engine.measurement.runs import Observed
from engine.measurement.runs import Run as EngineRun
from setups.setup import USUAL_HOLD_S, Setup

MOST_PREDICTIONS = 24
TEST_HOLD_S = 8.0
SURE = 1.02  # times, from the low end to the high one: sure enough
LEAST_NARROWING = 0.1  # of a range: less is not worth a test


def asked_of(setups: list[Setup]) -> dict[str, Setup]:
    """The set-ups to predict: each format of the body with the cards of each run."""
    found: dict[str, Setup] = {}
    for tested in setups:
        for recording in tested.body.formats.all():
            split = tested.arrangement is not None and tested.arrangement.kind == "split"
            if not split or len(recording.files.all()) > 1:
                setup = replace(tested, recording=recording, hold_s=USUAL_HOLD_S)
                found.setdefault(urlencode(setup.address), setup)
    return dict(list(found.items())[:MOST_PREDICTIONS])


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
    candidates = [
        EngineRun(
            scenario=one.scenario, sources=one.sources, figures=one.figures,
            observed=Observed(frames=1),
        )
        for one in map(assumed, tests)
    ]  # fmt: skip
    outcomes = Outcomes.of(learnt, candidates)
    found = []
    for row in predictions:
        frames = np.log(frames_in(learnt, setups[row.query]) + 1)
        best = next_test(outcomes, frames)
        if best is not None and best.narrowing >= LEAST_NARROWING and row.width > SURE:
            test = tests[best.place]
            told = NextRow(urlencode(test.address), test.name_in_body, best.narrowing)
            row = replace(row, next=told)
        found.append(row)
    return found
