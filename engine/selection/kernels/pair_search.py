"""Bursts on every pair of cards, compiled; simulates a pair only if its slower card can't decide.

Where each slot has a writer of its own, or one writer goes at the pace of the slower slot, the
slower card alone sets the pace of a burst and the other one follows without being noticed. The
outcome of a pair is then, in every draw, that of its slower card alone, and 40,000 pairs cost no
more than 400 cards do. In overflow each card is alone anyway. The pair is simulated where that is
not certain: one writer that serves both in turn, a card that may be full within the burst or slow
down when it is nearly full, and a pace that changes or lies too close to tell.
"""

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engine.burst.event_loop import FRAME_LENGTH, HOLD_OUTCOME_LENGTH, LATEST
from engine.burst.plan import (
    FILE_SIZE,
    OVERFLOW,
    PLAN,
    SINGLE,
    SIZE_BITS,
    UNLIMITED_BYTES,
    Records,
    SlotPlan,
)
from engine.selection.kernels.pace_search import MOST_CELLS, OPEN, paces
from engine.selection.kernels.worst_burst import (
    DAY_FRAMES,
    OUTCOME_LENGTH,
    add_worse,
    judge,
    met_by,
    room_frames,
)

Whole = NDArray[np.int64]
Sizes = NDArray[np.int32]


class Drawn(NamedTuple):
    """What is the same for all cards in each draw (first axis), as `uncertainty.draws` gives it."""

    bodies: Records
    holds: Whole
    sizes: Sizes


class SingleCards(NamedTuple):
    """What comes of each card of a slot if it were the only one (axes: card, draw).

    `places` are those of a plan, `outcomes` what comes of the worst burst, and `met` what it meets;
    UNKNOWN until somebody wants to know it. A nominal frame takes `low_ns` to `high_ns` after an
    overhead of `wait_ns`.
    """

    places: Records
    outcomes: Whole
    met: Whole
    wait_ns: Whole
    low_ns: Whole
    high_ns: Whole


UNKNOWN = -1


class Workspace(NamedTuple):
    """Scratch memory for `worst_burst.judge`: a plan, frames, holds, and what comes of them."""

    plan: Records
    frame: Whole
    rows: Whole
    out: Whole


@njit(cache=True, nogil=True)
def workspace_for(drawn: Drawn, frames: int) -> Workspace:
    """Memory for as many `frames` at once, a power of two."""
    return Workspace(
        np.zeros(1, dtype=PLAN),
        np.empty((FRAME_LENGTH, frames), dtype=np.int64),
        np.empty((drawn.holds.shape[1], HOLD_OUTCOME_LENGTH), dtype=np.int64),
        np.empty(OUTCOME_LENGTH, dtype=np.int64),
    )


@njit(cache=True, nogil=True)
def cards_alone(places: Records) -> SingleCards:
    """The cards at `places`, of which nothing is known yet."""
    cards, draws = places.shape
    low_ns = np.empty((cards, draws), dtype=np.int64)
    high_ns = np.empty((cards, draws), dtype=np.int64)
    for card in range(cards):
        for draw in range(draws):
            low_ns[card, draw], high_ns[card, draw] = _range_ns(places[card, draw])
    outcomes = np.empty((cards, draws, OUTCOME_LENGTH), dtype=np.int64)
    met, wait_ns = np.full((cards, draws), UNKNOWN), places["overhead_ns"].copy()
    return SingleCards(places, outcomes, met, wait_ns, low_ns, high_ns)


@njit(cache=True, nogil=True)
def met_alone(
    drawn: Drawn, alone: SingleCards, card: int, draw: int, asked: Whole, work: Workspace
) -> int:
    """What a card meets alone in one draw; simulated when it is first asked for."""
    if alone.met[card, draw] == UNKNOWN:
        plan, out = work.plan, alone.outcomes[card, draw]
        plan[0] = drawn.bodies[draw]
        plan[0].arrangement = SINGLE
        plan[0].slots[0] = alone.places[card, draw]
        judge(plan, drawn.holds[draw], drawn.sizes[draw], asked, work.frame, work.rows, out)
        alone.met[card, draw] = met_by(out, asked, plan[0].interval_ns)
    return int(alone.met[card, draw])


@njit(cache=True, nogil=True)
def shoot_alone(
    drawn: Drawn, cards: Whole, alone: SingleCards, asked: Whole, frames: int, totals: Whole,
    outcomes: Whole,
) -> None:  # fmt: skip
    """Adds to `totals`, for each of `cards`, what is met in all draws.

    `outcomes` gets what came of each in each draw, unless it is empty.
    """
    work = workspace_for(drawn, frames)
    for place, card in enumerate(cards):
        for draw in range(len(drawn.bodies)):
            totals[place] += met_alone(drawn, alone, card, draw, asked, work)
        if outcomes.size:
            outcomes[place] = alone.outcomes[card]


