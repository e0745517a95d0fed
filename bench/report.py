"""What the runs of a body teach, as a page shows it: figures, predictions, what to test next."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from operator import itemgetter

from engine.figures.key import FigureKey, FigureKind
from engine.measurement.differences import CardDifference
from engine.measurement.learnt import LearntPrediction, LearntRange
from engine.quantities import MS_IN_S, NOTICED_SHARE
from engine.uncertainty.intervals import Confidence, Interval
from kit.models.body import WORDS_OF_COUPLING

KEPT_KINDS = (
    FigureKind.MEMORY, FigureKind.FRAME_RATE, FigureKind.HELD, FigureKind.FILES,
    FigureKind.ENCODER, FigureKind.SLOT,
)  # fmt: skip
# Runs tell what a card and its slot come to together: all of these are kept, or none.
KEPT_TOGETHER = (FigureKind.CARD, FigureKind.SHARE, FigureKind.OVERHEAD)
NEARLY_CERTAIN = 0.9  # odds
SURE_FRAMES, SURE = 2, 1 + NOTICED_SHARE  # from the low end to the high one; the other in times
TOLD, MOVED = 1.2, 0.8  # times narrower, half widths away: the runs have told something of it


@dataclass(frozen=True)
class NextRow:
    """A run to make next: its query and name, by what share it would narrow a range, and how long
    it takes until the card light is out.
    """

    query: str
    name: str
    narrowing: float
    effort_s: float

    @property
    def left(self) -> float:
        """What share of the range it would leave."""
        return 1 - self.narrowing


@dataclass(frozen=True)
class OddsRow:
    """How the slots may share the work in an arrangement, the odds of each, and what would tell."""

    kind: str
    odds: dict[str, float]
    next: NextRow | None = None

    @property
    def likeliest(self) -> str:
        """The coupling with the highest odds."""
        return max(self.odds, key=self.odds.__getitem__)

    @property
    def in_words(self) -> list[tuple[str, float]]:
        """What the slots may do, and the odds of that, the likeliest first."""
        ranked = sorted(self.odds.items(), key=itemgetter(1), reverse=True)
        return [(WORDS_OF_COUPLING[coupling], share) for coupling, share in ranked]

    @property
    def is_known(self) -> bool:
        """Whether the likeliest counts as measured."""
        return self.odds[self.likeliest] >= NEARLY_CERTAIN


@dataclass(frozen=True)
class FigureRow:
    """A figure, its name and unit: the assumed value, and what was learnt as ratios to it, `why`.

    `typical` is the ratio of the body in the middle of all, `samples` are equally likely ratios to
    that, in an order that all figures share.

    `fastest_fps` is the body's fastest rate, for a processor, which matters only below it. `next`
    is the run that would tell most of it; None where none would tell much.
    """

    key: FigureKey
    name: str
    unit: str
    assumed: float
    ratios: LearntRange
    why: str = ""
    is_tied: bool = False
    typical: float = 1.0
    samples: str = ""
    fastest_fps: float | None = None
    next: NextRow | None = None

    @property
    def assumed_in_kit(self) -> float:
        """The assumed value in the kit's unit: what is shown in milliseconds is kept in seconds."""
        return self.assumed / MS_IN_S if self.unit == "ms" else self.assumed

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
        if self.key.kind in KEPT_TOGETHER:
            return True
        tells_something = (self.is_learnt or self.is_tied) and not self.is_no_limit
        return tells_something and self.key.kind in KEPT_KINDS


@dataclass(frozen=True)
class KeptSpeedRow:
    """What the body keeps writing to a card in one of its slots, MB/s, and what holds it back.

    `slug` is the card's. The slot makes a `share` of any card's speed, or `is_stopped` at that.
    `of_printed` says what part of the printed speed it is; empty: none is printed. `odds` has what
    may hold it back, in words, the likeliest first; `next` the run that would tell which, None
    where none would tell much.
    """

    slug: str
    card: str
    slot: str
    low_mb_s: float
    middle_mb_s: float
    high_mb_s: float
    share: float
    is_stopped: bool
    odds: list[tuple[str, float]]
    of_printed: str = ""
    next: NextRow | None = None

    @property
    def is_known(self) -> bool:
        """Whether one thing is nearly certain to hold it back."""
        return self.odds[0][1] >= NEARLY_CERTAIN


