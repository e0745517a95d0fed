"""What is learnt of a body from a visitor's runs of it: worked out by the background worker."""

import hashlib
from contextlib import suppress
from dataclasses import dataclass, field, replace
from datetime import timedelta
from urllib.parse import urlencode

from bench.engine_adapter import assumed, engine_run
from bench.models import Run
from engine import InvalidScenario
from engine.measurement.learning import Learning
from engine.measurement.learnt import Learnt, LearntFigure, LearntPrediction
from engine.measurement.runs import Run as EngineRun
from kit.models import Body, Visitor
from pages import background
from pages.background import results
from setups.address import Kit
from setups.setup import USUAL_HOLD_S, Setup

CACHE_VERSION = 1  # raise it when the same runs would teach something else
KEPT_S = timedelta(days=30).total_seconds()
MOST_FRAMES = 60_000  # due in all runs together, so that learning takes seconds
MOST_PREDICTIONS = 24
TOLD = 1.2  # times narrower: what the runs have told something of
SHARE_S = 60  # how long a share of progress is kept


@dataclass(frozen=True)
class FigureRow:
    """A figure by its name and unit: the assumed value, and what was learnt as ratios to it.

    `fastest_fps` is the body's fastest rate, for a processor, which matters only below it.
    """

    name: str
    unit: str
    assumed: float
    ratios: LearntFigure
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
        return self.ratios.narrowed > TOLD


@dataclass(frozen=True)
class PredictionRow:
    """A set-up, by its query on the Desk and its name, of so many frames due, and its ranges."""

    query: str
    name: str
    frames_due: int
    ranges: LearntPrediction


@dataclass(frozen=True)
class Answer:
    """What the runs of a body teach.

    `figures` begin with those that were narrowed most; `odds` are those of each coupling by
    arrangement; `wild` the primary keys of runs that don't fit the others; `unused` of those whose
    cards are gone, or that are too many.
    """

    figures: list[FigureRow] = field(default_factory=list)
    odds: dict[str, dict[str, float]] = field(default_factory=dict)
    wild: list[int] = field(default_factory=list)
    unused: list[int] = field(default_factory=list)
    predictions: list[PredictionRow] = field(default_factory=list)


@dataclass(frozen=True)
class BodyLearning:
    """The runs of a body that somebody has made, and what is learnt from them."""

    body: Body
    visitor: Visitor
    runs: list[Run]

    @classmethod
    def of(cls, body: Body, visitor: Visitor) -> "BodyLearning":
        """All that are counted."""
        runs = Run.objects.filter(owner_id=visitor.pk, body=body).counted()
        return cls(body, visitor, list(runs))

    @property
    def key(self) -> str:
        """What the answer is kept under: a digest of all that it follows from."""
        kit = Kit.of(self.visitor)
        told = [repr((run.pk, engine_run(run, kit))) for run in self.runs]
        digest = hashlib.sha256("\n".join([str(CACHE_VERSION), *told]).encode()).hexdigest()
        return f"learnt:{digest[:40]}"

    @property
    def answer(self) -> Answer | None:
        """What is learnt; None while it has not been worked out."""
        found: Answer | None = results.get(self.key)
        return found

    @property
    def share(self) -> float:
        """How much of what was seen is weighed in by now."""
        share: float = results.get(f"{self.key}:share", 0.0)
        return share

    def work_out(self) -> None:
        """Learns, while anybody waits for it, and keeps the answer."""
        key, kit = self.key, Kit.of(self.visitor)
        read = [(run, engine_run(run, kit)) for run in self.runs]
        used = [(run, one) for run, one in read if one is not None and not one.observed.is_empty]
        used = _within_bounds(used)
        unused = [run.pk for run, _ in read if run.pk not in {one.pk for one, _ in used}]
        if not used:
            results.set(key, Answer(unused=unused), KEPT_S)
            return
        learning = Learning([one for _, one in used])
        while not learning.is_done:
            if not background.is_waited_for(key):
                return
            learning.advance()
            results.set(f"{key}:share", learning.share, SHARE_S)
        learnt = Learnt(learning.runs, learning.population)
        results.set(key, self._told(learnt, [run for run, _ in used], unused), KEPT_S)

    def _told(self, learnt: Learnt, used: list[Run], unused: list[int]) -> Answer:
        kit = Kit.of(self.visitor)
        setups = [reading.setup for run in used if (reading := run.reading(kit))]
        rows = [
            FigureRow(*_described(key, setups), learnt.assumed[key], one, _fastest(key, setups))
            for key, one in learnt.figures.items()
            if learnt.assumed[key]
        ]
        return Answer(
            figures=sorted(rows, key=lambda row: -row.ratios.narrowed),
            odds={name.partition(" ")[2]: odds for name, odds in learnt.odds.items()},
            wild=[used[place].pk for place in learnt.wild],
            unused=unused,
            predictions=_predicted(learnt, _asked(setups)),
        )


def _within_bounds(used: list[tuple[Run, EngineRun]]) -> list[tuple[Run, EngineRun]]:
    """The newest runs that come to no more than MOST_FRAMES."""
    kept, frames = [], 0
    for run, one in used:
        frames += one.scenario.frames_due
        if frames <= MOST_FRAMES:
            kept.append((run, one))
    return kept


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
            name = setup.name.removeprefix(f"{setup.body} · ")
            rows.append(PredictionRow(query, name, one.scenario.frames_due, ranges))
    return rows


def _fastest(key: str, setups: list[Setup]) -> float | None:
    return max(setups[0].body.rate_of_fps) if key.startswith("processor") else None


def _described(key: str, setups: list[Setup]) -> tuple[str, str]:
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
        "overhead": (f"slot {rest} waits before each frame", "s"),
        "cache": (f"cache of {cards.get(rest, rest)}", "MB"),
    }
    return words[kind]
