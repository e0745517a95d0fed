"""A run against what was predicted before it, and what a body's runs together say of that."""

from collections.abc import Iterable
from dataclasses import dataclass
from math import inf

from scipy.stats import binom

from bench.models import Run
from desk.prediction import Prediction
from engine.formats import signed
from engine.quantities import HIGH, LOW
from engine.uncertainty.intervals import Interval

# As `Run`, and the ranges of a prediction, call them.
NAMES = {
    "frames_at_full_speed": "frames at full speed",
    "frames": "frames in the hold",
    "clear_s": "light out, s",
}
FEWEST_TO_JUDGE = 5
MOST_PERCENT = 50  # errors are drawn up to
UNLIKELY = 0.05  # that so few are within their ranges, if these were right


@dataclass(frozen=True)
class Compared:
    """One figure of a run, measured and as it was predicted; None as an end: no wall."""

    key: str
    measured: float | None
    low: float | None
    middle: float | None
    high: float | None

    @property
    def name(self) -> str:
        """The figure in words."""
        return NAMES[self.key]

    @property
    def is_within(self) -> bool:
        """Whether it is within the 80 % range; what never slowed is within one without an end."""
        low, measured, high = map(_number, (self.low, self.measured, self.high))
        return low <= measured <= high

    @property
    def off_percent(self) -> float | None:
        """How far it is from the middle, in per cent; None where one of them has no end."""
        if self.measured is None or not self.middle:
            return None
        return 100 * (self.measured / self.middle - 1)


@dataclass(frozen=True)
class Record:
    """How well a body's runs were predicted: the figures that were, and how many came true."""

    figures: int
    within: int
    median_off_percent: float | None

    @property
    def is_poor(self) -> bool:
        """Whether so few were within their ranges that these were hardly right."""
        share = HIGH - LOW
        return self.figures >= FEWEST_TO_JUDGE and (
            float(binom.cdf(self.within, self.figures, share)) < UNLIKELY
        )


def predicted_of(prediction: Prediction) -> dict[str, list[float | None]]:
    """What a run keeps of the prediction before it; nothing where there is none."""
    if prediction.result is None:
        return {}
    of_each: dict[str, Interval] = {name: getattr(prediction.ranges, name) for name in NAMES}
    return {name: [one.low, one.middle, one.high] for name, one in of_each.items()}


def compared(run: Run) -> list[Compared]:
    """Each figure that was both predicted and measured."""
    found = []
    for key in NAMES:
        measured = getattr(run, key)
        slowed_or_not = key == "frames_at_full_speed" and run.did_not_slow
        if key in run.predicted and (measured is not None or slowed_or_not):
            found.append(Compared(key, measured, *run.predicted[key]))
    return found


def record_of(runs: Iterable[Run]) -> Record:
    """The record of all figures of several runs."""
    figures = [one for run in runs for one in compared(run)]
    off = sorted(abs(one.off_percent) for one in figures if one.off_percent is not None)
    within = sum(one.is_within for one in figures)
    return Record(len(figures), within, off[len(off) // 2] if off else None)


def _number(value: float | None) -> float:
    return inf if value is None else value


@dataclass(frozen=True)
class ErrorLine:
    """One error as a line from the middle of a box of 1,000 by 80 units, and in words."""

    at: float
    end: float
    is_within: bool
    words: str


def error_lines(runs: Iterable[Run]) -> list[ErrorLine]:
    """The errors of predictions, from the oldest run to the newest."""
    figures = [one for run in runs for one in compared(run) if one.off_percent is not None]
    lines = []
    for place, one in enumerate(figures, 1):
        off = one.off_percent or 0.0
        height = max(-1.0, min(1.0, off / MOST_PERCENT)) * 38
        at = round(1_000 * place / (len(figures) + 1), 1)
        words = f"{one.name} {signed(off)} %"
        lines.append(ErrorLine(at, round(40 - height, 1), one.is_within, words))
    return lines
