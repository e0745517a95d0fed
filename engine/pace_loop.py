"""Which paces of one writer meet what is asked, in one draw, without shooting every pace; compiled.

Where one writer serves two slots in turn, a burst depends on a pair of cards by one number alone:
the time that both of them take for a frame. A longer one never brings a frame sooner, so that
between two paces which both meet a thing, or both miss it, all others do the same. Readiness alone
goes up and down a little, as the last frame in time falls out of the hold; it is bounded by the
moments at which the last frames of both ends are written. What stays open is shot pair by pair.

That holds for bodies that fire again as soon as there is room for a frame (`RESUME_FRAMES` 1).
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engine.burst import (
    FIRST_PICTURE,
    FRAMES,
    MOST_READY_NS,
    OUTCOME_LENGTH,
    READY,
    met_by,
    shoot,
)
from engine.plan import ENCODE_NS, HOLD_NS, OVERHEAD_NS, SLOT_1, TRANSFER_NS

Whole = NDArray[np.int64]

MOST_CELLS = 4_096
OPEN = 255  # a cell whose paces have to be shot
FINEST = 13  # a cell is never cut finer than a pace over 2 to this power


@njit(cache=True, nogil=True)
def paces(
    plan: Whole, spread: float, noise: NDArray[np.float32], asked: Whole, span: tuple[int, int],
    largest: int, rooms: Whole, edges: Whole, met: NDArray[np.uint8],
) -> int:  # fmt: skip
    """Cuts the paces of `span` (shortest and longest time of a frame, ns) into cells.

    Each cell ends with its place in `edges`, which is part of it, and meets what its place in `met`
    says. Returns how many there are. `plan` is that of a single slot, its overhead the sum of both;
    a frame is at most `largest` of its nominal size; `rooms` has room for two bursts.
    """
    shortest, longest = span
    out = np.empty(OUTCOME_LENGTH, dtype=np.int64)
    here, there, cells = rooms[0], rooms[1], 0
    pace, step = shortest, max(longest - shortest, 1)
    frames, bits = _at_pace(plan, pace, spread, noise, asked, here, out)
    while cells < MOST_CELLS - 1 and (pace < longest or cells == 0):
        further = min(pace + step, longest)
        fewer, others = _at_pace(plan, further, spread, noise, asked, there, out)
        slowest_ns = plan[SLOT_1 + OVERHEAD_NS] + (further * largest >> 10) + 1
        settled = bits == others and (
            asked[FIRST_PICTURE] != 0
            or _stays(bits >> READY & 1, plan, asked, here, frames, there, fewer, slowest_ns)
        )
        if not settled and step > max(pace >> FINEST, 1):
            step = max(step // 4, 1)
            continue
        edges[cells], met[cells] = further, bits if settled else OPEN
        cells += 1
        here, there = there, here
        pace, frames, bits = further, fewer, others
        step *= 2
    if pace < longest:
        edges[cells], met[cells] = longest, OPEN
        cells += 1
    return cells


@njit(cache=True, nogil=True)
def _at_pace(
    plan: Whole, pace_ns: int, spread: float, noise: NDArray[np.float32], asked: Whole,
    room: Whole, out: Whole,
) -> tuple[int, int]:  # fmt: skip
    """Frames of a burst in which a nominal frame is written in `pace_ns`, and what it meets."""
    plan[SLOT_1 + TRANSFER_NS] = pace_ns
    shoot(plan, spread, noise, asked, room, out)
    return out[FRAMES], met_by(out, asked)


@njit(cache=True, nogil=True)
def _stays(
    ready: int, plan: Whole, asked: Whole, here: Whole, frames: int, there: Whole, fewer: int,
    slowest_ns: int,
) -> bool:  # fmt: skip
    """Whether all paces between two are ready in time, or (`ready` 0) none is.

    A frame is never written before it is at the quicker end (`here`, with its `frames`), nor after
    it is at the slower end (`there`, with `fewer`); those that the slower end did not take were
    taken within the hold, and need the encoder's time and `slowest_ns` each.
    """
    limit_ns = plan[HOLD_NS] + asked[MOST_READY_NS]
    if not ready:
        return bool(fewer > 0 and here[2, fewer - 1] > limit_ns)
    encoded_ns = there[1, fewer - 1] if fewer else 0
    written_ns = there[2, fewer - 1] if fewer else 0
    for _ in range(frames - fewer):
        encoded_ns = max(encoded_ns, plan[HOLD_NS]) + plan[ENCODE_NS]
        written_ns = max(written_ns, encoded_ns) + slowest_ns
    return bool(written_ns <= limit_ns)
