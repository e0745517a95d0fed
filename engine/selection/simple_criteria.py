"""Criteria that need no burst simulation: price, room for a day, copying."""

from functools import cached_property

import numpy as np

from engine.burst.arrangement import Arrangement
from engine.quantities import BYTES_IN_MB
from engine.selection.options import NONE
from engine.selection.pairs import Pairs, Real, Whole

MOST_SETS = 8  # of cards swapped in turn; nobody carries more for one day


class SimpleCriteria:
    """These criteria for `pairs`, a value a pair."""

    def __init__(self, pairs: Pairs) -> None:
        self.pairs, self.need = pairs, pairs.need
        self.slots, self.scenario, self.kind = pairs.slots, pairs.scenario, pairs.kind
        self.file_factors = pairs.file_factors

    @cached_property
    def sets(self) -> Whole:
        """How many cards of each are swapped in turn to give the day's frames room.

        As many as do in the share of draws that is to be sure; one where MOST_SETS are too few.
        """
        wanted = self.pairs.day_frames
        place = min(int(self.need.sure * len(self.file_factors)), len(self.file_factors) - 1)
        room = np.maximum(self._room(self.file_factors[place]), 1)
        needed = np.maximum(-(-wanted // room), 1)
        return np.where(needed > MOST_SETS, 1, needed)

    @cached_property
    def price_cents(self) -> Whole:
        """What has to be bought: all that are needed of each card, less the one that is owned."""
        candidates = self.pairs.evaluation.candidates
        price = np.array([NONE if c.price_cents is None else c.price_cents for c in candidates])
        owned = np.array([int(card.owned) for card in candidates])
        first, second = self.pairs.numbers.T
        alone, same = second == NONE, first == second
        pieces = np.where(same, 2 * self.sets, self.sets)
        one = _cost(price[first], pieces - owned[first])
        other = np.where(alone | same, 0, _cost(price[second], self.sets - owned[second]))
        return np.where((one == NONE) | (other == NONE), NONE, one + other)

    @cached_property
    def day_frames(self) -> Whole:
        """Frames that the cards have room for, all sets of them."""
        return self.sets * self._room(1.0)

    def _room(self, factor: float | Real) -> Whole:
        """Frames in one set where files are `factor` of their middle size, for all or each."""
        held = [
            slot.capacity_bytes[slot.place] // self._drawn_bytes(number, factor)
            for number, slot in enumerate(self.slots)
        ]
        if self.kind.slots_used == 1:
            return held[0]
        return held[0] + held[1] if self.kind is Arrangement.OVERFLOW else np.minimum(*held)

    def _drawn_bytes(self, number: int, factor: float | Real) -> Whole:
        size_bytes = np.asarray(self.scenario.bytes_to(number) * np.asarray(factor))
        return np.maximum(size_bytes.astype(np.int64), 1)

    @cached_property
    def copy_s(self) -> Real:
        """Seconds that copying takes, of the day's frames or else of all that fits; inf: none can.

        Of two copies one is enough, the one that is read faster; else one card after the other.
        """
        frames = self.pairs.day_frames
        wanted = np.minimum(frames, self.day_frames) if frames else self.day_frames
        speeds = [slot.copy_mb_s[slot.place] * BYTES_IN_MB for slot in self.slots]
        sizes = [float(self.scenario.bytes_to(number)) for number in range(len(self.slots))]
        with np.errstate(divide="ignore", invalid="ignore"):
            if self.kind.copies > 1:
                return wanted * sizes[0] / np.maximum(*speeds)
            on_cards = [wanted] * len(speeds)
            if self.kind is Arrangement.OVERFLOW:
                first = self.slots[0]
                room = self.sets * (first.capacity_bytes // sizes[0])[first.place]
                on_cards[0] = np.minimum(wanted, room)
                on_cards[1] = wanted - on_cards[0]
            each = [
                np.where(n > 0, n * size / speed, 0.0)
                for n, size, speed in zip(on_cards, sizes, speeds, strict=True)
            ]
        return np.asarray(np.sum(each, axis=0))

    @property
    def copies(self) -> int:
        """How many copies of each file are written."""
        return self.kind.copies

    def affordable(self, most_cents: int) -> Real:
        """1 for those that cost no more, and whose price is known; else 0."""
        known = self.price_cents != NONE
        return np.asarray(known & (self.price_cents <= most_cents), dtype=np.float64)

    def copied_chance(self, within_s: float) -> Real:
        """The share of draws in which copying takes no longer."""
        largest = within_s / np.maximum(self.copy_s, 1e-9)
        in_time = np.searchsorted(self.file_factors, largest, side="right")
        return in_time / len(self.file_factors)

    def day_chance(self) -> Real:
        """The share of draws in which the cards have room for the day.

        Larger files leave less room, so that of the draws, sorted by file size, the first do.
        """
        draws = len(self.file_factors)
        low, high = np.zeros(len(self.pairs), np.int64), np.full(len(self.pairs), draws)
        while (open_ := low < high).any():
            middle = (low + high) // 2
            factor = self.file_factors[np.minimum(middle, draws - 1)]
            fits = self.sets * self._room(factor) >= self.pairs.day_frames
            low = np.where(open_ & fits, middle + 1, low)
            high = np.where(open_ & ~fits, middle, high)
        return low / draws


def _cost(price: Whole, pieces: Whole) -> Whole:
    """Of so many pieces; NONE where some have to be bought whose price nobody knows."""
    return np.where(pieces <= 0, 0, np.where(price == NONE, NONE, price * pieces))
