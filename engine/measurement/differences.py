"""Whether two cards differ in a body, and whether one of them slows over its life."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy  # which imports what is used of it then: a second that no start need wait for

from engine.measurement.forward import Real
from engine.quantities import HIGH, LOW, MIDDLE

ALIKE_FRAMES = 1.0  # less is no difference that anybody sees
MOST_MORE_RUNS = 20
FEWEST_RUNS = 4
SIGNIFICANT = 0.05
LEAST_CHANGE = 0.05  # a share of the rate: repeated runs differ by some per cent anyway


@dataclass(frozen=True)
class CardDifference:
    """Frames that a first card gets more than a second: middle and ends of the 80 % range.

    `more_runs` is how many more of each would tell the two apart, about; None: they are told apart,
    or alike for all that anybody sees.
    """

    low: float
    middle: float
    high: float
    more_runs: int | None

    @property
    def is_alike(self) -> bool:
        """Whether there is no difference that anybody sees."""
        return max(abs(self.low), abs(self.high)) < ALIKE_FRAMES

    @property
    def is_told(self) -> bool:
        """Whether the range leaves no doubt which one is better."""
        return self.low > 0 or self.high < 0


def difference(first: Real, second: Real, runs: int) -> CardDifference:
    """The difference of the frames of two cards in equally likely bodies, after `runs` of each.

    Ranges narrow as the root of the number of runs.
    """
    low, middle, high = map(float, np.quantile(first - second, (LOW, MIDDLE, HIGH)))
    more = None
    if low <= 0 <= high and abs(middle) >= ALIKE_FRAMES:
        towards_none = middle - low if middle > 0 else high - middle
        wanted = math.ceil(runs * (towards_none / abs(middle)) ** 2)
        more = min(max(wanted - runs, 1), MOST_MORE_RUNS)
    return CardDifference(low, middle, high, more)


def change(moments: Sequence[float], rates: Sequence[float]) -> float | None:
    """By what share a rate has changed from the first moment to the last; None: it has not.

    A straight line through the logarithms, of which chance alone would hardly make one as steep.
    """
    if len(rates) < FEWEST_RUNS or min(rates) <= 0 or max(moments) == min(moments):
        return None
    line = scipy.stats.linregress(moments, np.log(rates))
    found = math.expm1(float(line.slope) * (max(moments) - min(moments)))
    is_sure = float(line.pvalue) < SIGNIFICANT
    return found if is_sure and abs(found) > LEAST_CHANGE else None
