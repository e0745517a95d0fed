"""What the runs of a body teach, as a page shows it: figures, predictions, what to test next."""

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from datetime import date
from itertools import combinations, islice
from urllib.parse import urlencode

import numpy as np

from bench.engine_adapter import assumed
from engine import InvalidScenario, Scenario
from engine.formats import exact
from engine.measurement.assumed import COVERED
from engine.measurement.by_hand import ByHand
from engine.measurement.differences import Difference, change, difference
from engine.measurement.learnt import Learnt, LearntFigure, LearntPrediction
from engine.measurement.next_test import Outcomes, next_test
from engine.measurement.population import FILE_SIZE_FACTOR
from engine.measurement.runs import Observed
from engine.measurement.runs import Run as EngineRun
from engine.uncertainty.sources import Sources
from setups.setup import USUAL_HOLD_S, Setup

MOST_PREDICTIONS = 24
MS_IN_S = 1_000
MOST_SAMPLES = 200
TEST_HOLD_S = 8.0
MOST_PAIRS = 6
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
SURE = 1.02  # times, from the low end to the high one: sure enough
LEAST_NARROWING = 0.1  # of a range: less is not worth a test
TIED = 0.3  # correlated with what the runs have told: they told something of both together
KEPT_KINDS = ("memory", "rate", "held", "files", "processor", "slot", "card")
TOLD, MOVED = 1.2, 0.8  # times narrower, half widths away: the runs have told something of it


@dataclass(frozen=True)
class FigureRow:
    """A figure by its name and unit: the assumed value, and what was learnt as ratios to it, `why`.

    `samples` are equally likely ratios to the middle, in an order that all figures share.

    `fastest_fps` is the body's fastest rate, for a processor, which matters only below it.
    """

    key: str
    name: str
    unit: str
    assumed: float
    ratios: LearntFigure
    why: str = ""
    is_tied: bool = False
    samples: str = ""
    fastest_fps: float | None = None

    @property
    def low(self) -> float:
        """The lower end of the 80 % range."""
        return self.assumed * self.ratios.low

    @property
    def middle(self) -> float:
        """As likely to be too low as too high."""
        return self.assumed * self.ratios.middle

    @property
    def high(self) -> float:
        """The upper end of the 80 % range."""
        return self.assumed * self.ratios.high

    @property
    def low_before(self) -> float:
        """The lower end of what was assumed."""
        return self.assumed * self.ratios.low_before

    @property
    def high_before(self) -> float:
        """The upper end of what was assumed."""
        return self.assumed * self.ratios.high_before

    @property
    def is_no_limit(self) -> bool:
        """Whether it is a processor that is likely to keep up with the fastest rate."""
        return self.fastest_fps is not None and self.middle > self.fastest_fps

    @property
    def is_learnt(self) -> bool:
        """Whether the runs told anything of it."""
        return self.ratios.narrowed > TOLD or self.ratios.moved > MOVED

    @property
    def is_kept(self) -> bool:
        """Whether the kit has a place for it, and it says something there."""
        kind, _, rest = self.key.partition(" ")
        has_place = kind in KEPT_KINDS and not rest.endswith(COVERED)
        return (self.is_learnt or self.is_tied) and not self.is_no_limit and has_place


@dataclass(frozen=True)
class NextRow:
    """The run to make next: its query and name, and by what share it would narrow a range."""

    query: str
    name: str
    narrowing: float


@dataclass(frozen=True)
class PredictionRow:
    """A set-up, by its query on the Desk and its name, of so many frames due, and its ranges.

    `next` is the run that would tell most of it; None where none would tell much.
    """

    query: str
    name: str
    frames_due: int
    ranges: LearntPrediction
    next: NextRow | None = None


@dataclass(frozen=True)
class DifferenceRow:
    """Two cards of a body in one set-up, which `name` says without them."""

    first: str
    second: str
    name: str
    frames: Difference
    are_twins: bool

    @property
    def less_low(self) -> float:
        """The lower end of what the second gets more, where it does."""
        return -self.frames.high

    @property
    def less_high(self) -> float:
        """The upper end."""
        return -self.frames.low


@dataclass(frozen=True)
class ChangeRow:
    """A card whose rate has changed over its runs, by that share."""

    card: str
    share: float

    @property
    def less(self) -> float:
        """By how much it writes less, where it does."""
        return -self.share


