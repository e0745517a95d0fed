"""How far off a number may be: a distribution of ratios to it, as a function of a standard normal.

Every kind maps standard normal numbers to ratios, so that draws, learning and ranges need to know
one distribution only (inverse transform sampling). A new kind is a class here and nothing else.
"""

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from statistics import NormalDist, median, pstdev
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.special import lambertw, ndtr, ndtri

from engine.quantities import HIGH, LOW, Range

Real = NDArray[np.float64]
Source = Literal["measured_here", "measured_elsewhere", "printed", "estimated"]

SPREAD = Range(0, 2, "of the logarithm")
# Standard deviations on either side of a normal middle that hold 80 %.
Z_80 = NormalDist().inv_cdf(HIGH)
# A number that falls on the boundary between two samples belongs to the lower one.
ROUNDING = 1e-9
MOST_LOG = 12.0  # of a ratio, 160,000 times: further out numbers are no longer computed with
_EVENLY = ndtri((np.arange(2_000) + 0.5) / 2_000)


class Uncertainty(ABC):
    """How far off a number may be."""

    order_name = ""  # of what is drawn in one order, whatever the numbers are called

    @property
    @abstractmethod
    def spread(self) -> float:
        """The standard deviation of the ratio's logarithm; 0: it is known exactly."""

    @property
    def is_exact(self) -> bool:
        """Whether it is known exactly."""
        return not self.spread

    @abstractmethod
    def ratios(self, normals: Real) -> Real:
        """What the number is multiplied by, from standard normal numbers."""

    def multiplied(self, normals: Real, log_factor: Real) -> tuple[Real, Real]:
        """The standard normal numbers whose ratios are exp(`log_factor`) times as large.

        With them what that gains in density, which is that of the ratio's logarithm; -inf where
        there is no such ratio.
        """
        return normals, np.full_like(normals, -np.inf)

    @property
    def middle(self) -> float:
        """The ratio that is as likely too low as too high."""
        return 1.0

    @property
    def around_middle(self) -> "Uncertainty":
        """The same number by its ratios to what is in the middle."""
        return self

    @cached_property
    def ends(self) -> tuple[float, float]:
        """The ratios between which four in five lie."""
        low, high = self.ratios(np.array([-Z_80, Z_80]))
        return float(low), float(high)

    @property
    def widths(self) -> tuple[float, float]:
        """How far the ends of its range are below and above its middle, in logarithms."""
        low, high = self.ends
        return math.log(self.middle / low), math.log(high / self.middle)

    @property
    def skewed_numbers(self) -> tuple[float, float, float, float] | None:
        """What `skewed_ratios` takes, where its ratios are such; so that many are drawn at once."""
        return None


@dataclass(frozen=True)
class LogNormal(Uncertainty):
    """Normal on the scale of logarithms, with this standard deviation."""

    spread: float = 0.0

    @classmethod
    def within(cls, ratio: float) -> "LogNormal":
        """Within the factor `ratio`, either way, in 80 % of cases."""
        return cls(math.log(ratio) / Z_80)

    @classmethod
    def between(cls, low: float, high: float) -> "LogNormal":
        """With an 80 % range as wide as from `low` to `high`."""
        return cls(math.log(high / low) / (2 * Z_80))

    @property
    def skewed_numbers(self) -> tuple[float, float, float, float]:
        return self.spread, self.spread, 1.0, 0.0

    @classmethod
    def product(cls, *factors: Uncertainty) -> "LogNormal":
        """That of several independent numbers multiplied, by their spreads."""
        return cls(math.hypot(*(factor.spread for factor in factors)))

    def ratios(self, normals: Real) -> Real:
        return np.asarray(np.exp(self.spread * normals))

    def multiplied(self, normals: Real, log_factor: Real) -> tuple[Real, Real]:
        moved = normals + log_factor / self.spread
        return moved, (normals**2 - moved**2) / 2


@dataclass(frozen=True)
class Skewed(Uncertainty):
    """Normal on the scale of logarithms, with a standard deviation on either side of the middle.

    For figures that are off one way rather than the other, as "up to" figures are. With a `tail`
    above 0 what is far from the middle is likelier than of a normal (Tukey's h): 0.15 makes of
    three deviations six. There is no end beyond which there is nothing.
    """

    below: float
    above: float
    middle: float = 1.0
    tail: float = 0.0

    def __post_init__(self) -> None:
        if not (self.below > 0 and self.above > 0 and self.middle > 0 and self.tail >= 0):
            raise ValueError("both spreads and the middle must be above 0, the tail not below")

    @classmethod
    def between(cls, low: float, middle: float, high: float, tail: float = 0.0) -> "Skewed":
        """By the ratio in the middle and those between which four in five lie."""
        of_widths = cls.of_widths(math.log(middle / low), math.log(high / middle), tail)
        return replace(of_widths, middle=middle)

    @classmethod
    def of_widths(cls, below: float, above: float, tail: float = 0.0) -> "Skewed":
        """By how far the ends of its range are from the middle, in logarithms."""
        deviations = Z_80 * math.exp(tail * Z_80**2 / 2)
        return cls(below / deviations, above / deviations, tail=tail)

    @property
    def is_exact(self) -> bool:
        return False  # told by its widths, without the work that its spread takes

    @cached_property
    def spread(self) -> float:
        logs = np.log(self.ratios(_EVENLY))
        return float(logs.std())

    @property
    def skewed_numbers(self) -> tuple[float, float, float, float]:
        return self.below, self.above, self.middle, self.tail

    @property
    def around_middle(self) -> "Skewed":
        return replace(self, middle=1.0)

    def ratios(self, normals: Real) -> Real:
        return skewed_ratios(normals, self.below, self.above, self.middle, self.tail)

    def multiplied(self, normals: Real, log_factor: Real) -> tuple[Real, Real]:
        logs = _skewed_logs(normals, self.below, self.above, self.tail) + log_factor
        moved = self._unstretched(logs / self._side(logs))
        return moved, self._log_density(moved) - self._log_density(normals)

    def _side(self, of: Real) -> Real:
        return np.where(of < 0, self.below, self.above)

    def _unstretched(self, stretched: Real) -> Real:
        """The normal numbers that the tail has stretched so far, by Lambert's W."""
        if not self.tail:
            return stretched
        square = lambertw(self.tail * stretched**2).real / self.tail
        return np.asarray(np.copysign(np.sqrt(square), stretched))

    def _log_density(self, normals: Real) -> Real:
        """Of the ratio's logarithm: that of the normal, less how fast the one follows the other."""
        square = self.tail * normals**2
        faster = np.log(self._side(normals)) + square / 2 + np.log1p(square)
        return np.asarray(-(normals**2) / 2 - faster)


