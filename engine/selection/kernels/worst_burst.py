"""What comes of the worst burst of a day, and what is asked of it; compiled.

A need is met when every burst meets it. So its bursts are shot one after the other until the
camera is steady (memory, caches and writers as at the press before), on cards with room, and again
on cards as full as at the end of the day where that slows them down; of each figure the worst
counts. A card is swapped for another before a burst that it has no room for. In overflow, the day
begins on slot 1, and goes on in slot 2 once slot 1 is full.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engine.burst import event_loop
from engine.burst.event_loop import NEVER, run
from engine.burst.plan import (
    FILE_SIZE,
    FINGER_UP_NS,
    OVERFLOW,
    PRESS_NS,
    SINGLE,
    SIZE_BITS,
    UNLIMITED_BYTES,
    Records,
    SlotPlan,
)
from engine.burst.unhindered import shoot_unhindered

Whole = NDArray[np.int64]
Sizes = NDArray[np.int32]

LAST_BURSTS = 5  # of a day, at least, that are shot on cards as full as they then are

# The worst of all bursts: frames in all of the hold; those within the time they are counted in;
# those before the wall, or all of a hold without; whether any met a wall; after finger up the light
# out, and the picture that is waited for.
FRAMES, COUNTED, FULL_SPEED, WALL, CLEAR_NS, PICTURE_NS, OUTCOME_LENGTH = range(7)
# What a burst is asked for, full speed as a time, whatever the frame rate truly is; DAY_FRAMES 0:
# nobody said how many.
(
    FULL_SPEED_NS,
    LEAST_FRAMES,
    MOST_CLEAR_NS,
    MOST_PICTURE_NS,
    PICTURE,
    DAY_FRAMES,
    ASKED_LENGTH,
) = range(7)
FIRST_PICTURE, LAST_PICTURE, AT_LIGHT_OUT = range(3)  # what is waited for
# Which of it was met, the last one asked of all: that memory never refused a frame. Each has a
# field of COUNT_BITS, 1 or 0, so that a sum over draws counts all of them at once.
FULL_RATE, ENOUGH, LOOKED_AT, LIGHT_OUT, NO_WALL, MET_LENGTH = range(6)
COUNT_BITS = 12
MOST_DRAWS = 2**COUNT_BITS - 1


@njit(cache=True, nogil=True)
def judge(
    plan: Records, holds: Whole, sizes: Sizes, asked: Whole, frame: Whole, rows: Whole, out: Whole
) -> None:
    """Shoots the bursts of a day and notes the worst of them in `out`; `plan` has one PLAN.

    `frame` is scratch memory for `event_loop.run`, `rows` for the outcome of each hold.
    """
    out[FRAMES] = out[COUNTED] = out[FULL_SPEED] = event_loop.LATEST
    out[WALL] = out[CLEAR_NS] = out[PICTURE_NS] = 0
    size, day = holds[0, FILE_SIZE], asked[DAY_FRAMES]
    due = -(-(holds[0, FINGER_UP_NS] - holds[0, PRESS_NS]) // plan[0].interval_ns)
    alone = plan.copy()
    if plan[0].arrangement != OVERFLOW:
        _add_day(alone, due, day, holds, sizes, asked, frame, rows, out)
        return
    room = room_frames(plan[0].slots[0], size)
    if room < due:  # goes on in slot 2 within the first burst
        _add(alone, holds[:1], sizes, asked, False, frame, rows, out)
    else:
        alone[0].arrangement = SINGLE
        _add_day(alone, due, day, holds, sizes, asked, frame, rows, out)
    if day > room:
        on_slot_2(plan, alone)
        _add_day(alone, due, day - room, holds, sizes, asked, frame, rows, out)


@njit(cache=True, nogil=True)
def _add_day(
    plan: Records,
    due: int,
    day: int,
    holds: Whole,
    sizes: Sizes,
    asked: Whole,
    frame: Whole,
    rows: Whole,
    out: Whole,
) -> None:
    """Adds the bursts of a day of `day` frames to the worst; `plan` is not one of overflow."""
    size = holds[0, FILE_SIZE]
    room = room_of(plan, size)
    if room < due:
        _add(plan, holds[:1], sizes, asked, False, frame, rows, out)
        return
    roomy = plan.copy()
    for slot in roomy[0].slots:
        slot.free_bytes = UNLIMITED_BYTES
    shot = _add(roomy, holds, sizes, asked, True, frame, rows, out)
    last = min(max(shot, LAST_BURSTS), len(holds))
    if slows_when_filled(plan, size, min(max(day, last * due), room), last * due):
        _add(plan, holds[:last], sizes, asked, False, frame, rows, out)


@njit(cache=True, nogil=True)
def on_slot_2(plan: Records, alone: Records) -> None:
    """Makes `alone` what `plan` is once all frames go to slot 2."""
    alone[0] = plan[0]
    alone[0].arrangement = SINGLE
    alone[0].slots[0] = plan[0].slots[1]


@njit(cache=True, nogil=True)
def room_frames(slot: SlotPlan, size: int) -> int:
    """Frames that the card in `slot` has room for."""
    return int(slot.free_bytes // max(slot.bytes * size >> SIZE_BITS, 1))


@njit(cache=True, nogil=True)
def room_of(plan: Records, size: int) -> int:
    """Frames that the cards have room for; `plan` is not one of overflow."""
    room = room_frames(plan[0].slots[0], size)
    if plan[0].arrangement == SINGLE:
        return room
    return min(room, room_frames(plan[0].slots[1], size))


@njit(cache=True, nogil=True)
def slows_when_filled(plan: Records, size: int, end: int, series: int) -> bool:
    """Whether a card is slow, as it is nearly full, once `end` frames are on the cards of `plan`.

    Fills the cards, but for the last `series` of these frames.
    """
    slows = False
    for number in range(1 if plan[0].arrangement == SINGLE else 2):
        slot = plan[0].slots[number]
        frame_bytes = slot.bytes * size >> SIZE_BITS
        slows |= slot.free_bytes - end * frame_bytes < slot.slow_below_bytes
        slot.free_bytes -= max(end - series, 0) * frame_bytes
    return slows


@njit(cache=True, nogil=True)
def _add(
    plan: Records,
    holds: Whole,
    sizes: Sizes,
    asked: Whole,
    until_steady: bool,
    frame: Whole,
    rows: Whole,
    out: Whole,
) -> int:
    """Adds the bursts of a series to the worst; answers how many were shot."""
    card_full_ns, shot = NEVER, 0
    # A series is steady at once where the first burst is written before the second begins.
    followed = 1 if until_steady and len(holds) > 1 else len(holds)
    if shoot_unhindered(plan[0], holds[:followed], sizes, sizes.max(), rows) and (
        followed == len(holds) or rows[0, event_loop.ALL_WRITTEN_NS] <= holds[1, PRESS_NS]
    ):
        shot = followed
    else:
        _, shot, card_full_ns, _, _ = run(plan[0], holds, sizes, until_steady, frame, rows)
    for number in range(shot):
        finger_up_ns = holds[number, FINGER_UP_NS]
        if number and card_full_ns != NEVER and card_full_ns < finger_up_ns:
            break  # another card takes its place before this burst
        hold = rows[number]
        met_wall = hold[event_loop.DEPTH] != NEVER
        full_speed = hold[event_loop.DEPTH] if met_wall else hold[event_loop.FRAMES]
        if asked[PICTURE] == FIRST_PICTURE:
            seen_ns = hold[event_loop.FIRST_WRITTEN_NS]
        elif asked[PICTURE] == LAST_PICTURE:
            seen_ns = hold[event_loop.LAST_WRITTEN_NS]
        else:
            seen_ns = hold[event_loop.ALL_WRITTEN_NS]
        clear_ns = hold[event_loop.ALL_WRITTEN_NS] - finger_up_ns
        out[FRAMES] = min(out[FRAMES], hold[event_loop.FRAMES])
        out[COUNTED] = min(out[COUNTED], hold[event_loop.COUNTED])
        out[FULL_SPEED] = min(out[FULL_SPEED], full_speed)
        out[WALL] = max(out[WALL], int(met_wall))
        out[CLEAR_NS] = max(out[CLEAR_NS], clear_ns)
        out[PICTURE_NS] = max(out[PICTURE_NS], seen_ns - finger_up_ns)
    return int(shot)


@njit(cache=True, nogil=True)
def add_worse(other: Whole, out: Whole) -> None:
    """Makes `out` the worse of two outcomes in every figure."""
    for place in (FRAMES, COUNTED, FULL_SPEED):
        out[place] = min(out[place], other[place])
    for place in (WALL, CLEAR_NS, PICTURE_NS):
        out[place] = max(out[place], other[place])


@njit(cache=True, nogil=True)
def met_by(outcome: Whole, asked: Whole, interval_ns: int) -> int:
    """A 1 in the field of each thing asked that `outcome` meets, at `interval_ns` a frame."""
    return int(
        (outcome[FULL_SPEED] * interval_ns >= asked[FULL_SPEED_NS]) << COUNT_BITS * FULL_RATE
        | (outcome[COUNTED] >= asked[LEAST_FRAMES]) << COUNT_BITS * ENOUGH
        | (outcome[PICTURE_NS] <= asked[MOST_PICTURE_NS]) << COUNT_BITS * LOOKED_AT
        | (outcome[CLEAR_NS] <= asked[MOST_CLEAR_NS]) << COUNT_BITS * LIGHT_OUT
        | (outcome[WALL] == 0) << COUNT_BITS * NO_WALL
    )


@njit(cache=True, nogil=True)
def is_met(thing: int, met: int) -> bool:
    """Whether a thing is among what is `met`."""
    return bool(met >> COUNT_BITS * thing & 1)


def counts_of(totals: Whole) -> Whole:
    """How often each thing was met, from sums of what `met_by` tells (last axis: thing)."""
    return np.asarray(totals[..., None] >> COUNT_BITS * np.arange(MET_LENGTH) & MOST_DRAWS)
