"""Days to begin a plan with: those of the sample scenario, and one like a day that was replayed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import time
from typing import Any

from django.utils.text import capfirst

from engine.measurement.capture_times import moment_of
from engine.quantities import S_IN_HOUR, S_IN_MINUTE
from outings.plans.forms import MOST_ROWS
from outings.replays.day import DayReplay

SINGLE_S = 0.1  # of a press that is no burst


@dataclass(frozen=True)
class Preset:
    """A day in words, when it begins, and its periods as the form has them."""

    words: str
    start: time
    periods: Sequence[Mapping[str, Any]]

    @property
    def name(self) -> str:
        """What an outing by it may be called."""
        return capfirst(self.words.removeprefix("the "))


def _period(name: str, minutes: float, **shot: float | bool) -> dict[str, Any]:
    """A period in which nothing is shot but what is said."""
    return {"name": name, "minutes": minutes, **shot}


def _bursts(
    name: str, minutes: float, an_hour: float, hold_s: float, long_s: float, singles: float = 0
) -> dict[str, Any]:
    return _period(
        name, minutes, bursts_an_hour=an_hour, hold_s=hold_s, long_hold_s=long_s,
        singles_an_hour=singles,
    )  # fmt: skip


PRESETS: Mapping[str, Preset] = {
    "slalom": Preset(
        "the slalom at Brackwater weir",
        time(9, 0),
        (
            _bursts("heats, first run", 100, 36, 1.5, 3, 10),
            _period("waiting", 20, singles_an_hour=30),
            _bursts("heats, second run", 100, 36, 1.5, 3, 10),
            _period("noon", 45, copies=True),
            _bursts("finals", 90, 40, 2, 4, 10),
            _bursts("ceremony", 30, 20, 0.5, 1.5, 60),
        ),
    ),
    "gannets": Preset(
        "gannets at Skerry Head, from the boat",
        time(6, 0),
        (
            _bursts("way out", 30, 2, 0.5, 1, 20),
            _bursts("diving", 75, 50, 1.2, 4.5, 15),
            _bursts("way back", 30, 2, 0.5, 1, 20),
            _period("harbour", 40, copies=True),
        ),
    ),
    "tide": Preset(
        "waders on the rising tide",
        time(5, 30),
        (
            _bursts("mud flats", 90, 6, 0.8, 2, 40),
            _bursts("last hour of the tide", 60, 30, 1.5, 5, 20),
            _bursts("roost takes off", 20, 90, 2, 6, 0),
            _period("breakfast", 30, copies=True),
        ),
    ),
}


def like(day: DayReplay) -> Preset:
    """A day hour by hour as one was that is replayed; hours without a frame are waiting."""
    hours = day.habits.hours
    periods, ended_s = [], hours[0].start_s
    for number, hour in enumerate(hours, 1):
        if waited_min := round((hour.start_s - ended_s) / S_IN_MINUTE):
            periods.append(_period("waiting", waited_min))
        hold_s, long_s = hour.holds_s or (SINGLE_S, SINGLE_S)
        periods.append(
            _bursts(
                f"hour {number}", 60, hour.bursts, round(hold_s, 2), round(long_s, 2), hour.singles
            )
        )
        ended_s = hour.start_s + S_IN_HOUR
    begins = moment_of(hours[0].start_s).time()
    return Preset(f"like {day.name}", begins, periods[:MOST_ROWS])