def skewed_ratios(
    normals: Real,
    below: Real | float,
    above: Real | float,
    middle: Real | float,
    tail: Real | float,
) -> Real:
    """The ratios of `Skewed`, of many at once where its numbers are rows."""
    logs = _skewed_logs(normals, below, above, tail)
    return np.asarray(middle * np.exp(logs.clip(-MOST_LOG, MOST_LOG)))


def _skewed_logs(
    normals: Real, below: Real | float, above: Real | float, tail: Real | float
) -> Real:
    """The logarithms of its ratios to the middle: further out the tail stretches them (Tukey)."""
    return np.where(normals < 0, below, above) * normals * np.exp(tail * normals**2 / 2)


@dataclass(frozen=True)
class LogUniform(Uncertainty):
    """Anywhere between two ratios, evenly on the scale of logarithms, never outside."""

    low: float
    high: float

    def __post_init__(self) -> None:
        if not 0 < self.low <= self.high:
            raise ValueError("the ends must be above 0, the lower one first")

    @property
    def spread(self) -> float:
        return self._width / math.sqrt(12)

    @property
    def middle(self) -> float:
        return math.sqrt(self.low * self.high)

    @property
    def around_middle(self) -> "LogUniform":
        return LogUniform(self.low / self.middle, self.high / self.middle)

    @property
    def _width(self) -> float:
        return math.log(self.high / self.low)

    def ratios(self, normals: Real) -> Real:
        low, high = np.log(self.low), np.log(self.high)
        return np.asarray(np.exp(low + ndtr(normals) * (high - low)))

    def multiplied(self, normals: Real, log_factor: Real) -> tuple[Real, Real]:
        share = ndtr(normals) + log_factor / self._width
        is_within = (share > 0) & (share < 1)
        moved = np.where(is_within, ndtri(np.where(is_within, share, 0.5)), normals)
        return moved, np.where(is_within, 0.0, -np.inf)


@dataclass(frozen=True)
class JointSamples(Uncertainty):
    """Equally likely ratios of a number that was learnt together with others.

    The first ones of all of them belong together, and so on: where one is high, another that makes
    up for it is low.
    """

    samples: tuple[float, ...]

    order_name = "learnt"

    def __post_init__(self) -> None:
        if not self.samples or min(self.samples) <= 0:
            raise ValueError("there must be a ratio, and all of them above 0")

    @cached_property  # as every set-up asks for it again
    def spread(self) -> float:
        return pstdev(map(math.log, self.samples))

    @cached_property
    def middle(self) -> float:
        return median(self.samples)

    @cached_property
    def around_middle(self) -> "JointSamples":
        return JointSamples(tuple(ratio / self.middle for ratio in self.samples))

    def ratios(self, normals: Real) -> Real:
        """In the order in which they were learnt, so that they stay together with others."""
        places = np.ceil(ndtr(normals) * len(self.samples) - ROUNDING).astype(np.int64) - 1
        return np.asarray(np.take(self.samples, places, mode="clip"))

    @cached_property
    def ends(self) -> tuple[float, float]:
        low, high = np.quantile(self.samples, (LOW, HIGH))
        return float(low), float(high)


# By source. The order is that of docs/model.md; the sizes are Ondata's own working assumptions
# until repeated runs on the bench give a body's own spread: runs with one body and card repeat
# within a frame or two in a hundred, the same card in another body within some per cent, and a
# class mark leaves a factor open.
EXACT = LogNormal()
MEASURED_HERE = LogNormal(0.02)
MEASURED_ELSEWHERE = LogNormal(0.06)
PRINTED = LogNormal(0.10)
ESTIMATED = LogNormal(0.20)
OF_SOURCE: Mapping[Source, Uncertainty] = {
    "measured_here": MEASURED_HERE,
    "measured_elsewhere": MEASURED_ELSEWHERE,
    "printed": PRINTED,
    "estimated": ESTIMATED,
}
