"""The goals of a need, each with its rule: when it is asked for, what meets it, and how it is said.

A new goal is a class here, with a place among GOALS, and nothing else changes.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from engine.formats import exact, figure, odds
from engine.quantities import S_IN_MINUTE
from engine.selection.kernels import worst_burst
from engine.selection.requirements import Need

Real = NDArray[np.float64]
Money = Callable[[float], str]  # an amount in hundredths of the currency, in words
NOTHING = 1e-9  # in place of a limit of 0, to divide by


@dataclass(frozen=True, kw_only=True)
class Reached:
    """What one option comes to at nominal values, or many as arrays.

    `price_cents` and `copy_s` are None where no price is known and where no reader takes a card;
    in arrays they are not asked for.
    """

    copies: Any
    price_cents: Any
    day_frames: Any
    copy_s: Any
    full_speed_s: Any
    frames: Any
    picture_s: Any
    clear_s: Any


class WithoutBursts(Protocol):
    """The criteria of many options that need no burst simulation."""

    @property
    def copies(self) -> int:
        """How many copies of each file are written."""

    def affordable(self, most_cents: int) -> Real:
        """1 for those that cost no more, and whose price is known; else 0."""

    def day_chance(self) -> Real:
        """The share of draws in which the cards have room for the day."""

    def copied_chance(self, within_s: float) -> Real:
        """The share of draws in which copying takes no longer."""


class Goal:
    """One part of a need."""

    name = ""
    unit = ""
    late = ""  # said of what is too much: "too late"
    met_in = "bursts"  # or days: what its odds are of
    more_is_better = False
    has_odds = True
    has_margin = True
    is_certain_first = False  # must be met before options are compared by price
    burst_column: int | None = None  # of `worst_burst`, where a burst meets or misses it

    def __str__(self) -> str:
        return self.name

    def is_asked(self, need: Need) -> bool:
        """Whether the need asks for it."""
        return self._asked(need) is not None

    def wanted(self, need: Need, frame_rate_fps: float) -> float:
        """What is asked for, in its own unit."""
        return self._asked(need) or 0.0

    def reached(self, reached: Reached) -> Any:
        """What comes of it in the same unit; None: not known."""
        raise NotImplementedError

    def chance(self, simple: WithoutBursts, need: Need) -> Real | None:
        """The share of draws that meet it; None: only bursts tell."""
        return None

    def margin(self, reached: Reached, need: Need, frame_rate_fps: float) -> Real:
        """How far each option exceeds what is asked, as a share of it; below 0 where it misses."""
        share = self.reached(reached) / max(self.wanted(need, frame_rate_fps), NOTHING)
        return np.asarray(share - 1 if self.more_is_better else 1 - share)

    def odds_words(self, share: float, draws: int, need: Need) -> str:
        """How often it is met: of a need that comes again, by the worst burst of the series."""
        comes_again = self.met_in == "bursts" and need.every_s is not None
        return odds(share, draws, "series of bursts" if comes_again else self.met_in)

    def wanted_words(self, need: Need, money: Money) -> str:
        """As it is asked for."""
        raise NotImplementedError

    def reached_words(self, reached: Reached, need: Need, money: Money) -> str:
        """What an option reaches of it."""
        return f"after {figure(self.reached(reached), self.unit)}"

    def comes_to_words(self, value: float, need: Need) -> str:
        """That an option comes to so much: "light out after 4 s"."""
        raise NotImplementedError

    def missed_words(
        self, wanted: float, reached: float | None, often: str, need: Need, money: Money
    ) -> str:
        """Why an option fails it: by how much, or where it reaches it, how seldom."""
        if reached is None:
            return self.unknown_words
        said, worst = self.comes_to_words(reached, need), self._worst_words(need)
        is_told = figure(reached) != figure(wanted)
        if (reached < wanted) is not self.more_is_better or not is_told:
            return f"{said}{worst}, but only {often}"
        if self.more_is_better:
            return f"{said} of the {figure(wanted, self.unit)} you want{worst}"
        return f"{said}, {figure(reached - wanted, self.unit)} {self.late}"

    unknown_words = ""

    def _worst_words(self, need: Need) -> str:
        """Of bursts that repeat, the worst counts."""
        return " in the worst burst" if need.every_s and self.more_is_better else ""

    def _asked(self, need: Need) -> float | None:
        raise NotImplementedError


class _Copies(Goal):
    name = "copies"
    has_odds = has_margin = False
    is_certain_first = True

    def _asked(self, need: Need) -> float | None:
        return need.copies if need.copies > 1 else None

    def reached(self, reached: Reached) -> Any:
        return reached.copies

    def chance(self, simple: WithoutBursts, need: Need) -> Real | None:
        return np.array(float(simple.copies >= need.copies))

    def wanted_words(self, need: Need, money: Money) -> str:
        return "two copies"

    def reached_words(self, reached: Reached, need: Need, money: Money) -> str:
        return "two copies" if reached.copies > 1 else "one copy"

    def missed_words(
        self, wanted: float, reached: float | None, often: str, need: Need, money: Money
    ) -> str:
        return "one copy only, where two are asked for"


class _Budget(Goal):
    name = "budget"
    has_odds = has_margin = False
    unknown_words = "its price is not known"

    def _asked(self, need: Need) -> float | None:
        return need.budget_cents

    def reached(self, reached: Reached) -> Any:
        return reached.price_cents

    def chance(self, simple: WithoutBursts, need: Need) -> Real | None:
        return simple.affordable(need.budget_cents or 0)

    def wanted_words(self, need: Need, money: Money) -> str:
        return f"{money(need.budget_cents or 0)} at most"

    def reached_words(self, reached: Reached, need: Need, money: Money) -> str:
        known = reached.price_cents is not None
        return money(reached.price_cents) if known else "price not known"

    def missed_words(
        self, wanted: float, reached: float | None, often: str, need: Need, money: Money
    ) -> str:
        if reached is None:
            return self.unknown_words
        return f"{money(abs(wanted - reached))} over {money(wanted)}"


class _Day(Goal):
    name, unit, met_in = "frames a day", "frames", "days"
    more_is_better = is_certain_first = True

    def is_asked(self, need: Need) -> bool:
        return need.names_a_day

    def wanted(self, need: Need, frame_rate_fps: float) -> float:
        return need.day_frames(frame_rate_fps) or 0

    def reached(self, reached: Reached) -> Any:
        return reached.day_frames

    def chance(self, simple: WithoutBursts, need: Need) -> Real | None:
        return simple.day_chance()

    def wanted_words(self, need: Need, money: Money) -> str:
        if need.frames_a_day:
            return f"{figure(need.frames_a_day)} frames a day"
        return f"room for {exact(need.goes_on_min or 0)} min of it"

    def reached_words(self, reached: Reached, need: Need, money: Money) -> str:
        return f"room for {figure(reached.day_frames)} frames"

    def comes_to_words(self, value: float, need: Need) -> str:
        return f"{figure(value)} frames fit"

    def _worst_words(self, need: Need) -> str:
        return ""


class _Copied(Goal):
    name, unit, late, met_in = "copied in time", "min", "too long", "days"
    is_certain_first = True
    unknown_words = "no reader takes it"

    def _asked(self, need: Need) -> float | None:
        return need.copied_min

    def reached(self, reached: Reached) -> Any:
        return None if reached.copy_s is None else reached.copy_s / S_IN_MINUTE

    def chance(self, simple: WithoutBursts, need: Need) -> Real | None:
        return simple.copied_chance((need.copied_min or 0) * S_IN_MINUTE)

    def wanted_words(self, need: Need, money: Money) -> str:
        return f"copied within {exact(need.copied_min or 0)} min"

    def reached_words(self, reached: Reached, need: Need, money: Money) -> str:
        minutes = self.reached(reached)
        return self.unknown_words if minutes is None else figure(minutes, "min")

    def comes_to_words(self, value: float, need: Need) -> str:
        return f"copying takes {figure(value, 'min')}"


class _FullSpeed(Goal):
    name, unit = "full speed", "s"
    more_is_better = True
    burst_column = worst_burst.FULL_RATE

    def _asked(self, need: Need) -> float | None:
        return need.full_rate_s

    def reached(self, reached: Reached) -> Any:
        return reached.full_speed_s

    def wanted_words(self, need: Need, money: Money) -> str:
        return f"full speed for {exact(need.full_rate_s or 0)} s"

    def reached_words(self, reached: Reached, need: Need, money: Money) -> str:
        full_s = reached.full_speed_s
        return "all of it" if full_s >= need.lasts_s else f"full speed for {figure(full_s, 's')}"

    def comes_to_words(self, value: float, need: Need) -> str:
        return f"full speed lasts {figure(value, 's')}"


class _Frames(Goal):
    name, unit = "frames", "frames"
    more_is_better = True
    burst_column = worst_burst.ENOUGH

    def _asked(self, need: Need) -> float | None:
        return need.frames

    def reached(self, reached: Reached) -> Any:
        return reached.frames

    def wanted_words(self, need: Need, money: Money) -> str:
        return self.comes_to_words(need.frames or 0, need)

    def reached_words(self, reached: Reached, need: Need, money: Money) -> str:
        return f"{figure(reached.frames)} frames"

    def comes_to_words(self, value: float, need: Need) -> str:
        return f"{figure(value)} frames in {exact(need.counted_in_s)} s"


class _Picture(Goal):
    name, unit, late = "picture to look at", "s", "too late"
    burst_column = worst_burst.LOOKED_AT

    def _asked(self, need: Need) -> float | None:
        return need.picture_s

    def reached(self, reached: Reached) -> Any:
        return reached.picture_s

    def wanted_words(self, need: Need, money: Money) -> str:
        return f"{need.picture} picture to look at within {exact(need.picture_s or 0)} s"

    def comes_to_words(self, value: float, need: Need) -> str:
        return f"the {need.picture} picture after {figure(value, 's')}"


class _LightOut(Goal):
    name, unit, late = "light out", "s", "too late"
    burst_column = worst_burst.LIGHT_OUT

    def _asked(self, need: Need) -> float | None:
        return need.light_out_s

    def reached(self, reached: Reached) -> Any:
        return reached.clear_s

    def wanted_words(self, need: Need, money: Money) -> str:
        return f"card light out within {exact(need.light_out_s or 0)} s"

    def comes_to_words(self, value: float, need: Need) -> str:
        return f"light out after {figure(value, 's')}"


COPIES, BUDGET, DAY, COPIED = _Copies(), _Budget(), _Day(), _Copied()
FULL_SPEED, FRAMES, PICTURE, LIGHT_OUT = _FullSpeed(), _Frames(), _Picture(), _LightOut()
# In the order in which they are asked for: the certain ones first.
GOALS: list[Goal] = [COPIES, BUDGET, DAY, COPIED, FULL_SPEED, FRAMES, PICTURE, LIGHT_OUT]


def goals_of(need: Need) -> list[Goal]:
    """What a need asks for, in order."""
    return [goal for goal in GOALS if goal.is_asked(need)]


def columns_of(goals: list[Goal]) -> list[int]:
    """The numbers of goals."""
    return list(map(GOALS.index, goals))
