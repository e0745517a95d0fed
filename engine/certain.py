"""What is certain of pairs of cards but for the size of files: price, room for a day, copying."""

from collections.abc import Callable
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.copying import S_IN_MINUTE
from engine.need import Goal
from engine.options import NONE
from engine.pairs import Pairs, Real, Whole
from engine.units import BYTES_IN_MB


class Certain:
    """The certain part of what `pairs` come to, a value a pair."""

    def __init__(self, pairs: Pairs) -> None:
        self.pairs, self.need = pairs, pairs.need
        self.slots, self.scenario, self.kind = pairs.slots, pairs.scenario, pairs.kind
        self.file_factors = pairs.file_factors

    @cached_property
    def price_cents(self) -> Whole:
        """What has to be bought; a card that is to go into both slots is needed twice."""
        candidates = self.pairs.evaluation.candidates
        price = np.array([NONE if c.price_cents is None else c.price_cents for c in candidates])
        cost = np.where([card.owned for card in candidates], 0, price)
        first, second = self.pairs.numbers.T
        alone = second == NONE
        one = cost[first]
        other = np.where(alone, 0, np.where(first == second, price[second], cost[second]))
        return np.where((one == NONE) | (other == NONE), NONE, one + other)

    @cached_property
    def day_frames(self) -> Whole:
        """Frames that the cards have room for."""
        return self._day_frames(1.0)

    def _day_frames(self, factor: float | Real) -> Whole:
        """The same where files are `factor` of their middle size, for all pairs or for each."""
        held = [
            slot.capacity_bytes[slot.place] // self._drawn_bytes(number, factor)
            for number, slot in enumerate(self.slots)
        ]
        if self.kind == "single":
            return held[0]
        return held[0] + held[1] if self.kind == "overflow" else np.minimum(*held)

    def _drawn_bytes(self, number: int, factor: float | Real) -> Whole:
        size_bytes = np.asarray(self.scenario.bytes_to(number) * np.asarray(factor))
        return np.maximum(size_bytes.astype(np.int64), 1)

    @cached_property
    def copy_s(self) -> Real:
        """Seconds that copying takes, of the day's frames or else of all that fits; inf: none can.

        Of two copies one is enough, the one that is read faster; else one card after the other.
        """
        frames = self.need.frames_a_day
        wanted = self.day_frames if frames is None else np.minimum(frames, self.day_frames)
        speeds = [slot.copy_mb_s[slot.place] * BYTES_IN_MB for slot in self.slots]
        sizes = [float(self.scenario.bytes_to(number)) for number in range(len(self.slots))]
        with np.errstate(divide="ignore", invalid="ignore"):
            if self.kind == "mirror":
                return wanted * sizes[0] / np.maximum(*speeds)
            on_cards = [wanted] * len(speeds)
            if self.kind == "overflow":
                first = self.slots[0]
                on_cards[0] = np.minimum(wanted, (first.capacity_bytes // sizes[0])[first.place])
                on_cards[1] = wanted - on_cards[0]
            each = [
                np.where(n > 0, n * size / speed, 0.0)
                for n, size, speed in zip(on_cards, sizes, speeds, strict=True)
            ]
        return np.asarray(np.sum(each, axis=0))

    def chances(self) -> dict[Goal, Real]:
        """The share of draws that meet each certain goal that is asked for."""
        need = self.need
        chances: dict[Goal, Real] = {
            Goal.COPIES: np.full(len(self.pairs), float(self.kind == "mirror"))
        }
        if need.budget_cents is not None:
            known = self.price_cents != NONE
            chances[Goal.BUDGET] = (known & (self.price_cents <= need.budget_cents)).astype(float)
        if need.frames_a_day is not None:
            chances[Goal.DAY] = self._day_chance(need.frames_a_day)
        if need.copied_min is not None:
            largest = need.copied_min * S_IN_MINUTE / np.maximum(self.copy_s, 1e-9)
            in_time = np.searchsorted(self.file_factors, largest, side="right")
            chances[Goal.COPIED] = in_time / len(self.file_factors)
        return {goal: chance for goal, chance in chances.items() if goal in need.goals}

    def _day_chance(self, frames: int) -> Real:
        """The share of draws in which the cards have room for `frames`."""
        if self.kind == "overflow":
            return self._first_draws(lambda factor: self._day_frames(factor) >= frames)
        # Each card alone: larger files leave less room on all of them, in the same draws.
        alone = [
            (slot.capacity_bytes[:, None] // self._drawn_bytes(number, self.file_factors) >= frames)
            .mean(axis=1)[slot.place]
            for number, slot in enumerate(self.slots)
        ]  # fmt: skip
        return np.asarray(np.min(alone, axis=0))

    def _first_draws(self, has_room: Callable[[Real], NDArray[np.bool_]]) -> Real:
        """The share of the draws, sorted by file size, up to the last that has room."""
        draws = len(self.file_factors)
        low, high = np.zeros(len(self.pairs), np.int64), np.full(len(self.pairs), draws)
        while (unsettled := low < high).any():
            middle = (low + high) // 2
            fits = has_room(self.file_factors[np.minimum(middle, draws - 1)])
            low = np.where(unsettled & fits, middle + 1, low)
            high = np.where(unsettled & ~fits, middle, high)
        return low / draws
