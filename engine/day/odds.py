"""How sure a replayed day is: each set-up in many draws, on common random numbers."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from engine.burst.event_loop import FRAMES, HOLD_OUTCOME_LENGTH
from engine.burst.plan import FILE_SIZE, Records, parts_of_nominal
from engine.burst.scenario import Scenario
from engine.cores import CORES, on_all_cores
from engine.day.presses import Presses
from engine.day.replay import replay
from engine.figures.key import Factor
from engine.uncertainty.comparison import Difference, difference
from engine.uncertainty.draws import Draws, drawn_plans, frame_sizes
from engine.uncertainty.intervals import Interval, intervals
from engine.uncertainty.sources import FILES, Sources
from engine.uncertainty.sweep import shoot_all

Whole = NDArray[np.int64]

MOST_DRAWS, FEWEST_DRAWS = 200, 50
FRAMES_IN_ALL_DRAWS = 20_000_000  # on all set-ups
PRESSES_AT_ONCE = 100_000  # in all draws, which take some ten megabytes on each core


@dataclass(frozen=True, eq=False)
class DrawnDay:
    """The frames and the missed ones of each burst on one set-up, in each draw (axes: draw, burst).

    `nominal_frames` and `nominal_missed` are those with every number as it is.
    """

    frames: Whole
    missed: Whole
    nominal_frames: Whole
    nominal_missed: Whole

    @property
    def frames_of_day(self) -> Interval:
        """The range of all frames."""
        return _range(self.frames.sum(axis=1), self.nominal_frames.sum())

    @property
    def missed_of_day(self) -> Interval:
        """The range of all frames that are missed."""
        return _range(self.missed.sum(axis=1), self.nominal_missed.sum())

    @property
    def bursts_missing(self) -> Interval:
        """The range of how many bursts miss frames."""
        return _range((self.missed > 0).sum(axis=1), (self.nominal_missed > 0).sum())

    @property
    def missing_shares(self) -> list[float]:
        """Of each burst, the share of draws in which it misses frames."""
        shares: list[float] = (self.missed > 0).mean(axis=0).tolist()
        return shares

    def against(self, other: "DrawnDay") -> "DayDifference":
        """What it brings against the `other`, drawn as often and by the same draws."""
        return DayDifference(
            frames=_difference(
                other.frames, self.frames, other.nominal_frames, self.nominal_frames
            ),
            missed=_difference(
                other.missed, self.missed, other.nominal_missed, self.nominal_missed
            ),
        )


@dataclass(frozen=True)
class DayDifference:
    """The second day less the first."""

    frames: Difference
    missed: Difference


@dataclass(frozen=True)
class SureSetup:
    """A set-up, how sure its numbers are, and which of them are not one thing in all set-ups.

    `independent` gives those a name to be drawn by: another card is drawn for itself.
    """

    scenario: Scenario
    sources: Sources
    independent: Mapping[Factor, str] = field(default_factory=dict)


def draw_day(set_up: SureSetup, presses: Presses, first_presses: Whole, count: int) -> DrawnDay:
    """A day's presses on a set-up, `count` times; `first_presses` has the first of each burst.

    Sizes of files are those that the day had, in parts of what the set-up says of them, which is
    drawn where it is not certain. Raises :class:`InvalidDay`.
    """
    draws = Draws(count, set_up.independent)
    plans = drawn_plans(set_up.scenario, set_up.sources, draws)
    of_files = draws.ratios(FILES, set_up.sources.files)
    frames_due = int(presses.frames_due(set_up.scenario.frame_interval_ns).sum())
    sizes = frame_sizes(count, frames_due, set_up.sources.within_burst)
    frames = np.empty((count, len(presses.press_ns)), dtype=np.int64)

    def shoot(part: tuple[int, int]) -> None:
        some = slice(*part)
        holds = np.repeat(presses.rows[None], part[1] - part[0], axis=0)
        holds[..., FILE_SIZE] = parts_of_nominal(of_files[some, None] * presses.sizes)
        frames[some] = _frames(plans[some], holds, sizes[some])

    on_all_cores(shoot, _parts(count, len(presses.press_ns)))
    due = np.stack([presses.frames_due(int(plan["interval_ns"])) for plan in plans])
    nominal = replay(set_up.scenario, presses, first_presses).bursts
    return DrawnDay(
        np.add.reduceat(frames, first_presses, axis=1),
        np.add.reduceat(due - frames, first_presses, axis=1),
        np.array([burst.frames for burst in nominal]),
        np.array([burst.missed for burst in nominal]),
    )


def draws_of_day(set_ups: Sequence[Scenario], presses: Presses) -> int:
    """How often a day is drawn, the same for all set-ups: a long one less often, or many."""
    due = sum(int(presses.frames_due(one.frame_interval_ns).sum()) for one in set_ups)
    return min(MOST_DRAWS, max(FEWEST_DRAWS, FRAMES_IN_ALL_DRAWS // due))


def _parts(count: int, presses: int) -> list[tuple[int, int]]:
    """The draws that one core shoots at once."""
    parts = min(count, max(CORES, -(-count * presses // PRESSES_AT_ONCE)))
    return list(pairwise(np.linspace(0, count, parts + 1).astype(int).tolist()))


def _frames(plans: Records, holds: Whole, sizes: NDArray[np.int32]) -> Whole:
    """The frames of each press in each draw."""
    outcomes = np.empty((*holds.shape[:2], HOLD_OUTCOME_LENGTH), dtype=np.int64)
    full_ns, frames_ns = np.empty((2, len(plans)), dtype=np.int64)
    shoot_all(plans, holds, sizes, outcomes, full_ns, frames_ns)
    return np.asarray(outcomes[..., FRAMES])


def _range(values: Whole, nominal: int) -> Interval:
    [found] = intervals(values[None], np.array([nominal]))
    return found


def _difference(first: Whole, second: Whole, was: Whole, would_be: Whole) -> Difference:
    both = np.stack([first.sum(axis=1), second.sum(axis=1)])
    return difference(both, float(would_be.sum() - was.sum()))
