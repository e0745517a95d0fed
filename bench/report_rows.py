"""A report put together: predictions, and cards against each other."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from contextlib import suppress
from dataclasses import replace
from datetime import date
from itertools import combinations, islice
from urllib.parse import urlencode

from bench.engine_adapter import assumed
from bench.figure_rows import figure_rows, odds_rows
from bench.kept_speeds import kept_rows
from bench.possible_tests import TEST_HOLD_S, PossibleTests, with_own_cards
from bench.report import (
    BodyReport,
    ChangeRow,
    DifferenceRow,
    FigureRow,
    KeptSpeedRow,
    PredictionRow,
    SeenDepth,
)
from engine import InvalidScenario
from engine.figures.key import FigureKey, FigureKind
from engine.formats import exact, figure, span
from engine.measurement.assumed import AssumedSetup
from engine.measurement.by_hand import ByHand
from engine.measurement.differences import change, difference
from engine.measurement.forward import Real
from engine.measurement.learnt import LearntBody
from engine.measurement.runs import ObservedRun
from engine.measurement.surprises import surprises
from engine.uncertainty.intervals import as_counted
from engine.uncertainty.sources import FILES
from setups.setup import USUAL_HOLD_S, Setup

MOST_PREDICTIONS = 24
MOST_PAIRS = 6
DOUBTFUL = 2.0  # standard deviations that the runs of a body are off by, usually
DOUBTS = {
    "frames_at_full_speed": "Bursts don't slow where one buffer would fill: it may be another one "
    "in some formats or at high ISO, or the camera keeps some of it back.",
    "frames": "The counter doesn't follow from one steady rate: a card may slow when it is warm or "
    "nearly full, or the scenes differed more than was noted.",
    "clear_s": "The card light doesn't go out when all should be written: some bodies keep it on "
    "a while, or write something else first.",
    "frame_rate_fps": "The strokes come at another rate than the camera is set to: a lens, the "
    "aperture, flicker or the battery may slow it.",
    "files_mb": "The files have other sizes than the format, the scene and ISO let expect.",
    "did_not_slow": "Bursts that did not slow should have: the camera writes faster than other "
    "runs say.",
}


def report_of(learnt: LearntBody, setups: list[Setup], days: list[date]) -> BodyReport:
    """What `learnt` comes to; `setups` and `days` are those of its runs."""
    asked = asked_of(setups)
    predictions = predicted(learnt, asked)
    tests = [replace(asked[row.query], hold_s=TEST_HOLD_S) for row in predictions]
    tests += with_own_cards(replace(setups[0], hold_s=TEST_HOLD_S))
    possible = PossibleTests.of(learnt, tests)
    predictions = with_next(possible, asked, predictions)
    before = {row.query: row for row in predicted(LearntBody.before_runs(), asked)}
    predictions = [
        replace(row, before=before[row.query].ranges.frames_at_full_speed) for row in predictions
    ]
    figures = figure_rows(learnt, setups, possible)
    speeds = kept_rows(learnt, setups, possible)
    return BodyReport(
        speeds=speeds,
        figures=figures,
        odds=odds_rows(learnt, possible),
        predictions=predictions,
        differences=list(differences(learnt, setups)),
        changes=list(changes(learnt, setups, days)),
        doubts=list(_doubts(learnt)),
        surprises=list(_surprise_words(learnt, figures, speeds)),
    )


def with_seen(report: BodyReport, runs: Iterable[tuple[Setup, ObservedRun, bool]]) -> BodyReport:
    """The report with the burst depths that runs have shown, of whatever hold, and who fits."""
    seen: dict[str, list[SeenDepth]] = defaultdict(list)
    for setup, shot, fits in runs:
        observed = shot.observed
        frames = observed.frames if observed.did_not_slow else observed.frames_at_full_speed
        if frames is not None:
            one = SeenDepth(frames, observed.did_not_slow, fits)
            seen[urlencode(replace(setup, hold_s=USUAL_HOLD_S).address)].append(one)
    predictions = [replace(row, seen=seen[row.query]) for row in report.predictions]
    return replace(report, predictions=predictions)


def _doubts(learnt: LearntBody) -> Iterator[str]:
    """What seems wrong of the runs, or of the body, where they fit badly together."""
    if learnt.error_ratio > 1:
        yield (
            "Your runs differ more than bursts of one set-up do, and all ranges are wider for "
            "that. Look for one that was of another body, card, format or scene."
        )
    yield from (DOUBTS[name] for name, off in learnt.off_by_kind().items() if off > DOUBTFUL)


def _surprise_words(
    learnt: LearntBody, rows: list[FigureRow], speeds: list[KeptSpeedRow]
) -> Iterator[str]:
    """Each figure far from what was assumed: what it is now, and what to look at."""
    of_key, of_card = {row.key: row for row in rows}, {row.slug: row for row in speeds}
    for one in surprises(learnt):
        if one.key.kind is FigureKind.CARD and (speed := of_card.get(one.key.of)):
            kept = figure(speed.middle_mb_s, "MB/s")
            of_it = f", {speed.of_printed}" if speed.of_printed else ""
            yield f"{speed.card} keeps writing {kept}{of_it}, which is unusual: {one.why}."
        elif row := of_key.get(one.key):
            now = span(row.low, row.high, row.unit)
            before = span(row.low_before, row.high_before, row.unit)
            yield f"{row.name}: {now} by the runs, where {before} was to be expected: {one.why}."


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


def other_formats(setup: Setup) -> Iterator[AssumedSetup]:
    """The set-up in each format of its body, but for those that can't shoot at all."""
    for one in in_all_formats(setup):
        with suppress(InvalidScenario):  # a buffer that can't hold one frame of that format
            yield assumed(one)


