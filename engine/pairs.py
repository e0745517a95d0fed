"""Pairs of cards in one way and arrangement: their places in a plan, and how they are drawn."""

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from engine.candidates import Side
from engine.confidence import spread_of
from engine.options import Evaluation
from engine.pair_loop import Cards, Luck
from engine.plan import (
    CACHE_BYTES,
    CACHED_NS,
    FREE_BYTES,
    OVERHEAD_NS,
    SLOT_LENGTH,
    SLOW_BELOW_BYTES,
    TRANSFER_NS,
    plan_of,
    slot_row,
)
from engine.scenario import Scenario
from engine.sweep import LEAST, luck_of

Whole = NDArray[np.int64]
Real = NDArray[np.float64]

SEED = 0
RARE = 5.5  # standard deviations that no draw goes beyond


@dataclass(frozen=True, eq=False)
class CardsOfSlot:
    """The cards that one slot may get; `place` has where each pair finds its own among them.

    `may_fill` tells that a card may be full within the hold, `varies` that its pace may change.
    """

    cards: Cards
    may_fill: NDArray[np.bool_]
    varies: NDArray[np.bool_]
    capacity_bytes: Whole
    copy_mb_s: Real
    place: Whole


class Pairs:
    """Some pairs of cards, given by numbers of candidates (NONE: no second card).

    Raises InvalidScenario, when it comes to it, where memory can't hold a frame of their way.
    """

    def __init__(self, evaluation: Evaluation, way: int, arrangement: int, numbers: Whole) -> None:
        self.evaluation, self.need, self.numbers = evaluation, evaluation.need, numbers
        self.way_number, self.arrangement_number = way, arrangement
        self.way = evaluation.ways[way]
        self.kind, self.coupling = evaluation.camera.arrangements[arrangement]

    def __len__(self) -> int:
        return len(self.numbers)

    @cached_property
    def scenario(self) -> Scenario:
        """A hold of the first pair; the others differ in their slots only."""
        first, second = map(int, self.numbers[0])
        option = self.evaluation.option(self.way_number, self.arrangement_number, first, second)
        return option.scenario(self.need.lasts_s)

    @cached_property
    def plan(self) -> Whole:
        """The same as a row; its places of slots are those of the first pair."""
        return plan_of(self.scenario)

    @cached_property
    def slots(self) -> list[CardsOfSlot]:
        """The cards of the slots that are written to."""
        used = 1 if self.kind == "single" else 2
        slots = [self._slot(number) for number in range(used)]
        if self.kind in ("mirror", "split"):
            self._share_overhead(slots)
        return slots

    def _slot(self, number: int) -> CardsOfSlot:
        numbers, place = np.unique(self.numbers[:, number], return_inverse=True)
        candidates = [self.evaluation.candidates[one] for one in numbers]
        sides = [side for card in candidates if (side := card.sides[number]) is not None]
        rows = np.array([self._row(side, number) for side in sides], dtype=np.int64).reshape(
            -1, SLOT_LENGTH
        )
        free_bytes = rows[:, FREE_BYTES].copy()
        may_fill = self._most_bytes(number) > free_bytes
        _settle(rows, self._most_bytes(number))
        shared, _ = luck_of(self.evaluation.draws, SEED)
        luck = [
            own_luck(int(one), len(shared)) if side.own_pace else shared[:, 1 + number]
            for one, side in zip(numbers, sides, strict=True)
        ]
        deviations = np.array([spread_of(side.source) for side in sides])
        return CardsOfSlot(
            cards=Cards(rows, deviations, np.array(luck)),
            may_fill=may_fill,
            varies=(rows[:, CACHE_BYTES] > 0) | (rows[:, SLOW_BELOW_BYTES] > 0),
            capacity_bytes=free_bytes,
            copy_mb_s=np.array([card.copy_mb_s or 0.0 for card in candidates]),
            place=place.reshape(-1).astype(np.int64),
        )

    def _row(self, side: Side, number: int) -> list[int]:
        return slot_row(
            side.slot, self.scenario.bytes_to(number), self.scenario.timed_bytes(number)
        )

    def _most_bytes(self, number: int) -> int:
        """More than any draw of the hold brings to a slot."""
        largest = (1 + RARE * self.way.frame_to_frame) * (1 + RARE * self.file_spread)
        return int(self.scenario.frames_due * self.scenario.bytes_to(number) * largest)

    @property
    def file_spread(self) -> float:
        """Relative standard deviation of the size of files."""
        return spread_of(self.way.file_source)

    def _share_overhead(self, slots: list[CardsOfSlot]) -> None:
        """Of one writer that waits the longer of two overheads, both slots have that one.

        Where the overheads of one slot vary from card to card, the pairs of one writer are shot.
        """
        overheads = [np.unique(slot.cards.rows[:, OVERHEAD_NS]) for slot in slots]
        for slot in slots:
            if self.coupling != "parallel" and any(len(one) > 1 for one in overheads):
                slot.may_fill[:] = True
            elif self.coupling == "slowest":
                slot.cards.rows[:, OVERHEAD_NS] = max(int(one[0]) for one in overheads)

    @cached_property
    def luck(self) -> Luck:
        """The draws of the evaluation."""
        shared, noise = luck_of(self.evaluation.draws, SEED)
        camera, way = self.evaluation.camera, self.way
        memory, encoder = map(spread_of, (camera.memory_source, way.encoder_source))
        spreads = [way.frame_to_frame, self.file_spread, 0.0, 0.0, memory, encoder]
        return Luck(shared, noise, np.array(spreads))

    @cached_property
    def no_luck(self) -> Luck:
        """One draw, in which everything is as it is most likely to be."""
        return Luck(np.zeros((1, 5)), np.zeros((1, 1), dtype=np.float32), np.zeros(6))

    @cached_property
    def file_factors(self) -> Real:
        """File size over its middle, in every draw, the smallest first."""
        shared, _ = luck_of(self.evaluation.draws, SEED)
        return np.sort(np.maximum(1 + self.file_spread * shared[:, 0], LEAST))


def _settle(rows: Whole, most_bytes: int) -> None:
    """Takes a pace that never changes within the hold for the only one that a card has."""
    slow, cache = rows[:, SLOW_BELOW_BYTES], rows[:, CACHE_BYTES]
    slow[rows[:, FREE_BYTES] - most_bytes >= slow] = 0
    within_cache = (cache > 0) & (cache >= most_bytes)
    rows[within_cache, TRANSFER_NS] = rows[within_cache, CACHED_NS]
    cache[within_cache] = 0


@lru_cache(maxsize=4_096)
def own_luck(number: int, draws: int) -> Real:
    """How one card writes in every draw, whatever the others do."""
    return np.random.Generator(np.random.PCG64((SEED, 2 + number))).standard_normal(draws)