@njit(cache=True, nogil=True)
def _range_ns(slot: SlotPlan) -> tuple[int, int]:
    """The shortest and the longest time that a nominal frame may take, its overhead left out."""
    low = high = slot.transfer_ns
    if slot.cache_bytes > 0:
        low, high = min(low, slot.cached_ns), max(high, slot.cached_ns)
    if slot.slow_below_bytes > 0:
        low, high = min(low, slot.slow_ns), max(high, slot.slow_ns)
    return low, high


@njit(cache=True, nogil=True)
def _sizes_of(drawn: Drawn, draw: int) -> tuple[int, int]:
    """The smallest and the largest size of a frame in a draw, in parts of NOMINAL."""
    of_hold = drawn.holds[draw, 0, FILE_SIZE]
    sizes = drawn.sizes[draw]
    return int(of_hold * sizes.min() >> SIZE_BITS), int(of_hold * sizes.max() >> SIZE_BITS)


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
    most_ns = max(ahead_ns * small >> SIZE_BITS, ahead_ns * large >> SIZE_BITS)
    return later_ns > most_ns + 1


@njit(cache=True, nogil=True)
def met_together(
    drawn: Drawn, first: SingleCards, second: SingleCards, one: int, other: int, draw: int,
    asked: Whole, work: Workspace,
) -> int:  # fmt: skip
    """What a pair meets in one draw, both cards simulated."""
    work.plan[0] = drawn.bodies[draw]
    work.plan[0].slots[0] = first.places[one, draw]
    work.plan[0].slots[1] = second.places[other, draw]
    judge(work.plan, drawn.holds[draw], drawn.sizes[draw], asked, work.frame, work.rows, work.out)
    return int(met_by(work.out, asked, work.plan[0].interval_ns))


@njit(cache=True, nogil=True)
def count_paced(
    drawn: Drawn,
    pairs: Whole,
    first: SingleCards,
    second: SingleCards,
    is_shot: NDArray[np.bool_],
    asked: Whole,
    frames: int,
    totals: Whole,
) -> None:
    """Adds likewise what is met by pairs that one writer serves in turn, by its pace alone."""
    work = workspace_for(drawn, frames)
    two_bursts = np.empty((2, FRAME_LENGTH, frames), dtype=np.int64)
    edges = np.empty(MOST_CELLS, dtype=np.int64)
    met_of = np.empty(MOST_CELLS, dtype=np.int64)
    writer = np.zeros(1, dtype=PLAN)
    for draw in range(len(drawn.bodies)):
        _, large = _sizes_of(drawn, draw)
        writer[0] = drawn.bodies[draw]
        writer[0].arrangement = SINGLE
        shortest, longest = LATEST, 0
        for one, other in pairs:
            pace = first.high_ns[one, draw] + second.high_ns[other, draw]
            shortest, longest = min(shortest, pace), max(longest, pace)
        writer[0].slots[0] = first.places[pairs[0, 0], draw]
        slot = writer[0].slots[0]
        slot.free_bytes = UNLIMITED_BYTES
        slot.cache_bytes = slot.slow_below_bytes = 0
        slot.overhead_ns += second.places[pairs[0, 1], draw].overhead_ns
        cells = paces(
            writer, drawn.holds[draw], drawn.sizes[draw], asked, (shortest, longest), large,
            two_bursts, work.rows, edges, met_of,
        )  # fmt: skip
        for pair in range(len(pairs)):
            one, other = pairs[pair, 0], pairs[pair, 1]
            pace = first.high_ns[one, draw] + second.high_ns[other, draw]
            met = met_of[_cell_of(pace, edges, cells)]
            if met == OPEN or is_shot[pair]:
                met = met_together(drawn, first, second, one, other, draw, asked, work)
            totals[pair] += met


@njit(cache=True, nogil=True)
def _cell_of(pace_ns: int, edges: Whole, cells: int) -> int:
    """The first of so many cells that ends no sooner than at a pace."""
    low, high = 0, cells - 1
    while low < high:
        middle = (low + high) // 2
        if edges[middle] < pace_ns:
            low = middle + 1
        else:
            high = middle
    return low


# Who decides what comes of a pair: both together, either card, or in overflow the worse of the two.
TOGETHER, FIRST, SECOND, WORSE = range(4)


@njit(cache=True, nogil=True)
def shoot_pairs(
    drawn: Drawn,
    pairs: Whole,
    first: SingleCards,
    second: SingleCards,
    is_shot: NDArray[np.bool_],
    asked: Whole,
    frames: int,
    totals: Whole,
    outcomes: Whole,
) -> None:
    """Adds to `totals`, for each pair, what is met in all draws.

    `outcomes` gets what came of each pair in each draw, unless it is empty. A pair is simulated
    throughout where `is_shot` says so.
    """
    work, draws = workspace_for(drawn, frames), len(drawn.bodies)
    overflows = drawn.bodies[0].arrangement == OVERFLOW
    spills = _spills(drawn, first.places, asked[DAY_FRAMES] if overflows else 0)
    wait_alike = _wait_alike(first.wait_ns, second.wait_ns)
    sizes = np.empty((2, draws), dtype=np.int64)
    for draw in range(draws):
        sizes[0, draw], sizes[1, draw] = _sizes_of(drawn, draw)
    deciding = np.empty(draws, dtype=np.int64)
    for pair in range(len(pairs)):
        one, other = pairs[pair, 0], pairs[pair, 1]
        if not is_shot[pair] and not outcomes.size:
            total = _total_of_known(first, second, spills, one, other, overflows, wait_alike)
            if total != UNKNOWN:
                totals[pair] += total
                continue
        if is_shot[pair]:
            deciding[:] = TOGETHER
        elif overflows:
            deciding[:] = np.where(spills[one], WORSE, FIRST)
        else:
            _decide(first, second, one, other, sizes, deciding)
        for draw in range(draws):
            decides = deciding[draw]
            totals[pair] += _met(decides, drawn, first, second, one, other, draw, asked, work)
            if outcomes.size:
                out = outcomes[pair, draw]
                _keep(decides, work.out, first.outcomes, second.outcomes, one, other, draw, out)