@dataclass(frozen=True)
class Answer:
    """What the runs of a body teach.

    `figures` begin with those that were narrowed most; `odds` are those of each coupling by
    arrangement; `used` the primary keys of the runs, `wild` of those that don't fit the others,
    `unused` of those whose cards are gone, or that are too many. `doubts` name the assumptions by
    which a body is not described well.
    """

    figures: list[FigureRow] = field(default_factory=list)
    odds: dict[str, dict[str, float]] = field(default_factory=dict)
    wild: list[int] = field(default_factory=list)
    used: list[int] = field(default_factory=list)
    unused: list[int] = field(default_factory=list)
    predictions: list[PredictionRow] = field(default_factory=list)
    differences: list[DifferenceRow] = field(default_factory=list)
    changes: list[ChangeRow] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)

    @property
    def widest(self) -> PredictionRow | None:
        """The prediction that is least sure, of those that a run would tell something of."""
        told = [row for row in self.predictions if row.next]
        return max(told, key=lambda row: _width(row.ranges), default=None)

    @property
    def learnt_figures(self) -> list[FigureRow]:
        """Those that the runs tell something of."""
        return [row for row in self.figures if row.is_learnt]

    @property
    def other_figures(self) -> list[FigureRow]:
        """The others."""
        return [row for row in self.figures if not row.is_learnt]


def answer_of(
    learnt: Learnt, setups: list[Setup], days: list[date], used: list[int], unused: list[int]
) -> Answer:
    """What `learnt` comes to; `setups` and `days` are those of its runs, as they are assumed."""
    rows = [
        _figure_row(key, learnt, one, setups)
        for key, one in learnt.figures.items()
        if learnt.assumed[key]
    ]
    rows = [replace(row, is_tied=_is_tied(row, rows, learnt)) for row in rows]
    asked = _asked(setups)
    predictions = _with_next(learnt, asked, _predicted(learnt, asked))
    return Answer(
        figures=sorted(rows, key=lambda row: (not row.is_learnt, -row.ratios.narrowed)),
        odds={name.partition(" ")[2]: odds for name, odds in learnt.odds.items()},
        used=used,
        wild=[used[place] for place in learnt.wild],
        unused=unused,
        predictions=predictions,
        differences=list(_differences(learnt, setups)),
        changes=list(_changes(learnt, setups, days)),
        doubts=[DOUBTS[name] for name, off in learnt.off_by_kind.items() if off > DOUBTFUL],
    )


def _differences(learnt: Learnt, setups: list[Setup]) -> Iterator[DifferenceRow]:
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
            one_gets, other_gets = (learnt.frames_of(*_parts(one)) for one in both)
            cards = [one.sides[0].fitted for one in both]
            yield DifferenceRow(
                first=str(cards[0]),
                second=str(cards[1]),
                name=f"{setup.recording} · {setup.rate} · {exact(USUAL_HOLD_S)} s",
                frames=difference(one_gets, other_gets, min(runs[first], runs[second])),
                are_twins=cards[0].maker_and_name == cards[1].maker_and_name,
            )


def _parts(setup: Setup) -> tuple[Scenario, Sources, dict[str, str]]:
    one = assumed(setup)
    return one.scenario, one.sources, one.figures


def _changes(learnt: Learnt, setups: list[Setup], days: list[date]) -> Iterator[ChangeRow]:
    """Cards that write more or less than at first, by the runs in one format on them alone."""
    rates: dict[tuple[str, ...], list[tuple[int, float]]] = defaultdict(list)
    for setup, day, run in zip(setups, days, learnt.runs, strict=True):
        by_hand = ByHand(run.observed, setup.rate.fps, setup.hold_s)
        if len(setup.sides) == 1 and by_hand.sustained_fps:
            size_name = run.figures[FILE_SIZE_FACTOR]
            key = (str(setup.sides[0].fitted), size_name, str(setup.rate))
            rates[key].append((day.toordinal(), by_hand.sustained_fps))
    for (card, *_), found in rates.items():
        moments, fps = zip(*sorted(found), strict=True)
        share = change(moments, fps)
        if share is not None:
            yield ChangeRow(card, share)


def _asked(setups: list[Setup]) -> dict[str, Setup]:
    """The set-ups to predict: each format of the body with the cards of each run."""
    found: dict[str, Setup] = {}
    for tested in setups:
        for recording in tested.body.formats.all():
            split = tested.arrangement is not None and tested.arrangement.kind == "split"
            if not split or len(recording.files.all()) > 1:
                setup = replace(tested, recording=recording, hold_s=USUAL_HOLD_S)
                found.setdefault(urlencode(setup.address), setup)
    return dict(list(found.items())[:MOST_PREDICTIONS])


