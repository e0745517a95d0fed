"""Which paces of one writer meet what is asked, in one draw, without trying every pace; compiled.

Where one writer serves two slots in turn, a burst depends on a pair of cards by one number alone:
the time that both of them take for a frame. A longer one never brings a frame sooner, so that
between two paces which both meet a thing, or both miss it, all others do the same. When all is
written alone goes up and down a little, as the last frame in time falls out of the hold; it is
bounded by the moments at which the last frames of both ends are written.

Of bursts that find the camera still busy with the one before, that holds to within a frame: at a
longer pace memory holds as much at the next press, less one frame at most. There, both ends keep
clear of what is asked by MARGIN_FRAMES, or are no more than a thousandth apart: no write speed is
known to that. What stays open is simulated pair by pair.

All that holds for bodies that fire again as soon as there is room for a frame (`resume_frames` 1).
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engine.burst.event_loop import ENCODED, WRITTEN
from engine.burst.plan import FINGER_UP_NS, SIZE_BITS, Records
from engine.selection.kernels.worst_burst import (
    CLEAR_NS,
    COUNTED,
    FIRST_PICTURE,
    FRAMES,
    FULL_SPEED,
    FULL_SPEED_NS,
    LEAST_FRAMES,
    LIGHT_OUT,
    LOOKED_AT,
    MOST_CLEAR_NS,
    MOST_PICTURE_NS,
    OUTCOME_LENGTH,
    PICTURE,
    PICTURE_NS,
    WALL,
    is_met,
    judge,
    met_by,
)

Whole = NDArray[np.int64]
Sizes = NDArray[np.int32]

MOST_CELLS = 4_096
OPEN = -1  # a cell whose paces have to be tried
MARGIN_FRAMES = 3
FINEST, FINEST_OF_SERIES = 13, 10  # a cell is never cut finer than a pace over 2 to this power


@njit(cache=True, nogil=True)
def paces(
    plan: Records, holds: Whole, sizes: Sizes, asked: Whole, span: tuple[int, int], largest: int,
    frames: Whole, rows: Whole, edges: Whole, met: Whole,
) -> int:  # fmt: skip
    """Cuts the paces of `span` (shortest and longest time of a frame, ns) into cells.

    Each cell ends with its place in `edges`, which is part of it, and meets what its place in `met`
    says. Returns how many there are. `plan` is that of a single slot, its overhead the sum of both;
    a frame is at most `largest` of its nominal size; `frames` has room for all frames of two
    bursts, `rows` for the outcome of each hold.
    """
    shortest, longest = span
    here, there, cells = frames[0], frames[1], 0
    near, far = np.empty((2, OUTCOME_LENGTH), dtype=np.int64)
    pace, step = shortest, max(longest - shortest, 1)
    bits = _at_pace(plan, pace, holds, sizes, asked, here, rows, near)
    while cells < MOST_CELLS - 1 and (pace < longest or cells == 0):
        further = min(pace + step, longest)
        others = _at_pace(plan, further, holds, sizes, asked, there, rows, far)
        slowest_ns = plan[0].slots[0].overhead_ns + (further * largest >> SIZE_BITS) + 1
        decided = bits == others
        finest = max(pace >> (FINEST_OF_SERIES if len(holds) > 1 else FINEST), 1)
        if decided and len(holds) > 1 and step > finest:
            full_frames = asked[FULL_SPEED_NS] // plan[0].interval_ns
            decided = _is_clear(near, asked, full_frames, slowest_ns)
            decided &= _is_clear(far, asked, full_frames, slowest_ns)
        elif decided and len(holds) == 1:
            decided = _all_alike(plan, holds, asked, bits, here, there, near, far, slowest_ns)
        if not decided and step > finest:
            step = max(step // 4, 1)
            continue
        edges[cells], met[cells] = further, bits if decided else OPEN
        cells += 1
        here, there = there, here
        near, far = far, near
        pace, bits = further, others
        step *= 2
    if pace < longest:
        edges[cells], met[cells] = longest, OPEN
        cells += 1
    return cells


@njit(cache=True, nogil=True)
def _is_clear(outcome: Whole, asked: Whole, full_frames: int, slowest_ns: int) -> bool:
    """Whether a few frames more or less, of `slowest_ns` each, would meet the same things.

    `full_frames` are those at full speed that are asked for.
    """
    frames_clear = not full_frames or abs(outcome[FULL_SPEED] - full_frames) > MARGIN_FRAMES
    least = asked[LEAST_FRAMES]
    frames_clear &= not least or abs(outcome[COUNTED] - least) > MARGIN_FRAMES
    wall_clear = outcome[WALL] == 0 or outcome[FRAMES] > outcome[FULL_SPEED] + MARGIN_FRAMES
    margin_ns = MARGIN_FRAMES * slowest_ns
    return (
        frames_clear
        and wall_clear
        and abs(outcome[CLEAR_NS] - asked[MOST_CLEAR_NS]) > margin_ns
        and abs(outcome[PICTURE_NS] - asked[MOST_PICTURE_NS]) > margin_ns
    )


@njit(cache=True, nogil=True)
def _all_alike(
    plan: Records, holds: Whole, asked: Whole, bits: int, here: Whole, there: Whole, near: Whole,
    far: Whole, slowest_ns: int,
) -> bool:  # fmt: skip
    """Whether one burst meets the same at all paces between two that both meet `bits`."""
    finger_up_ns = holds[0, FINGER_UP_NS]
    many, fewer = near[FRAMES], far[FRAMES]
    latest_ns = _latest_ns(plan, finger_up_ns, there, many, fewer, slowest_ns)
    soonest_ns = here[WRITTEN, fewer - 1] if fewer else 0
    if not _stays(
        is_met(LIGHT_OUT, bits), finger_up_ns + asked[MOST_CLEAR_NS], soonest_ns, latest_ns
    ):
        return False
    # The first picture is never written sooner at a longer pace.
    return asked[PICTURE] == FIRST_PICTURE or _stays(
        is_met(LOOKED_AT, bits), finger_up_ns + asked[MOST_PICTURE_NS], soonest_ns, latest_ns
    )


@njit(cache=True, nogil=True)
def _at_pace(
    plan: Records, pace_ns: int, holds: Whole, sizes: Sizes, asked: Whole, frame: Whole,
    rows: Whole, out: Whole,
) -> int:  # fmt: skip
    """What a burst meets in which a nominal frame is written in `pace_ns`."""
    plan[0].slots[0].transfer_ns = pace_ns
    judge(plan, holds, sizes, asked, frame, rows, out)
    return int(met_by(out, asked, plan[0].interval_ns))


@njit(cache=True, nogil=True)
def _stays(in_time: bool, limit_ns: int, soonest_ns: int, latest_ns: int) -> bool:
    """Whether at all paces between two all is written by `limit_ns`, or (not `in_time`) at none.

    `soonest_ns` and `latest_ns` are the bounds of when it is.
    """
    return bool(latest_ns <= limit_ns) if in_time else bool(soonest_ns > limit_ns)


@njit(cache=True, nogil=True)
def _latest_ns(
    plan: Records, finger_up_ns: int, there: Whole, many: int, fewer: int, slowest_ns: int
) -> int:
    """When all is written at the latest, at any pace between two.

    No frame is written after it is at the slower end (`there`, with `fewer` frames); those that the
    slower end did not take were taken within the hold, and need the encoder's time and `slowest_ns`
    each.
    """
    encoded_ns = there[ENCODED, fewer - 1] if fewer else 0
    written_ns = there[WRITTEN, fewer - 1] if fewer else 0
    for _ in range(many - fewer):
        encoded_ns = max(encoded_ns, finger_up_ns) + plan[0].encode_ns
        written_ns = max(written_ns, encoded_ns) + slowest_ns
    return int(written_ns)
