"""How sure a replayed day is: each set-up in many draws, on common random numbers."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from engine.burst.arrangement import Arrangement
from engine.burst.event_loop import ALL_WRITTEN_NS, FRAMES, HOLD_OUTCOME_LENGTH
from engine.burst.plan import FILE_SIZE, Records, parts_of_nominal
from engine.burst.scenario import Scenario
from engine.cores import CORES, on_all_cores
from engine.day.presses import Presses
from engine.day.replay import ReplayedDay, replay
from engine.figures.key import FIELD_OF_SLOT, OF_CARD, Factor, FigureKind
from engine.uncertainty.comparison import Difference, difference
from engine.uncertainty.draws import Draws, frame_sizes
from engine.uncertainty.intervals import Interval, intervals
from engine.uncertainty.sources import FILES, Sources
from engine.uncertainty.sweep import shoot_all
from engine.uncertainty.tables import drawn_plans

Whole = NDArray[np.int64]

MOST_DRAWS, FEWEST_DRAWS = 200, 50
FRAMES_IN_ALL_DRAWS = 12_000_000  # on all set-ups
OF_ONE_CARD = (*OF_CARD, FigureKind.PACE)  # drawn for each card of a body
PRESSES_AT_ONCE = 100_000  # in all draws, which take some ten megabytes on each core


@dataclass(frozen=True, eq=False, kw_only=True)
class DrawnDay:
    """What comes of a day in each draw: frames, those that are missed, and the bursts missing some.

    `nominal` is the day with every number as it is; `missing_shares` has for each burst the share
    of draws in which it misses frames.
    """

    frames: Whole
    missed: Whole
    bursts_missing: Whole
    missing_shares: Sequence[float]
    nominal: ReplayedDay

    @property
    def frames_range(self) -> Interval:
        """The range of all frames."""
        return _range(self.frames, self.nominal.frames)

    @property
    def missed_range(self) -> Interval:
        """The range of all frames that are missed."""
        return _range(self.missed, self.nominal.missed)

    @property
    def bursts_missing_range(self) -> Interval:
        """The range of how many bursts miss frames."""
        return _range(self.bursts_missing, self.nominal.bursts_missing)

    def against(self, other: "DrawnDay") -> "DayDifference":
        """What it brings against the `other`, drawn as often and by the same draws."""
        now, was = self.nominal, other.nominal
        frames, missed = [other.frames, self.frames], [other.missed, self.missed]
        return DayDifference(
            frames=difference(np.stack(frames), float(now.frames - was.frames)),
            missed=difference(np.stack(missed), float(now.missed - was.missed)),
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

    @property
    def with_room(self) -> "SureSetup":
        """The same with cards that are changed before they are full, or nearly."""
        scenario = self.scenario
        slots = tuple(replace(one, free_mb=None, slow_below_free_mb=0.0) for one in scenario.slots)
        return replace(self, scenario=replace(scenario, slots=slots))

    def with_card_of(self, other: "SureSetup", slot: int, name: str) -> "SureSetup":
        """The same with what another has in a slot: a card of that name, drawn for itself."""
        slots, sources = list(self.scenario.slots), list(self.sources.slots)
        place = slot - 1
        slots[place], sources[place] = other.scenario.slots[place], other.sources.slots[place]
        factors = [Factor(kind, slot) for kind in OF_ONE_CARD]
        return SureSetup(
            replace(self.scenario, slots=tuple(slots)),
            replace(self.sources, slots=tuple(sources)),
            {**self.independent, **{factor: f"{name}, {factor}" for factor in factors}},
        )

    def in_slot_alone(self, slot: int) -> "SureSetup":
        """The same where everything is written to one slot, as where slots take turns."""
        place = slice(slot - 1, slot)
        names = {}
        for kind in FIELD_OF_SLOT:
            factor = Factor(kind, slot)
            names[Factor(kind, 1)] = self.independent.get(factor) or str(factor)
        return SureSetup(
            replace(
                self.scenario, slots=self.scenario.slots[place], arrangement=Arrangement.SINGLE
            ),
            replace(self.sources, slots=self.sources.slots[place]),
            {**self.independent, **names},
        )


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

    def holds_of(some: slice) -> Whole:
        holds = np.repeat(presses.rows[None], len(of_files[some]), axis=0)
        holds[..., FILE_SIZE] = parts_of_nominal(of_files[some, None] * presses.sizes)
        return holds

    frames = shoot_draws(plans, sizes, len(presses.press_ns), holds_of).frames
    due = np.stack([presses.frames_due(int(plan["interval_ns"])) for plan in plans])
    missed = np.add.reduceat(due - frames, first_presses, axis=1)  # of each burst
    return DrawnDay(
        frames=frames.sum(axis=1),
        missed=missed.sum(axis=1),
        bursts_missing=(missed > 0).sum(axis=1),
        missing_shares=(missed > 0).mean(axis=0).tolist(),
        nominal=replay(set_up.scenario, presses, first_presses),
    )


def draws_of_day(set_ups: Sequence[Scenario], presses: Presses) -> int:
    """How often a day is drawn, the same for all set-ups: a long one less often, or many."""
    due = sum(int(presses.frames_due(one.frame_interval_ns).sum()) for one in set_ups)
    return min(MOST_DRAWS, max(FEWEST_DRAWS, FRAMES_IN_ALL_DRAWS // due))


class DrawnPresses(NamedTuple):
    """Of each press (axes: draw, press): its frames, and when all up to it is written."""

    frames: Whole
    all_written_ns: Whole


def shoot_draws(
    plans: Records, sizes: NDArray[np.int32], presses: int, holds_of: Callable[[slice], Whole]
) -> DrawnPresses:
    """Shoots every draw's plan; `holds_of` gives the rows of so many presses for some of them.

    Some draws at a time on each core, so that long days take no more memory than short ones.
    """
    came = DrawnPresses(*np.empty((2, len(plans), presses), dtype=np.int64))

    def shoot(part: tuple[int, int]) -> None:
        some = slice(*part)
        holds = holds_of(some)
        outcomes = np.empty((*holds.shape[:2], HOLD_OUTCOME_LENGTH), dtype=np.int64)
        full_ns, frames_ns = np.empty((2, len(holds)), dtype=np.int64)
        shoot_all(plans[some], holds, sizes[some], outcomes, full_ns, frames_ns)
        came.frames[some] = outcomes[..., FRAMES]
        came.all_written_ns[some] = outcomes[..., ALL_WRITTEN_NS]

    parts = min(len(plans), max(CORES, -(-len(plans) * presses // PRESSES_AT_ONCE)))
    ends = np.linspace(0, len(plans), parts + 1).astype(int).tolist()
    on_all_cores(shoot, pairwise(ends))
    return came


def _range(values: Whole, nominal: int) -> Interval:
    [found] = intervals(values[None], np.array([nominal]))
    return found
