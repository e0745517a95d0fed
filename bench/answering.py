"""The answer that the runs of a body come to, put together from its parts."""

from dataclasses import replace
from datetime import date

from bench.answer import Answer
from bench.card_comparison import changes, differences
from bench.learnt_figures import figure_rows, odds_rows
from bench.possible_tests import TEST_HOLD_S, PossibleTests
from bench.predictions import asked_of, predicted, with_next
from engine.measurement.learnt import LearntBody
from setups.setup import Setup

DOUBTFUL = 2.0  # standard deviations that the runs of a body are off by, usually
DOUBTS = {
    "frames_at_full_speed": "Bursts don't slow where one buffer would fill: it may be another one "
    "in some formats or at high ISO, or the camera keeps some of it back.",
    "frames": "The counter doesn't follow from one steady rate: a card may slow when it is warm or "
    "nearly full, or the scenes differed more than was noted.",
    "clear_s": "The card light doesn't go out when all should be written: some bodies leave it on "
    "a while, or write something else first.",
    "frame_rate_fps": "The strokes come at another rate than the camera is set to: a lens, the "
    "aperture, flicker or the battery may slow it.",
    "files_mb": "The files have other sizes than the format, the scene and ISO let expect.",
    "did_not_slow": "Bursts that did not slow should have: the camera writes faster than other "
    "runs say.",
}


def answer_of(
    learnt: LearntBody, setups: list[Setup], days: list[date], used: list[int], unused: list[int]
) -> Answer:
    """What `learnt` comes to; `setups` and `days` are those of its runs."""
    asked = asked_of(setups)
    predictions = predicted(learnt, asked)
    tests = [replace(asked[row.query], hold_s=TEST_HOLD_S) for row in predictions]
    possible = PossibleTests.of(learnt, tests)
    predictions = with_next(possible, asked, predictions)
    return Answer(
        figures=figure_rows(learnt, setups, possible),
        odds=odds_rows(learnt, possible),
        used=used,
        wild=[used[place] for place in learnt.wild],
        unused=unused,
        predictions=predictions,
        differences=list(differences(learnt, setups)),
        changes=list(changes(learnt, setups, days)),
        doubts=[DOUBTS[name] for name, off in learnt.off_by_kind.items() if off > DOUBTFUL],
    )
