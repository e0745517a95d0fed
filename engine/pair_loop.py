"""Bursts on every pair of cards, compiled; only where the pair itself matters is it shot.

Where each slot has a writer of its own, or one writer goes at the pace of the slower slot, the
slower card alone sets the pace of a burst and the other one follows without being noticed. The
outcome of a pair is then, in every draw, that of its slower card alone, and 40,000 pairs cost no
more than 400 cards do. The pair is shot where that is not certain: one writer that serves both in
turn, a card that may be full within the hold, and a pace that changes or lies too close to tell.
"""

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engine.burst import MET_LENGTH, OUTCOME_LENGTH, count, met_by, shoot
from engine.event_loop import LATEST, NOMINAL, SMALLEST
from engine.pace_loop import MOST_CELLS, OPEN, paces
from engine.plan import (
    ARRANGEMENT,
    CACHE_BYTES,
    CACHED_NS,
    ENDLESS_BYTES,
    FREE_BYTES,
    LENGTH,
    OVERFLOW,
    OVERHEAD_NS,
    SINGLE,
    SLOT_1,
    SLOT_2,
    SLOT_LENGTH,
    SLOW_BELOW_BYTES,
    SLOW_NS,
    TRANSFER_NS,
)
from engine.sweep import draw_body, draw_slot

Whole = NDArray[np.int64]
Real = NDArray[np.float64]


class Luck(NamedTuple):
    """One row a draw; `file`, `memory` and `encoder` are the same for every card.

    `deviations` are those of `engine.sweep` without the two of writing.
    """

    shared: Real
    noise: NDArray[np.float32]
    deviations: Real


class Cards(NamedTuple):
    """The cards of one slot: their places in a plan, how sure and how lucky each writes."""

    rows: Whole
    deviations: Real
    luck: Real


@njit(cache=True, nogil=True)
def draw_cards(cards: Cards, luck: Luck) -> Whole:
    """The places of every card in every draw."""
    draws = len(luck.shared)
    drawn = np.empty((len(cards.rows), draws, SLOT_LENGTH), dtype=np.int64)
    for card in range(len(cards.rows)):
        for draw in range(draws):
            drawn[card, draw] = cards.rows[card]
            draw_slot(
                drawn[card, draw],
                luck.deviations[1],
                luck.shared[draw, 0],
                cards.deviations[card],
                cards.luck[card, draw],
            )
    return drawn


class Alone(NamedTuple):
    """What comes of each card of a slot if it were the only one (axes: card, draw).

    `places` are those of a plan, `outcomes` what comes of a burst, `met` has a bit for each thing
    that was asked, and `counted` the draws that meet it. A nominal frame takes `low_ns` to
    `high_ns`, its overhead left out.
    """

    places: Whole
    outcomes: Whole
    met: NDArray[np.uint8]
    counted: Whole
    low_ns: Whole
    high_ns: Whole


@njit(cache=True, nogil=True)
def shoot_alone(
    plan: Whole, places: Whole, used: Whole, luck: Luck, asked: Whole, most_frames: int
) -> Alone:
    """What comes of a burst on each of the cards at `used` alone, in every draw."""
    room = np.empty((4, most_frames), dtype=np.int64)
    cards, draws = places.shape[:2]
    outcomes = np.empty((cards, draws, OUTCOME_LENGTH), dtype=np.int64)
    met = np.empty((cards, draws), dtype=np.uint8)
    counted = np.zeros((cards, MET_LENGTH), dtype=np.int64)
    low_ns = np.empty((cards, draws), dtype=np.int64)
    high_ns = np.empty((cards, draws), dtype=np.int64)
    alone = np.zeros(LENGTH, dtype=np.int64)
    for draw in range(draws):
        alone[:SLOT_1] = plan[:SLOT_1]
        alone[ARRANGEMENT] = SINGLE
        draw_body(alone, luck.deviations, luck.shared[draw])
        for card in used:
            alone[SLOT_1:SLOT_2] = places[card, draw]
            shoot(alone, luck.deviations[0], luck.noise[draw], asked, room, outcomes[card, draw])
            met[card, draw] = met_by(outcomes[card, draw], asked)
            count(met[card, draw], counted[card])
        for card in range(cards):
            low_ns[card, draw], high_ns[card, draw] = _range_ns(places[card, draw])
    return Alone(places, outcomes, met, counted, low_ns, high_ns)


@njit(cache=True, nogil=True)
def _range_ns(slot: Whole) -> tuple[int, int]:
    """The shortest and the longest time that a nominal frame may take, its overhead left out."""
    low = high = slot[TRANSFER_NS]
    if slot[CACHE_BYTES] > 0:
        low, high = min(low, slot[CACHED_NS]), max(high, slot[CACHED_NS])
    if slot[SLOW_BELOW_BYTES] > 0:
        low, high = min(low, slot[SLOW_NS]), max(high, slot[SLOW_NS])
    return low, high


@njit(cache=True, nogil=True)
def _never_ahead(low_ns: int, high_ns: int, later_ns: int, small: int, large: int) -> bool:
    """Whether no frame is ever on one card before it is on another.

    It takes at least `low_ns` on the one and at most `high_ns` on the other, and the overhead of
    the one is `later_ns` longer; a frame is `small` to `large` of its nominal size.
    """
    if later_ns == 0:
        return low_ns >= high_ns
    # Sizes are rounded down to the nanosecond on both sides.
    ahead_ns = high_ns - low_ns
    return later_ns > (ahead_ns * small >> 10) + 1 and later_ns > (ahead_ns * large >> 10) + 1


