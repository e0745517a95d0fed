"""How somebody shoots: holds, pauses, and what comes together hour by hour."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from engine.day.frames_taken import DayBurst
from engine.quantities import MB_IN_GB, S_IN_HOUR, S_IN_MINUTE
from engine.selection.requirements import Need

SHARES = (0.5, 0.9)
BUSIEST_MIN = 10.0
SHORTEST_S = 0.1


@dataclass(frozen=True, kw_only=True)
class HourOfDay:
    """What began in an hour, `start_s` by the clock of the pictures: bursts, frames, GB, misses.

    `holds_s` are those of its bursts as `Habits` has them, `singles` the presses that were none.
    """

    start_s: float
    bursts: int
    singles: int
    holds_s: tuple[float, float] | None
    frames: int
    gb: float
    missed: int


@dataclass(frozen=True, kw_only=True)
class Habits:
    """Half and nine of ten holds of bursts, and pauses from finger up to the next press, are at
    most so long; None where there are none.

    `hours` are those in which something was shot.
    """

    holds_s: tuple[float, float] | None
    pauses_s: tuple[float, float] | None
    hours: Sequence[HourOfDay]

    @classmethod
    def of(cls, bursts: Sequence[DayBurst]) -> "Habits":
        """Those of a day's bursts, single frames among them."""
        several = [one for one in bursts if not one.is_single]
        hours: dict[int, list[DayBurst]] = {}
        for burst in bursts:
            hours.setdefault(int(burst.press_s // S_IN_HOUR), []).append(burst)
        return cls(
            holds_s=_shares([one.hold_s for one in several]),
            pauses_s=_shares([one.next_press_s for one in bursts if one.next_press_s is not None]),
            hours=[
                HourOfDay(
                    start_s=float(hour * S_IN_HOUR),
                    bursts=sum(not one.is_single for one in some),
                    singles=sum(one.is_single for one in some),
                    holds_s=_shares([one.hold_s for one in some if not one.is_single]),
                    frames=sum(one.frames for one in some),
                    gb=sum(one.mb for one in some) / MB_IN_GB,
                    missed=sum(one.missed for one in some),
                )
                for hour, some in sorted(hours.items())
            ],
        )


def need_of(bursts: Sequence[DayBurst]) -> Need | None:
    """What such days ask of a set-up: nine of ten bursts at full speed, as often as they came in
    the busiest ten minutes, and room for the day's frames; None without bursts.
    """
    several = [one for one in bursts if not one.is_single]
    if not several:
        return None
    held_s = np.quantile([one.hold_s for one in several], SHARES[-1])
    lasts_s = max(round(float(held_s), 1), SHORTEST_S)
    press_s = np.array([one.press_s for one in several])
    window_s = BUSIEST_MIN * S_IN_MINUTE
    began = np.searchsorted(press_s, press_s + window_s) - np.arange(len(press_s))
    most = int(began.max())
    every_s = max(round(window_s / most, 1), lasts_s) if most > 1 else None
    return Need(
        lasts_s=lasts_s,
        full_rate_s=lasts_s,
        every_s=every_s,
        goes_on_min=BUSIEST_MIN if every_s else None,
        frames_a_day=sum(one.frames + one.missed for one in bursts),
    )


def _shares(lengths_s: Sequence[float]) -> tuple[float, float] | None:
    if not lengths_s:
        return None
    half_s, most_s = np.quantile(lengths_s, SHARES).tolist()
    return half_s, most_s
