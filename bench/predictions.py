"""What a body would do in its formats by what was learnt, and which run would make that surer."""

from contextlib import suppress
from dataclasses import replace
from urllib.parse import urlencode

from bench.answer import PredictionRow
from bench.engine_adapter import assumed
from bench.possible_tests import PossibleTests
from engine import InvalidScenario
from engine.measurement.learnt import LearntBody
from setups.setup import USUAL_HOLD_S, Setup

MOST_PREDICTIONS = 24


def asked_of(setups: list[Setup]) -> dict[str, Setup]:
    """The set-ups to predict: each format of the body with the cards of each run.

    Cards that were archived or retired since are left out.
    """
    found: dict[str, Setup] = {}
    for tested in (setup for setup in setups if setup.is_available):
        for setup in in_all_formats(replace(tested, hold_s=USUAL_HOLD_S)):
            found.setdefault(urlencode(setup.address), setup)
    return dict(list(found.items())[:MOST_PREDICTIONS])


def in_all_formats(setup: Setup) -> list[Setup]:
    """The set-up in each format of its body; those of one file can't be split between slots."""
    return [
        replace(setup, recording=recording)
        for recording in setup.body.formats.all()
        if setup.arrangement is None or setup.arrangement.takes(recording)
    ]


def predicted(learnt: LearntBody, setups: dict[str, Setup]) -> list[PredictionRow]:
    """What each of `setups` would do; those that can't shoot at all are left out."""
    rows = []
    for query, setup in setups.items():
        with suppress(InvalidScenario):  # a buffer that can't hold one frame of that format
            one = assumed(setup)
            ranges = learnt.predict(one.scenario, one.sources, one.figures)
            rows.append(PredictionRow(query, setup.name_in_body, one.scenario.frames_due, ranges))
    return rows


def with_next(
    possible: PossibleTests, setups: dict[str, Setup], predictions: list[PredictionRow]
) -> list[PredictionRow]:
    """The predictions, each with the run that would tell most of it."""
    found = []
    for row in predictions:
        tests = [] if row.is_sure else possible.of_frames(setups[row.query])
        found.append(replace(row, next=tests[0] if tests else None))
    return found