@njit(cache=True, nogil=True)
def _spills(drawn: Drawn, first: Records, day: int) -> NDArray[np.bool_]:
    """Whether a day of so many frames has no room on each of the first cards in each draw."""
    spills = np.zeros(first.shape, dtype=np.bool_)
    if day:
        for card, draw in np.ndindex(spills.shape):
            size = drawn.holds[draw, 0, FILE_SIZE]
            spills[card, draw] = day > room_frames(first[card, draw], size)
    return spills


@njit(cache=True, nogil=True)
def _wait_alike(one_ns: Whole, other_ns: Whole) -> bool:
    """Whether all cards of both slots wait equally long before a frame, draw by draw."""
    wait_ns = one_ns[0]
    return bool((one_ns == wait_ns).all() and (other_ns == wait_ns).all())


@njit(cache=True, nogil=True)
def _total_of_known(
    first: SingleCards, second: SingleCards, spills: NDArray[np.bool_], one: int, other: int,
    overflows: bool, wait_alike: bool,
) -> int:  # fmt: skip
    """What a pair meets in all draws where that is known of the cards that decide; else UNKNOWN.

    Of cards that do not wait alike it is not known. The loops are short, so that they are compiled
    to work on several draws at once.
    """
    total, all_known = 0, overflows or wait_alike
    if overflows:
        for draw in range(spills.shape[1]):
            spilt = second.met[other, draw] if spills[one, draw] else first.met[one, draw]
            all_known &= first.met[one, draw] != UNKNOWN and spilt != UNKNOWN
            total += first.met[one, draw] & spilt
    elif wait_alike:
        for draw in range(spills.shape[1]):
            is_first = first.low_ns[one, draw] >= second.high_ns[other, draw]
            is_second = second.low_ns[other, draw] >= first.high_ns[one, draw]
            met = first.met[one, draw] if is_first else second.met[other, draw]
            all_known &= (is_first or is_second) and met != UNKNOWN
            total += met
    return total if all_known else UNKNOWN


@njit(cache=True, nogil=True)
def _decide(
    first: SingleCards, second: SingleCards, one: int, other: int, sizes: Whole, deciding: Whole
) -> None:
    """Puts into `deciding` who decides in each draw where both cards get every frame.

    `sizes` has the smallest and the largest size of a frame in each draw.
    """
    for draw in range(len(deciding)):
        later_ns = first.wait_ns[one, draw] - second.wait_ns[other, draw]
        low_1, high_1 = first.low_ns[one, draw], first.high_ns[one, draw]
        low_2, high_2 = second.low_ns[other, draw], second.high_ns[other, draw]
        if _never_ahead(low_1, high_2, later_ns, sizes[0, draw], sizes[1, draw]):
            deciding[draw] = FIRST
        elif _never_ahead(low_2, high_1, -later_ns, sizes[0, draw], sizes[1, draw]):
            deciding[draw] = SECOND
        else:
            deciding[draw] = TOGETHER


@njit(cache=True, nogil=True)
def _met(
    decides: int, drawn: Drawn, first: SingleCards, second: SingleCards, one: int, other: int,
    draw: int, asked: Whole, work: Workspace,
) -> int:  # fmt: skip
    """What a pair meets in one draw."""
    if decides == TOGETHER:
        return int(met_together(drawn, first, second, one, other, draw, asked, work))
    if decides == SECOND:
        return int(met_alone(drawn, second, other, draw, asked, work))
    met = met_alone(drawn, first, one, draw, asked, work)
    if decides == WORSE:
        met &= met_alone(drawn, second, other, draw, asked, work)
    return int(met)


@njit(cache=True, nogil=True)
def _keep(
    decides: int, together: Whole, first: Whole, second: Whole, one: int, other: int, draw: int,
    out: Whole,
) -> None:  # fmt: skip
    """Puts into `out` what came of a pair, from both `together` or the outcomes of each alone."""
    for place in range(OUTCOME_LENGTH):
        if decides == TOGETHER:
            out[place] = together[place]
        elif decides == SECOND:
            out[place] = second[other, draw, place]
        else:
            out[place] = first[one, draw, place]
    if decides == WORSE:
        add_worse(second[other, draw], out)
