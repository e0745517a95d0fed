"""One estimated figure, with how far off it may be and why."""

import math
from dataclasses import dataclass
from statistics import NormalDist

from engine.quantities import HIGH

# Standard deviations on either side of a normal middle that hold 80 %.
Z_80 = NormalDist().inv_cdf(HIGH)


@dataclass(frozen=True)
class Estimate:
    """A figure in its own unit, the standard deviation of its logarithm, and a sentence why."""

    value: float
    spread: float
    why: str

    @property
    def low(self) -> float:
        """The lower end of the 80 % range."""
        return self.value * math.exp(-Z_80 * self.spread)

    @property
    def high(self) -> float:
        """The upper end of the 80 % range."""
        return self.value * math.exp(Z_80 * self.spread)


def spread_of_ratio(ratio: float) -> float:
    """The spread of a figure that is within the factor `ratio`, either way, in 80 %."""
    return math.log(ratio) / Z_80
