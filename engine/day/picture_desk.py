"""Pictures that somebody waits for: when they can be looked at after a burst, and are sent."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engine.burst.scenario import FILE_MB
from engine.day.planned_day import PlannedDay, range_of
from engine.day.presses import InvalidDay
from engine.quantities import S_IN_MINUTE, Range, out_of_range, quantity
from engine.uncertainty.intervals import Interval

Real = NDArray[np.float64]

WANTED = Range(1, 1_000, "frames")
WITHIN_MIN = Range(0.1, 600, "min")
SEND_MB_S = Range(0.001, 10_000, "MB/s")


@dataclass(frozen=True, kw_only=True)
class PictureDesk:
    """A desk that wants so many `frames` of a burst within some minutes of finger up.

    One file of each is sent, of `file_mb`, at `send_mb_s`. A body that `locks_playback` shows
    no picture while its card light is on. Raises :class:`InvalidDay`.
    """

    frames: int = quantity(WANTED)
    within_min: float = quantity(WITHIN_MIN)
    send_mb_s: float = quantity(SEND_MB_S)
    file_mb: float = quantity(FILE_MB)
    locks_playback: bool = False

    def __post_init__(self) -> None:
        if faults := out_of_range(self):
            raise InvalidDay(faults)


@dataclass(frozen=True, kw_only=True)
class Delivered:
    """What becomes of that after the bursts of a plan: 80 % ranges over all of them.

    `first_look_s` from finger up until a picture can be looked at, `minutes` until all that are
    wanted are sent, which is in time after `in_time_share` of the bursts.
    """

    first_look_s: Interval
    minutes: Interval
    in_time_share: float


def delivered(day: PlannedDay, desk: PictureDesk) -> Delivered | None:
    """When a desk has the pictures of each burst, nothing else being sent; None without bursts."""
    presses = day.presses
    is_burst = presses.is_real & ~presses.is_single & (day.frames > 0)
    if not is_burst.any():
        return None
    look_s = locked_s(day)[is_burst] if desk.locks_playback else np.zeros(int(is_burst.sum()))
    sent = np.minimum(day.frames[is_burst], desk.frames)
    minutes = (look_s + sent * desk.file_mb / desk.send_mb_s) / S_IN_MINUTE
    return Delivered(
        first_look_s=range_of(look_s),
        minutes=range_of(minutes),
        in_time_share=float((minutes <= desk.within_min).mean()),
    )


def locked_s(day: PlannedDay) -> Real:
    """Seconds from finger up until the card light is out (axes: day, press).

    Where the next press comes before that, it goes on until all of the next is written, too.
    """
    up_s, lit_s = day.presses.up_s, day.clear_s.copy()
    for place in range(lit_s.shape[1] - 2, -1, -1):
        goes_on = day.presses.is_real[:, place + 1] & ~day.is_ready[:, place + 1]
        after_next_s = up_s[:, place + 1] - up_s[:, place] + lit_s[:, place + 1]
        lit_s[:, place] = np.where(goes_on, after_next_s, lit_s[:, place])
    return lit_s
