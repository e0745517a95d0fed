"""What to test: for one set-up, and in three minutes with one body and one card."""

from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass, replace
from urllib.parse import urlencode

from django.utils.timezone import localdate

from bench.learning import BodyLearning
from bench.models import Run
from bench.possible_tests import TEST_HOLD_S, PossibleTests, with_own_cards
from bench.report import NextRow, PredictionRow
from bench.report_rows import in_all_formats, predicted
from engine import InvalidScenario
from kit.models import RecordingFormat
from setups import keys
from setups.prediction import predict
from setups.reader import Reading
from setups.setup import Setup

SHORTEST_S, LONGEST_S = 4.0, 15.0
PAST_THE_WALL = 1.6  # times as long as full speed is likely to last
BETWEEN_S = 15.0  # to note what was seen


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
    possible, tests = PossibleTests.of(learnt, _candidates(setup)), []
    with suppress(InvalidScenario):  # as it was assumed, before runs told of a larger buffer
        tests = possible.of_frames(setup)
    return NextTests(known, tests)


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
    formats = (one for one in in_all_formats(test) if one.recording != test.recording)
    return [test, *formats, *with_own_cards(test)]


@dataclass(frozen=True)
class BurstToShoot:
    """A burst to shoot: its set-up, what it is for, and whether a run of today is of it."""

    setup: Setup
    why: str
    done: bool
    takes_s: float

    @property
    def query(self) -> str:
        """Where it is tested."""
        return urlencode(self.setup.address)


def steps_of(reading: Reading, runs: Iterable[Run]) -> list[BurstToShoot]:
    """The steps for the body and the card in its first slot; `runs` are those made of the body."""
    setup = reading.setup
    largest, smallest = _largest(setup), _smallest(setup)
    wanted = [(largest, "The largest files fill the buffer soonest: buffer and rate once full.")]
    if smallest != largest:
        wanted.append((smallest, "The smallest: is it the card or the processor that limits?"))
    wanted.append((largest, "The first one again: how much runs differ."))
    left = [_key(run.address) for run in runs if run.shot_on == localdate()]
    steps = []
    for recording, why in wanted:
        one = replace(setup, recording=recording)
        shot = predict(one).result
        full_s = LONGEST_S
        if shot is not None and shot.frames_at_full_speed is not None:
            full_s = shot.frames_at_full_speed / one.rate.fps
        hold_s = float(round(min(max(PAST_THE_WALL * full_s, SHORTEST_S), LONGEST_S)))
        one = replace(one, hold_s=hold_s)
        done = _key(one.address) in left
        if done:
            left.remove(_key(one.address))
        clear_s = shot.clear_s if shot else 0.0
        steps.append(BurstToShoot(one, why, done, hold_s + clear_s + BETWEEN_S))
    return steps


def _key(address: dict[str, str]) -> tuple[str | None, ...]:
    return tuple(address.get(key) for key in (keys.FORMAT, keys.FRAME_RATE, keys.card(1)))


def _largest(setup: Setup) -> RecordingFormat:
    return max(setup.body.formats.all(), key=lambda one: one.frame_mb)


def _smallest(setup: Setup) -> RecordingFormat:
    return min(setup.body.formats.all(), key=lambda one: one.files_mb)
