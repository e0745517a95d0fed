"""Where the numbers of a set-up came from, and how far off they may be."""

import math
from dataclasses import dataclass
from functools import cached_property
from statistics import median, pstdev
from typing import Literal

Source = Literal["measured_here", "measured_elsewhere", "printed", "estimated"]

# Standard deviations of the logarithm by source. The order is that of docs/model.md; the sizes are
# Ondata's own working assumptions until repeated runs on the bench give a body's own spread:
# runs with one body and card repeat within a frame or two in a hundred, the same card in another
# body within some per cent, and a class mark leaves a factor open.
SPREAD_OF_SOURCE: dict[Source, float] = {
    "measured_here": 0.02,
    "measured_elsewhere": 0.06,
    "printed": 0.10,
    "estimated": 0.20,
}
# How often each coupling is met with where nobody has tested a body: Ondata's working assumption.
ODDS_OF_COUPLING = {"parallel": 0.5, "slowest": 0.3, "serial": 0.2}


@dataclass(frozen=True)
class Between:
    """A number that lies anywhere between two ends, evenly on a scale of ratios, never outside.

    The ends are ratios to the number itself.
    """

    low: float
    high: float

    def __post_init__(self) -> None:
        if not 0 < self.low <= self.high:
            raise ValueError("the ends must be above 0, the lower one first")

    @classmethod
    def of_spread(cls, spread: float) -> "Between":
        """Evenly around the number, so that the logarithm's standard deviation is `spread`."""
        return cls(math.exp(-spread * math.sqrt(3)), math.exp(spread * math.sqrt(3)))


@dataclass(frozen=True)
class Together:
    """A number that was learnt together with others: equally likely ratios to it.

    The first ones of all of them belong together, and so on: where one is high, another that makes
    up for it is low.
    """

    ratios: tuple[float, ...]

    def __post_init__(self) -> None:
        if not self.ratios or min(self.ratios) <= 0:
            raise ValueError("there must be a ratio, and all of them above 0")

    @cached_property
    def spread(self) -> float:
        """The standard deviation of the logarithm; every set-up asks for it again."""
        return pstdev(map(math.log, self.ratios))

    @cached_property
    def middle(self) -> float:
        """The ratio that is as likely too low as too high."""
        return median(self.ratios)

    @cached_property
    def around_middle(self) -> "Together":
        """The same number by its ratios to what is in the middle; kept, as `spread` is."""
        return Together(tuple(ratio / self.middle for ratio in self.ratios))


# A number is the standard deviation of the logarithm.
Uncertainty = Source | float | Between | Together


@dataclass(frozen=True, kw_only=True)
class SlotSources:
    """How sure the numbers of one slot and its card are.

    `write` is for the card's own speeds, cached and nearly full ones too, `limit` for the most that
    the slot passes, whatever the card.
    """

    write: Uncertainty
    limit: Uncertainty = 0.0
    overhead: Uncertainty = 0.0
    cache: Uncertainty = 0.0


@dataclass(frozen=True, kw_only=True)
class Sources:
    """How sure the numbers of a set-up are; `slots` has an entry for each slot of the scenario.

    `files` is for the mean size of files. `file_to_file` is the standard deviation of the logarithm
    of their sizes: half of that variance is from burst to burst, half from frame to frame within a
    burst. A `coupling` that is estimated may be any of the three.
    """

    slots: tuple[SlotSources, ...]
    frame_rate: Uncertainty = 0.0
    held: Uncertainty = 0.0
    files: Uncertainty = 0.0
    file_to_file: float = 0.0
    memory: Uncertainty = 0.0
    encoder: Uncertainty = 0.0
    coupling: Source = "measured_here"

    @property
    def within_burst(self) -> float:
        """Standard deviation of the logarithm of file size from frame to frame in one burst."""
        return self.file_to_file / math.sqrt(2)

    @property
    def between_bursts(self) -> float:
        """The same of the mean size from burst to burst."""
        return self.file_to_file / math.sqrt(2)

    @property
    def factors(self) -> dict[str, Uncertainty]:
        """Everything that is drawn, by its name, but for sizes from frame to frame."""
        shared: dict[str, Uncertainty] = {
            "frame rate": self.frame_rate,
            "held size": self.held,
            "file size": self.files,
            "burst": self.between_bursts,
            "memory": self.memory,
            "encoder": self.encoder,
            "coupling": self.coupling,
        }
        for number, slot in enumerate(self.slots, 1):
            shared |= {
                f"card {number}": slot.write,
                f"slot {number}": slot.limit,
                f"overhead {number}": slot.overhead,
                f"cache {number}": slot.cache,
            }
        return shared


def spread_of(uncertainty: Uncertainty) -> float:
    """The standard deviation of the logarithm that follows."""
    if isinstance(uncertainty, Between):
        return math.log(uncertainty.high / uncertainty.low) / math.sqrt(12)  # of an even spread
    if isinstance(uncertainty, Together):
        return uncertainty.spread
    return uncertainty if isinstance(uncertainty, float) else SPREAD_OF_SOURCE[uncertainty]
