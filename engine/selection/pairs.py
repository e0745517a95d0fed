"""Pairs of cards in one shooting mode and one use of the slots, and how they are drawn."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.burst.plan import (
    COUNTED_UNTIL_NS,
    COUPLING_NUMBER,
    FILE_SIZE,
    FINGER_UP_NS,
    HOLD_LENGTH,
    NOMINAL,
    PRESS_NS,
    Records,
    power_of_two,
)
from engine.burst.scenario import Scenario
from engine.figures.key import Factor, FigureKind
from engine.quantities import BYTES_IN_MB, MB_IN_GB, ns_of
from engine.selection.candidates import CandidateSide, Option
from engine.selection.kernels.pair_search import Drawn
from engine.selection.options import Evaluation
from engine.uncertainty.draws import Draws, frame_sizes, timed_as
from engine.uncertainty.sources import BURST, FILES, Sources
from engine.uncertainty.tables import drawn_plans, drawn_slots

Whole = NDArray[np.int64]
Real = NDArray[np.float64]

SIZES_DRAWN = 1_000  # of the mean size of files, for what depends on nothing else


@dataclass(frozen=True, eq=False)
class CardsOfSlot:
    """The cards that one slot may get; `place` has where each pair finds its own among them.

    `capacity_bytes` is the room in the morning of a day.
    """

    sides: list[CandidateSide]
    numbers: Whole
    rows: Records
    capacity_bytes: Whole
    copy_mb_s: Real
    place: Whole

    @property
    def slows(self) -> NDArray[np.bool_]:
        """Which of them slow down when they are nearly full."""
        return self.rows["slow_below_bytes"] > 0

    @property
    def varies(self) -> NDArray[np.bool_]:
        """Which of them have a pace that may change."""
        return (self.rows["cache_bytes"] > 0) | self.slows


@dataclass(frozen=True, eq=False)
class DrawGroup:
    """The draws in which the slots share the work in one mode: which they are, and what is drawn.

    `places` has those of the cards of each slot (axes: card, draw).
    """

    coupling: int
    chosen: Whole
    drawn: Drawn
    places: list[Records]

    @property
    def is_nominal(self) -> bool:
        """Whether it is one draw, in which every frame has its nominal size."""
        of_holds = self.drawn.holds[..., FILE_SIZE]
        alike = (of_holds == NOMINAL).all() and (self.drawn.sizes == NOMINAL).all()
        return len(self.chosen) == 1 and bool(alike)

    @property
    def frames_kept(self) -> int:
        """How many frames are kept at once: those of a burst, or those that memory may hold."""
        bodies, holds = self.drawn.bodies, self.drawn.holds
        hold_ns = holds[:, 0, FINGER_UP_NS] - holds[:, 0, PRESS_NS]
        due = -(-hold_ns // bodies["interval_ns"])
        sizes = holds[:, 0, FILE_SIZE] * self.drawn.sizes.min(axis=1) // NOMINAL
        least_bytes = np.maximum(bodies["file_bytes"] * sizes // NOMINAL, 1)
        in_memory = bodies["memory_bytes"] // least_bytes + 2
        repeats = holds.shape[1] > 1
        return power_of_two(int(max(due.max(), in_memory.max() if repeats else 0)))


class Pairs:
    """Some pairs of cards, given by numbers of candidates (NONE: no second card).

    Raises InvalidScenario, when it comes to it, where memory can't hold a frame of their mode.
    """

    def __init__(self, evaluation: Evaluation, mode: int, use: int, numbers: Whole) -> None:
        self.evaluation, self.need, self.numbers = evaluation, evaluation.need, numbers
        self.mode_number, self.use_number = mode, use
        self.mode = evaluation.modes[mode]
        self.use = evaluation.camera.uses[use]
        self.kind = self.use.arrangement

    def __len__(self) -> int:
        return len(self.numbers)

    def at(self, places: Whole) -> "Pairs":
        """Those at `places`."""
        return Pairs(self.evaluation, self.mode_number, self.use_number, self.numbers[places])

    @cached_property
    def scenario(self) -> Scenario:
        """A burst on the first pair; the others differ in their slots only."""
        return self._option.scenario(self.need.lasts_s)

    @cached_property
    def _option(self) -> Option:
        first, second = map(int, self.numbers[0])
        return self.evaluation.option(self.mode_number, self.use_number, first, second)

    @property
    def sources(self) -> Sources:
        """How sure what all pairs share is."""
        return self._option.sources

    @property
    def day_frames(self) -> int:
        """Frames of a day, 0 where nobody said."""
        return self.need.day_frames(self.mode.frame_rate_fps) or 0

    @cached_property
    def slots(self) -> list[CardsOfSlot]:
        """The cards of the slots that are written to."""
        return [self._slot(number) for number in range(self.kind.slots_used)]

    def _slot(self, number: int) -> CardsOfSlot:
        numbers, place = np.unique(self.numbers[:, number], return_inverse=True)
        candidates = [self.evaluation.candidates[one] for one in numbers]
        of_all = self.evaluation.sides(number, self.kind)
        rows = self.evaluation.slot_plans(number, self.kind, self.scenario)[numbers]
        if self.need.free_gb is not None:
            free_bytes = round(self.need.free_gb * MB_IN_GB * BYTES_IN_MB)
            rows["free_bytes"] = np.minimum(rows["free_bytes"], free_bytes)
        return CardsOfSlot(
            sides=[side for one in numbers if (side := of_all[one]) is not None],
            numbers=numbers,
            rows=rows,
            capacity_bytes=rows["free_bytes"].copy(),
            copy_mb_s=np.array([card.copy_mb_s or 0.0 for card in candidates]),
            place=place.reshape(-1).astype(np.int64),
        )

    def draw_groups(self, draws: Draws, *, independent: bool = False) -> Iterator[DrawGroup]:
        """The draws, by coupling of the slots; `independent` draws each card by itself.

        Else a card is drawn like every other in its slot (common random numbers), so that cards of
        the same figures have the same odds, and a better one no worse.
        """
        bodies = drawn_plans(self.scenario, self.sources, draws)
        drawn = Drawn(bodies, self._holds(draws), self._sizes(draws))
        places = [
            self._places(number, draws, independent=independent)
            for number in range(len(self.slots))
        ]
        for coupling in np.unique(bodies["coupling"]):
            chosen = np.flatnonzero(bodies["coupling"] == coupling)
            of_chosen = [
                timed_as(int(coupling), np.take(of_slot, chosen, axis=1), self.scenario, number)
                for number, of_slot in enumerate(places)
            ]
            if self.kind.writes_both and coupling == COUPLING_NUMBER["slowest"]:
                share_overhead(of_chosen)
            yield DrawGroup(
                coupling=int(coupling),
                chosen=chosen,
                drawn=Drawn(drawn.bodies[chosen], drawn.holds[chosen], drawn.sizes[chosen]),
                places=of_chosen,
            )

    def _holds(self, draws: Draws) -> Whole:
        presses_ns = np.array(self.need.presses_ns(self.mode.frame_rate_fps))
        holds = np.empty((draws.count, len(presses_ns), HOLD_LENGTH), dtype=np.int64)
        holds[..., PRESS_NS] = presses_ns
        holds[..., FINGER_UP_NS] = presses_ns + ns_of(self.need.lasts_s)
        holds[..., COUNTED_UNTIL_NS] = presses_ns + ns_of(self.need.counted_in_s)
        size = draws.ratios(FILES, self.sources.files)
        size = size * draws.ratios(BURST, self.sources.between_bursts)
        holds[..., FILE_SIZE] = np.maximum(np.rint(NOMINAL * size), 1)[:, None]
        return holds

    def _sizes(self, draws: Draws) -> NDArray[np.int32]:
        spread = self.sources.within_burst if draws.count > 1 else 0.0
        return frame_sizes(draws.count, self.scenario.frames_due, spread)

    def _places(self, number: int, draws: Draws, *, independent: bool) -> Records:
        cards, slot = self.evaluation.candidates, self.slots[number]

        def draws_of(card: int) -> Draws:
            if not independent:
                return draws
            factors = Factor(FigureKind.CARD, number + 1), Factor(FigureKind.PACE, number + 1)
            names = {factor: f"{factor.kind} {cards[card].key}" for factor in factors}
            return replace(draws, names=names)

        of_each = zip(slot.numbers, slot.sides, strict=True)
        asked = ((side.slot, side.sources, draws_of(card)) for card, side in of_each)
        return drawn_slots(slot.rows, asked, number)

    @cached_property
    def file_factors(self) -> Real:
        """Mean file size over its middle, in many draws, the smallest first."""
        return np.sort(Draws(SIZES_DRAWN).ratios(FILES, self.sources.files))


def share_overhead(places: list[Records]) -> None:
    """Of one writer that waits the longer of two overheads, both slots have that one, draw by draw.

    Only where all cards of a slot have the same; else the pairs have to be simulated.
    """
    overheads = [of_slot["overhead_ns"] for of_slot in places]
    if all((one == one[:1]).all() for one in overheads):
        for of_slot in places:
            of_slot["overhead_ns"] = np.maximum(*(one[0] for one in overheads))