@njit(cache=True, nogil=True)
def count_paced(
    plan: Whole,
    pairs: Whole,
    first: Alone,
    second: Alone,
    is_shot: NDArray[np.bool_],
    luck: Luck,
    asked: Whole,
    most_frames: int,
    counted: Whole,
) -> None:
    """Counts likewise the draws of pairs that one writer serves in turn, by its pace alone."""
    rooms = np.empty((2, 4, most_frames), dtype=np.int64)
    out = np.empty(OUTCOME_LENGTH, dtype=np.int64)
    edges = np.empty(MOST_CELLS, dtype=np.int64)
    met_of = np.empty(MOST_CELLS, dtype=np.uint8)
    spread = luck.deviations[0]
    large = max(int(NOMINAL * (1 + spread * luck.noise.max())), SMALLEST)
    both, writer = plan.copy(), np.zeros(LENGTH, dtype=np.int64)
    for draw in range(len(luck.shared)):
        both[:SLOT_1] = plan[:SLOT_1]
        draw_body(both, luck.deviations, luck.shared[draw])
        writer[:SLOT_1] = both[:SLOT_1]
        writer[ARRANGEMENT] = SINGLE
        shortest, longest = LATEST, 0
        for one, other in pairs:
            pace = first.high_ns[one, draw] + second.high_ns[other, draw]
            shortest, longest = min(shortest, pace), max(longest, pace)
        slot_1, slot_2 = first.places[pairs[0, 0], draw], second.places[pairs[0, 1], draw]
        writer[SLOT_1:SLOT_2] = slot_1
        writer[SLOT_1 + FREE_BYTES] = ENDLESS_BYTES
        writer[SLOT_1 + CACHE_BYTES] = writer[SLOT_1 + SLOW_BELOW_BYTES] = 0
        writer[SLOT_1 + OVERHEAD_NS] = slot_1[OVERHEAD_NS] + slot_2[OVERHEAD_NS]
        noise = luck.noise[draw]
        cells = paces(
            writer, spread, noise, asked, (shortest, longest), large, rooms, edges, met_of
        )
        for pair in range(len(pairs)):
            one, other = pairs[pair, 0], pairs[pair, 1]
            pace = first.high_ns[one, draw] + second.high_ns[other, draw]
            met = met_of[np.searchsorted(edges[:cells], pace)]
            if met == OPEN or is_shot[pair]:
                both[SLOT_1:SLOT_2] = first.places[one, draw]
                both[SLOT_2:] = second.places[other, draw]
                shoot(both, spread, noise, asked, rooms[0], out)
                met = met_by(out, asked)
            count(met, counted[pair])


@njit(cache=True, nogil=True)
def shoot_pairs(
    plan: Whole,
    pairs: Whole,
    first: Alone,
    second: Alone,
    is_shot: NDArray[np.bool_],
    luck: Luck,
    asked: Whole,
    most_frames: int,
    counted: Whole,
    outcomes: Whole,
) -> None:
    """Counts into `counted`, for each pair, the draws that meet what is asked.

    `outcomes` gets what came of each pair in each draw, unless it is empty. A pair is shot
    throughout where `is_shot` says so.
    """
    room = np.empty((4, most_frames), dtype=np.int64)
    out = np.empty(OUTCOME_LENGTH, dtype=np.int64)
    both = plan.copy()
    spread, draws, keeps = luck.deviations[0], len(luck.shared), outcomes.size > 0
    small = max(int(NOMINAL * (1 + spread * luck.noise.min())), SMALLEST)
    large = max(int(NOMINAL * (1 + spread * luck.noise.max())), SMALLEST)
    for pair in range(len(pairs)):
        one, other = pairs[pair, 0], pairs[pair, 1]
        if plan[ARRANGEMENT] == OVERFLOW and not is_shot[pair]:
            counted[pair] = first.counted[one]
            if keeps:
                outcomes[pair] = first.outcomes[one]
            continue
        later = first.places[one, 0, OVERHEAD_NS] - second.places[other, 0, OVERHEAD_NS]
        for draw in range(draws):
            low_1, high_1 = first.low_ns[one, draw], first.high_ns[one, draw]
            low_2, high_2 = second.low_ns[other, draw], second.high_ns[other, draw]
            if not is_shot[pair] and _never_ahead(low_1, high_2, later, small, large):
                met = first.met[one, draw]
                if keeps:
                    outcomes[pair, draw] = first.outcomes[one, draw]
            elif not is_shot[pair] and _never_ahead(low_2, high_1, -later, small, large):
                met = second.met[other, draw]
                if keeps:
                    outcomes[pair, draw] = second.outcomes[other, draw]
            else:
                both[:SLOT_1] = plan[:SLOT_1]
                draw_body(both, luck.deviations, luck.shared[draw])
                both[SLOT_1:SLOT_2] = first.places[one, draw]
                both[SLOT_2:] = second.places[other, draw]
                shoot(both, spread, luck.noise[draw], asked, room, out)
                met = met_by(out, asked)
                if keeps:
                    outcomes[pair, draw] = out
            count(met, counted[pair])
