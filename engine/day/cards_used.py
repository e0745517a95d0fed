"""Which card each frame of a day went to, by the swaps that were noted."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import inf

import numpy as np
from numpy.typing import NDArray

from engine.burst.arrangement import Arrangement

Real = NDArray[np.float64]


@dataclass(frozen=True)
class Swap:
    """A `card`, by its name, goes into a slot (1 or 2) at a moment, in seconds."""

    slot: int
    at_s: float
    card: str


@dataclass(frozen=True, kw_only=True)
class CardUse:
    """A card in a slot from one moment (None: the start) until before another (None: the end).

    `mb` of so many `frames` were written to it.
    """

    slot: int
    card: str
    from_s: float | None
    until_s: float | None
    frames: int
    mb: float


@dataclass(frozen=True, kw_only=True)
class Writing:
    """How a day was written: its arrangement, the cards in the slots at the start, slot 1 first.

    `shares` is how much of a frame's bytes each slot takes where it is split,
    `rooms_mb` the room on cards by their names; one that is not in it has room for all.
    """

    arrangement: Arrangement
    first: Sequence[str]
    shares: Sequence[float]
    rooms_mb: Mapping[str, float]


def cards_used(writing: Writing, swaps: Sequence[Swap], times_s: Real, mb: Real) -> list[CardUse]:
    """The cards of a day in the order in which they went in, slot by slot.

    `times_s` are the moments of its frames, in order, and `mb` all files of each. A frame that is
    taken at the moment of a swap goes to the card that goes in. In overflow a card in slot 1 is
    written to until it has no room for the next frame.
    """
    in_order = sorted(swaps, key=lambda one: one.at_s)
    found: list[CardUse] = []
    is_left = np.ones(len(mb), dtype=np.bool_)  # for slot 2, in overflow
    for number, first in enumerate(writing.first, 1):
        share = writing.shares[number - 1] if writing.arrangement.splits else 1.0
        for card, from_s, until_s in _turns(first, [one for one in in_order if one.slot == number]):
            is_its = (from_s <= times_s) & (times_s < until_s)
            if writing.arrangement is Arrangement.OVERFLOW:
                is_its &= is_left
                if number == 1:
                    is_its &= np.cumsum(np.where(is_its, mb, 0)) <= writing.rooms_mb.get(card, inf)
                is_left &= ~is_its
            found.append(
                CardUse(
                    slot=number, card=card, from_s=None if from_s == -inf else from_s,
                    until_s=None if until_s == inf else until_s,
                    frames=int(is_its.sum()), mb=float(mb[is_its].sum()) * share,
                )
            )  # fmt: skip
    return found


def _turns(first: str, swaps: Sequence[Swap]) -> Iterator[tuple[str, float, float]]:
    """Each card of a slot with the moments from which and until which it is in it."""
    starts_s = [-inf, *(one.at_s for one in swaps)]
    cards = [first, *(one.card for one in swaps)]
    yield from zip(cards, starts_s, [*starts_s[1:], inf], strict=True)
