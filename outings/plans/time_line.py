"""The time line of a planned day: its periods, the cards filling, the swaps."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.day.planned_day import PlannedDay
from engine.quantities import HIGH, LOW, MB_IN_GB, MIDDLE, S_IN_MINUTE
from pages.axes import round_steps

WIDTH, HEIGHT = 1_000, 120
STEPS = 120
ROOM_ABOVE = 1.15
MOST_TICKS = 4
LETTER_PERCENT = {"everywhere": 2.0, "wide": 0.75}  # of the width: on a phone, and on a desk


@dataclass(frozen=True)
class PeriodDrawn:
    """A period: where it lies along the axis, in per cent, and whether it is every other one.

    It begins at `clock` and lasts `minutes`.
    """

    name: str
    clock: str
    minutes: float
    percent: float
    width_percent: float
    is_other: bool
    copies: bool

    @property
    def end_percent(self) -> float:
        """Where it ends."""
        return self.percent + self.width_percent

    def shows(self, text: str) -> str:
        """On which screens `text` fits beneath it: "everywhere", "wide" ones alone, or ""."""
        widths = LETTER_PERCENT.items()
        return next((where for where, of in widths if self.width_percent > of * len(text)), "")


@dataclass(frozen=True)
class TimeLine:
    """GB written from the start of the day on, in the middle of all days, and between four in five.

    `clocks` are when its periods begin, `swaps` the moments at which cards are changed, with their
    clocks. Shapes lie in a box of WIDTH by HEIGHT.
    """

    day: PlannedDay
    clocks: Sequence[str]
    swaps: Sequence[tuple[float, str]]

    @property
    def periods(self) -> list[PeriodDrawn]:
        """All of them."""
        starts_s = self.day.plan.starts_s
        return [
            PeriodDrawn(
                one.name, clock, one.minutes, 100 * start_s / starts_s[-1],
                100 * one.lasts_s / starts_s[-1], bool(number % 2), one.copies,
            )
            for number, (one, start_s, clock) in enumerate(
                zip(self.day.plan.periods, starts_s, self.clocks, strict=False)
            )
        ]  # fmt: skip

    @property
    def minutes(self) -> float:
        """The length of the axis."""
        return self.day.plan.starts_s[-1] / S_IN_MINUTE

    @cached_property
    def _gb(self) -> NDArray[np.float64]:
        """GB written by each moment (axes: low, middle, high; moment)."""
        ends_s = self.day.plan.starts_s[-1]
        moments_s = np.linspace(0, ends_s, STEPS + 1)
        gb = np.cumsum(self.day.mb, axis=1) / MB_IN_GB
        by_moment = np.stack(
            [
                np.interp(moments_s, press_s, of_day, left=0.0)
                for press_s, of_day in zip(self.day.presses.press_s, gb, strict=True)
            ]
        )
        ranges: NDArray[np.float64] = np.quantile(by_moment, (LOW, MIDDLE, HIGH), axis=0)
        return ranges

    @cached_property
    def most_gb(self) -> float:
        """Where the axis ends."""
        return max(float(self._gb[2, -1]), 0.001) * ROOM_ABOVE

    def _y(self, gb: float) -> float:
        return round(HEIGHT * (1 - gb / self.most_gb), 1)

    def _points(self, row: int) -> list[str]:
        return [
            f"{WIDTH * number / STEPS:.0f} {self._y(float(gb))}"
            for number, gb in enumerate(self._gb[row])
        ]

    @property
    def middle(self) -> str:
        """The line of the middle."""
        return f"M{'L'.join(self._points(1))}"

    @property
    def band(self) -> str:
        """The area between the ends."""
        return f"M{'L'.join([*self._points(0), *reversed(self._points(2))])}Z"

    @property
    def swap_marks(self) -> list[tuple[float, str]]:
        """Where along the axis cards are changed, in per cent, and when."""
        ends_s = self.day.plan.starts_s[-1]
        return [(100 * swap_s / ends_s, clock) for swap_s, clock in self.swaps]

    @property
    def ticks(self) -> list[tuple[float, float]]:
        """Heights of round amounts, with these."""
        return [(self._y(gb), gb) for gb in round_steps(self.most_gb, MOST_TICKS)[1:]]