@dataclass(frozen=True)
class SeenDepth:
    """A run's frames at full speed; all of them where it `did_not_slow`, so that there are more.

    It `fits` the others, or nothing is learnt from it yet.
    """

    frames: float
    did_not_slow: bool
    fits: bool


@dataclass(frozen=True)
class PredictionRow:
    """A set-up, by its query on the Desk and its name, of so many frames due, and its ranges.

    `before` is the range of its burst depth before any run, `seen` what the runs of it showed.
    `next` is the run that would tell most of it; None where none would tell much.
    """

    query: str
    name: str
    frames_due: int
    ranges: LearntPrediction | Confidence
    before: Interval | None = None
    seen: Sequence[SeenDepth] = ()
    next: NextRow | None = None

    @property
    def meets_wall(self) -> bool:
        """Whether the wall is within the range."""
        return self.ranges.frames_at_full_speed.low is not None

    @property
    def is_sure(self) -> bool:
        """Whether a test could make no difference that matters: nobody would notice."""
        low, high = self.ranges.frames.low or 0, self.ranges.frames.high or 0
        return high - low <= SURE_FRAMES or self.width <= SURE

    @property
    def width(self) -> float:
        """How many times the low end the high end of its frames is."""
        low, high = self.ranges.frames.low or 1, self.ranges.frames.high or 1
        return high / max(low, 1)


@dataclass(frozen=True)
class DifferenceRow:
    """Two cards of a body in one set-up, which `name` says without them."""

    first: str
    second: str
    name: str
    frames: CardDifference
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
class BodyReport:
    """What the runs of a body teach.

    `speeds` are what it keeps writing to its cards; `figures` begin with those that were narrowed
    most; `odds` are those of each coupling by arrangement; `used` the primary keys of the runs,
    `against` what is wrong with those that don't fit the others and wait for an answer, by their
    keys, `unused` the keys of those whose cards are gone, or that are too many. `doubts` name the
    assumptions by which a body is not described well, `surprises` the figures that are far from
    what was assumed.
    """

    speeds: list[KeptSpeedRow] = field(default_factory=list)
    figures: list[FigureRow] = field(default_factory=list)
    odds: list[OddsRow] = field(default_factory=list)
    against: dict[int, str] = field(default_factory=dict)
    used: list[int] = field(default_factory=list)
    unused: list[int] = field(default_factory=list)
    predictions: list[PredictionRow] = field(default_factory=list)
    differences: list[DifferenceRow] = field(default_factory=list)
    changes: list[ChangeRow] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)
    surprises: list[str] = field(default_factory=list)

    @property
    def widest(self) -> PredictionRow | None:
        """The prediction that is least sure, of those that a run would tell something of."""
        told = [row for row in self.predictions if row.next]
        return max(told, key=lambda row: row.width, default=None)

    @property
    def with_wall(self) -> list[PredictionRow]:
        """The set-ups that meet the wall in more than one burst of ten."""
        return [row for row in self.predictions if row.meets_wall]

    @property
    def without_wall(self) -> list[PredictionRow]:
        """The others: one sentence says all of them."""
        return [row for row in self.predictions if not row.meets_wall]

    @property
    def is_wall_possible(self) -> bool:
        """Whether one of these meets it all the same, once in a while."""
        return any(row.ranges.wall_share for row in self.without_wall)

    @property
    def learnt_figures(self) -> list[FigureRow]:
        """Those that the runs tell something of."""
        return [row for row in self.figures if row.is_learnt]

    @property
    def other_figures(self) -> list[FigureRow]:
        """The others."""
        return [row for row in self.figures if not row.is_learnt]