def predicted(learnt: LearntBody, setups: dict[str, Setup]) -> list[PredictionRow]:
    """What each of `setups` would do; those that can't shoot at all are left out."""
    rows = []
    for query, setup in setups.items():
        with suppress(InvalidScenario):  # a buffer that can't hold one frame of that format
            one = assumed(setup)
            due = one.scenario.frames_due
            ranges = as_counted(learnt.predict(one.scenario, one.sources, one.figures), due)
            rows.append(PredictionRow(query, setup.name_in_body, due, ranges))
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


def differences(learnt: LearntBody, setups: list[Setup]) -> Iterator[DifferenceRow]:
    """Each two cards that were tested alone, in the format and at the rate of the first."""
    tested: dict[str, Setup] = {}
    runs: Counter[str] = Counter()
    for setup in setups:
        if len(setup.sides) == 1:
            slug = setup.sides[0].fitted.slug
            tested.setdefault(slug, setup)
            runs[slug] += 1
    for (first, setup), (second, other) in islice(combinations(tested.items(), 2), MOST_PAIRS):
        both = [replace(setup, hold_s=USUAL_HOLD_S, sides=one.sides) for one in (setup, other)]
        with suppress(InvalidScenario):
            one_gets, other_gets = (_frames(learnt, one) for one in both)
            cards = [one.sides[0].fitted for one in both]
            yield DifferenceRow(
                first=str(cards[0]),
                second=str(cards[1]),
                name=f"{setup.recording} · {setup.rate} · {exact(USUAL_HOLD_S)} s",
                frames=difference(one_gets, other_gets, min(runs[first], runs[second])),
                are_twins=cards[0].maker_and_name == cards[1].maker_and_name,
            )


def changes(learnt: LearntBody, setups: list[Setup], days: list[date]) -> Iterator[ChangeRow]:
    """Cards that write more or less than at first, by the runs in one format on them alone.

    Cards that were archived or retired since are left out.
    """
    rates: dict[tuple[str, FigureKey, str], list[tuple[int, float]]] = defaultdict(list)
    for setup, day, run in zip(setups, days, learnt.runs, strict=True):
        by_hand = ByHand(run.observed, setup.rate.fps, setup.hold_s, run.accuracy)
        if len(setup.sides) == 1 and setup.is_available and by_hand.sustained_fps:
            key = (str(setup.sides[0].fitted), run.figures[FILES], str(setup.rate))
            rates[key].append((day.toordinal(), by_hand.sustained_fps.value))
    for (card, *_), found in rates.items():
        moments, fps = zip(*sorted(found), strict=True)
        share = change(moments, fps)
        if share is not None:
            yield ChangeRow(card, share)


def _frames(learnt: LearntBody, setup: Setup) -> Real:
    """The frames that every body gets in a set-up."""
    one = assumed(setup)
    return learnt.frames_of(one.scenario, one.sources, one.figures)
