"""A day's presses once more, on another set-up: which of its bursts would have missed frames."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engine.burst.scenario import Scenario
from engine.day.presses import Presses, shoot

Whole = NDArray[np.int64]


@dataclass(frozen=True, kw_only=True)
class ReplayedBurst:
    """What a burst would have had: frames, those before the wall (None: no wall), and missed ones.

    `clear_s` is from finger up until the last byte is on the card.
    """

    frames: int
    frames_at_full_speed: int | None
    missed: int
    clear_s: float


@dataclass(frozen=True, eq=False, kw_only=True)
class ReplayedDay:
    """Every burst of a day on one set-up, by columns.

    `depths` are frames before the wall (-1: no wall); `full_burst` is the first burst that a card
    had no room for.
    """

    frames_of_bursts: Whole
    depths: Whole
    missed_of_bursts: Whole
    clear_s: NDArray[np.float64]
    full_burst: int | None

    @property
    def bursts(self) -> list[ReplayedBurst]:
        """The same, burst by burst."""
        columns = self.frames_of_bursts, self.depths, self.missed_of_bursts, self.clear_s
        return [
            ReplayedBurst(
                frames=frames,
                frames_at_full_speed=None if depth < 0 else depth,
                missed=missed,
                clear_s=clear_s,
            )
            for frames, depth, missed, clear_s in zip(
                *(column.tolist() for column in columns), strict=True
            )
        ]

    @property
    def frames(self) -> int:
        """Frames of all bursts."""
        return int(self.frames_of_bursts.sum())

    @property
    def missed(self) -> int:
        """Frames that all bursts missed."""
        return int(self.missed_of_bursts.sum())

    @property
    def bursts_missing(self) -> int:
        """Bursts that missed frames."""
        return int(np.count_nonzero(self.missed_of_bursts))


def replay(scenario: Scenario, presses: Presses, first_presses: Whole | None = None) -> ReplayedDay:
    """`presses` on the set-up of `scenario`, whose own holds are left aside.

    `first_presses` has the number of the first press of each burst; left out, each is one. Files
    are as much larger or smaller than usual as they were. Raises :class:`InvalidDay`.
    """
    count = len(presses.press_ns)
    firsts = np.arange(count) if first_presses is None else first_presses
    shot = shoot(scenario, presses)
    full_ns, began_ns = shot.card_full_ns, presses.press_ns[firsts]
    return ReplayedDay(
        frames_of_bursts=np.add.reduceat(shot.frames, firsts),
        depths=_depths(shot.frames, shot.depths, firsts),
        missed_of_bursts=np.add.reduceat(shot.missed, firsts),
        clear_s=shot.clear_s[np.append(firsts[1:], count) - 1],
        full_burst=None
        if full_ns is None
        else int(np.searchsorted(began_ns, full_ns, side="right")) - 1,
    )


def _depths(frames: Whole, depths: Whole, firsts: Whole) -> Whole:
    """Frames of each burst before the first one that memory refused; -1 where it refused none."""
    before = np.cumsum(frames) - frames  # of each press, from the start of the day on
    refused = np.flatnonzero(depths >= 0)
    ends = np.append(firsts[1:], len(frames))
    places = np.searchsorted(refused, firsts)
    presses = np.append(refused, len(frames))[places]
    has_wall = presses < ends
    presses = np.minimum(presses, len(frames) - 1)
    reached: Whole = before[presses] - before[firsts] + depths[presses]
    return np.where(has_wall, reached, -1)