def _predicted(learnt: Learnt, setups: dict[str, Setup]) -> list[PredictionRow]:
    rows = []
    for query, setup in setups.items():
        with suppress(InvalidScenario):  # a buffer that can't hold one frame of that format
            one = assumed(setup)
            ranges = learnt.predict(one.scenario, one.sources, one.figures)
            rows.append(PredictionRow(query, setup.name_in_body, one.scenario.frames_due, ranges))
    return rows


def _is_tied(row: FigureRow, rows: list[FigureRow], learnt: Learnt) -> bool:
    """Whether it goes up or down with another figure that the runs have told something of."""
    own = np.log(learnt.population.ratios(row.key))
    others = [
        np.log(learnt.population.ratios(one.key))
        for one in rows
        if one.is_learnt and one.key != row.key
    ]
    varying = [other for other in others if np.std(other) > 0 and np.std(own) > 0]
    return any(abs(np.corrcoef(own, other)[0, 1]) > TIED for other in varying)


def _why(key: str, runs: Sequence[EngineRun]) -> str:
    """Which runs tell of a figure, and by what."""
    about = [run for run in runs if key in run.figures.values()]
    seen = [run.observed for run in about]
    slowed = sum(one.frames_at_full_speed is not None or one.did_not_slow for one in seen)
    timed = sum(one.frames is not None and one.clear_s is not None for one in seen)
    told = {
        "memory": [(slowed, "when it slowed"), (timed, "frames and light out")],
        "files": [(sum(one.files_mb is not None for one in seen), "its files")],
        "rate": [(sum(one.frame_rate_fps is not None for one in seen), "each frame's moment")],
    }
    by_what = [f"{words} in {count}" for count, words in told.get(key.split()[0], []) if count]
    cards = {name for run in about for name in run.figures.values() if name.startswith("card ")}
    if key.startswith("slot") and len(cards) > 1:
        by_what.append(f"{len(cards)} cards in it")
    runs_of = f"{len(about)} run{'' if len(about) == 1 else 's'}"
    return ": ".join([runs_of, ", ".join(by_what)]) if by_what else runs_of


def _figure_row(key: str, learnt: Learnt, ratios: LearntFigure, setups: list[Setup]) -> FigureRow:
    name, unit = described(key, setups)
    shown = learnt.assumed[key] * (MS_IN_S if unit == "ms" else 1)
    samples = learnt.population.ratios(key)[:: max(1, learnt.population.count // MOST_SAMPLES)]
    of_middle = " ".join(f"{ratio / ratios.middle:.4f}" for ratio in samples[:MOST_SAMPLES])
    why = _why(key, learnt.runs)
    return FigureRow(
        key, name, unit, shown, ratios, why, samples=of_middle, fastest_fps=_fastest(key, setups)
    )


def _fastest(key: str, setups: list[Setup]) -> float | None:
    return max(setups[0].body.rate_of_fps) if key.startswith("processor") else None


def _with_next(
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
        frames = np.log(learnt.frames_of(*_parts(setups[row.query])) + 1)
        best = next_test(outcomes, frames)
        if best is not None and best.narrowing >= LEAST_NARROWING and _width(row.ranges) > SURE:
            test = tests[best.place]
            told = NextRow(urlencode(test.address), test.name_in_body, best.narrowing)
            row = replace(row, next=told)
        found.append(row)
    return found


def _width(ranges: LearntPrediction) -> float:
    low, high = ranges.frames.low or 1, ranges.frames.high or 1
    return high / max(low, 1)


def described(key: str, setups: list[Setup]) -> tuple[str, str]:
    """A figure's name in words, and its unit."""
    kind, _, rest = key.partition(" ")
    formats = {one.slug: one.name for setup in setups for one in setup.body.formats.all()}
    cards = {side.fitted.slug: str(side.fitted) for setup in setups for side in setup.sides}
    slug, _, covered = rest.partition(" ")
    of_format = formats.get(slug, slug) + (", lens covered" if covered else "")
    words = {
        "memory": ("buffer", "MB"),
        "held": (f"buffer that a frame takes, {of_format}", "MB"),
        "files": (f"files of a frame, {of_format}", "MB"),
        "processor": (f"processor, {of_format}", "fps"),
        "rate": ("frame rate", "fps"),
        "card": (cards.get(rest, rest), "MB/s"),
        "slot": (f"slot {rest} passes", "MB/s"),
        "overhead": (f"slot {rest} waits before each frame", "ms"),
        "cache": (f"cache of {cards.get(rest, rest)}", "MB"),
    }
    return words[kind]
