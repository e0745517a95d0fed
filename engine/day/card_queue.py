"""Cards that are used one after the other: when each is full, when to swap, what one would lose."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from engine.day.plan import MOST_CARDS, SlotCard
from engine.quantities import LOW

Real = NDArray[np.float64]
Whole = NDArray[np.int64]
Flags = NDArray[np.bool_]
Card = TypeVar("Card")

RARELY = 0.1  # share of days: a card that is full in fewer needs no swap
HALF = 0.5  # of a card must be used before a pause is worth a swap


@dataclass(frozen=True, eq=False)
class UsedCard:
    """One card of a queue in each draw.

    It takes the presses from the place `first` to before `last`, and is changed before the press
    at `full_s`, which it has no room for (inf: it has room for all).
    """

    first: Whole
    last: Whole
    full_s: Real

    @property
    def full_share(self) -> float:
        """The share of days on which it is full before the end."""
        return float(np.isfinite(self.full_s).mean())

    @property
    def used_share(self) -> float:
        """The share of days on which anything is written to it."""
        return float((self.last > self.first).mean())


@dataclass(frozen=True, eq=False)
class Written:
    """What presses write (axes: draw, place): MB from the first on, and when each begins."""

    mb: Real
    press_s: Real

    @classmethod
    def of(cls, mb: Real, press_s: Real) -> "Written":
        """What each press writes."""
        return cls(np.cumsum(mb, axis=1), press_s)

    def by(self, place: Whole) -> Real:
        """The MB of all presses before a place of each draw."""
        rows = np.arange(len(self.mb))
        return np.where(place > 0, self.mb[rows, np.maximum(place - 1, 0)], 0.0)

    def filled(self, first: Whole, room_mb: float | Real) -> UsedCard:
        """A card with so much room that takes presses from `first` on, each as a whole.

        A card is never changed during a burst.
        """
        most_mb = self.by(first) + room_mb
        in_all = np.count_nonzero(self.mb <= most_mb[:, None], axis=1)
        return self.used(first, np.maximum(in_all, first))

    def used(self, first: Whole, last: Whole) -> UsedCard:
        """A card that takes the presses from one place to before another."""
        draws, places = self.mb.shape
        full_s = self.press_s[np.arange(draws), np.minimum(last, places - 1)]
        return UsedCard(first, last, np.where(last < places, full_s, np.inf))

    def place_at(self, moment_s: float) -> Whole:
        """The first place that is pressed at a moment or later, in each draw."""
        return np.asarray(np.count_nonzero(self.press_s < moment_s, axis=1))


class CardQueue:
    """Cards that are used one after the other, while a day is simulated, and which is in by now.

    Each press (axes: draw, place) writes `share` of its files to them.
    """

    def __init__(self, cards: Sequence[SlotCard], share: Real) -> None:
        draws, self._places = share.shape
        self._cards, self._share = cards, share
        self._rooms_mb = np.array([card.free_mb for _, card in cards])
        self._number = np.zeros(draws, dtype=np.int64)
        self._lasts = np.full((len(cards), draws), self._places)
        of_kinds: dict[tuple[int, str], int] = {}
        self._kinds = np.array(
            [of_kinds.setdefault((slot, card.kind), len(of_kinds)) for slot, card in cards]
        )
        self._ahead_mb = np.append(self._rooms_mb[:-1], np.inf)
        for number in range(len(cards) - 2, -1, -1):
            if self._kinds[number] == self._kinds[number + 1]:
                self._ahead_mb[number] += self._ahead_mb[number + 1]

    @property
    def kinds(self) -> Whole:
        """The number of the kind of the card that is in, in each draw."""
        return np.asarray(self._kinds[self._number])

    @property
    def ahead_mb(self) -> Real:
        """The room on it and those after it up to one of another kind; inf where there is none."""
        return np.asarray(self._ahead_mb[self._number])

    def card(self, draw: int) -> SlotCard:
        """The card that is in."""
        return self._cards[int(self._number[draw])]

    def written(self, mb: Real, press_s: Real) -> Written:
        """What is written to them, of so many MB by each press."""
        return Written.of(mb * self._share, press_s)

    def full_at(self, written: Written) -> Whole:
        """The place of the press that it has no room for; the end where it has, or is the last."""
        return np.where(self._is_last, self._places, self._filled(written).last)

    def change(self, draws: Flags, places: Whole) -> None:
        """The next card goes in before the press at a place."""
        rows = np.flatnonzero(draws)
        self._lasts[self._number[rows], rows] = places[rows]
        self._number[rows] += 1

    def used(self, written: Written) -> list[UsedCard]:
        """All of them, once the day is over."""
        rows = np.flatnonzero(self._is_last)
        self._lasts[-1, rows] = self._filled(written).last[rows]
        firsts = [np.zeros_like(self._number), *self._lasts[:-1]]
        return [written.used(*one) for one in zip(firsts, self._lasts, strict=True)]

    @property
    def _is_last(self) -> Flags:
        return np.asarray(self._number == len(self._cards) - 1)

    def _filled(self, written: Written) -> UsedCard:
        rows = np.arange(len(self._number))
        first = np.where(self._number > 0, self._lasts[self._number - 1, rows], 0)
        return written.filled(first, self._rooms_mb[self._number])


def use_cards(free_mb: Sequence[float], written: Written) -> list[UsedCard]:
    """Cards with so much room, each used until it has none for the next press."""
    used: list[UsedCard] = []
    first = np.zeros(len(written.mb), dtype=np.int64)
    for room_mb in free_mb:
        used.append(written.filled(first, room_mb))
        first = used[-1].last
    return used


def as_many(cards: Sequence[Card], count: int) -> list[Card]:
    """The first `count` cards, the last one taken again where there are fewer."""
    return [*cards, *[cards[-1]] * (count - len(cards))][:count]


def cards_needed(used: Sequence[UsedCard], last_mb: float, written: Written) -> int:
    """How many cards have room for all on nine days of ten; MOST_CARDS where no number has.

    Those that are taken are `used`; any further one has as much room as the last, `last_mb`.
    """
    for number, card in enumerate(used, 1):
        if card.full_share < RARELY:
            return number
    card = used[-1]
    for number in range(len(used) + 1, MOST_CARDS):
        card = written.filled(card.last, last_mb)
        if card.full_share < RARELY:
            return number
    return MOST_CARDS


def swaps_s(free_mb: Sequence[float], written: Written, pauses_s: Sequence[float]) -> list[float]:
    """When to change each card for the next, so that it is full before on one day in ten at most.

    That is in one of the pauses, moments in order at which nothing is shot, where half of the card
    is used by then; else as late as it may be. Those that need no change are left out.
    """
    found: list[float] = []
    first = np.zeros(len(written.mb), dtype=np.int64)
    for room_mb in free_mb[:-1]:
        card = written.filled(first, room_mb)
        if card.full_share < RARELY:
            break
        late_s = float(np.quantile(card.full_s, LOW, method="lower"))
        before_s = found[-1] if found else 0.0
        in_time = [pause_s for pause_s in pauses_s if before_s < pause_s <= late_s]
        if in_time:
            used_mb = written.by(written.place_at(in_time[-1])) - written.by(first)
            if np.median(used_mb) >= HALF * room_mb:
                late_s = in_time[-1]
        found.append(late_s)
        first = np.minimum(card.last, np.maximum(written.place_at(late_s), first))
    return found


def most_on_one(
    used: Sequence[UsedCard], frames: Whole, copied: Sequence[tuple[Whole, Whole]]
) -> Whole:
    """The most frames of each draw that are on one card alone at any moment.

    `copied` has for each copying the place of the press after it, and how many presses from the
    first on are copied by then.
    """
    draws, places = frames.shape
    taken = np.concatenate(
        [np.zeros((draws, 1), dtype=np.int64), np.cumsum(frames, axis=1)], axis=1
    )
    rows, end = np.arange(draws), np.full(draws, places)
    untils = [*(until for until, _ in copied), end]
    froms = [np.zeros(draws, dtype=np.int64), *(copied_by for _, copied_by in copied)]
    most = np.zeros(draws, dtype=np.int64)
    for card in used:
        for begin, until in zip(froms, untils, strict=True):
            first, last = np.maximum(card.first, begin), np.minimum(card.last, until)
            alone = taken[rows, np.maximum(last, first)] - taken[rows, first]
            most = np.maximum(most, alone)
    return most
