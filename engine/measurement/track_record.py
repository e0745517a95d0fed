"""What was measured against what was predicted before it, and how often the ranges held."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import hypot, inf, isinf
from statistics import median

from scipy.special import bdtr

from engine.figures.uncertainty import Z_80
from engine.quantities import HIGH, LOW

FEWEST_TO_JUDGE = 5
UNLIKELY = 0.05  # that so few are within their ranges, if these were right


@dataclass(frozen=True, kw_only=True)
class Compared:
    """One figure, measured with a standard `deviation`, and as it was predicted.

    None, as an end or as measured: no wall.
    """

    key: str
    measured: float | None
    deviation: float
    low: float | None
    middle: float | None
    high: float | None

    @property
    def is_within(self) -> bool:
        """Whether it is within the 80 % range, the error of measuring it counted in."""
        low, middle, measured, high = map(
            _number, (self.low, self.middle, self.measured, self.high)
        )
        error = Z_80 * self.deviation
        if isinf(middle):
            return low - error <= measured
        below, above = hypot(middle - low, error), hypot(high - middle, error)
        return -below <= measured - middle <= above

    @property
    def is_between(self) -> bool:
        """Whether it lies between the ends, its own error left aside."""
        low, measured, high = map(_number, (self.low, self.measured, self.high))
        return low <= measured <= high

    @property
    def off_percent(self) -> float | None:
        """How far it is from the middle, in per cent; None where one of them has no end."""
        if self.measured is None or not self.middle:
            return None
        return 100 * (self.measured / self.middle - 1)


@dataclass(frozen=True)
class TrackRecord:
    """How well several figures were predicted."""

    of_figures: Sequence[Compared]

    @property
    def figures(self) -> int:
        """How many figures there are."""
        return len(self.of_figures)

    @cached_property
    def within(self) -> int:
        """How many of them are within their ranges."""
        return sum(one.is_within for one in self.of_figures)

    @property
    def median_off_percent(self) -> float | None:
        """The usual error; None where there is none to tell."""
        off = [abs(one.off_percent) for one in self.of_figures if one.off_percent is not None]
        return median(off) if off else None

    @property
    def is_poor(self) -> bool:
        """Whether so few were within their ranges that these were hardly right."""
        share = HIGH - LOW
        return self.figures >= FEWEST_TO_JUDGE and (
            float(bdtr(self.within, self.figures, share)) < UNLIKELY
        )


def _number(value: float | None) -> float:
    return inf if value is None else value
