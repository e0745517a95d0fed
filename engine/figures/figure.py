"""A figure: a number, how sure it is, and why."""

from dataclasses import dataclass
from typing import Self

from engine.figures.uncertainty import Uncertainty


@dataclass(frozen=True)
class Figure:
    """A number in its own unit, how far off it may be, and a sentence why; empty: nobody asks."""

    value: float
    uncertainty: Uncertainty
    why: str = ""

    @classmethod
    def around_middle(cls, value: float, of_it: Uncertainty, why: str = "") -> Self:
        """What comes to so much `of_it`: its value is what is in the middle."""
        return cls(value * of_it.middle, of_it.around_middle, why)

    @property
    def low(self) -> float:
        """The lower end of the 80 % range."""
        return self.value * self.uncertainty.ends[0]

    @property
    def middle(self) -> float:
        """The middle of the range: a frame rate keeps the value by which the camera calls it."""
        return self.value * self.uncertainty.middle

    @property
    def high(self) -> float:
        """The upper end of the 80 % range."""
        return self.value * self.uncertainty.ends[1]


def value_of(figure: Figure | None) -> float | None:
    """Its value; None where there is no such figure."""
    return None if figure is None else figure.value
