"""What to test for one set-up: which runs would make its prediction surer, the best first."""

from dataclasses import dataclass, replace

from bench.answer import NextRow, PredictionRow
from bench.learning import BodyLearning
from bench.possible_tests import TEST_HOLD_S, PossibleTests
from bench.predictions import in_all_formats, predicted
from setups.prediction import predict
from setups.reader import Reading
from setups.setup import Setup

MOST_CARDS = 6  # of one's own that are tried as well


@dataclass(frozen=True)
class NextTests:
    """What is known of the frames of a set-up, and the `tests` that would narrow it."""

    known: PredictionRow
    tests: list[NextRow]


def next_tests(learning: BodyLearning, reading: Reading) -> NextTests | None:
    """None where the set-up can't shoot at all, or while the runs are not learnt from."""
    learnt, setup = learning.bodies, reading.setup
    if learnt is None:
        return None
    if learning.runs:
        known = next(iter(predicted(learnt, {setup.desk_query: setup})), None)
    else:
        known = _of_the_desk(setup)
    if known is None:
        return None
    possible = PossibleTests.of(learnt, _candidates(setup))
    return NextTests(known, possible.of_frames(setup))


def _of_the_desk(setup: Setup) -> PredictionRow | None:
    """What is known of a set-up while no run has told more."""
    prediction = predict(setup)
    if prediction.result is None:
        return None
    due = prediction.result.frames_due
    return PredictionRow(setup.desk_query, setup.name_in_body, due, prediction.ranges)


def _candidates(setup: Setup) -> list[Setup]:
    """Runs that may tell something of it: itself, its other formats, and one's other cards."""
    test = replace(setup, hold_s=TEST_HOLD_S)
    found = [test, *(one for one in in_all_formats(test) if one.recording != test.recording)]
    if len(setup.sides) == 1:
        side = setup.sides[0]
        own = {str(card): card for card in side.cards if card.is_owned}
        own.pop(str(side.card), None)  # of twins one is enough
        others = list(own.values())[:MOST_CARDS]
        found += [replace(test, sides=(side.with_card(card),)) for card in others]
    return found
