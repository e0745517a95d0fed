"""The event loop itself, in whole nanoseconds and bytes, compiled.

Compiled because the Desk redraws ten minutes at 120 frames a second while a finger drags, and
because ranges and comparisons take hundreds of thousands of bursts (`bin/bench` prints both).
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engine.plan import (
    ARRANGEMENT,
    BYTES,
    CACHE_BYTES,
    CACHED_NS,
    COUPLING,
    ENCODE_NS,
    FILE_BYTES,
    FREE_BYTES,
    HELD_BYTES,
    HOLD_NS,
    INTERVAL_NS,
    MEMORY_BYTES,
    MIRROR,
    OVERFLOW,
    OVERHEAD_NS,
    PARALLEL,
    RESUME_FRAMES,
    SERIAL,
    SLOT_1,
    SLOT_2,
    SLOW_BELOW_BYTES,
    SLOW_NS,
    SPLIT,
    TRANSFER_NS,
)

Whole = NDArray[np.int64]

NEVER = -1
NOMINAL = 1024  # file sizes vary in steps of 1/1024: a multiplication and a shift
SMALLEST = 51  # about a twentieth of the nominal size: no draw makes a file vanish


@njit(cache=True, nogil=True)
def scaled(nominal: int, size: int) -> int:
    """Bytes or ns of a file of `size`/1024 of the nominal size."""
    return nominal if size == NOMINAL else nominal * size >> 10


@njit(cache=True, nogil=True)
def transfer_ns(plan: Whole, slot: int, placed_bytes: int) -> int:
    """Time to write a nominal frame in `slot`, after `placed_bytes` went there before it.

    A nearly full card is slow even where its cache is not used up.
    """
    if plan[slot + FREE_BYTES] - placed_bytes < plan[slot + SLOW_BELOW_BYTES]:
        return int(plan[slot + SLOW_NS])
    if placed_bytes < plan[slot + CACHE_BYTES]:
        return int(plan[slot + CACHED_NS])
    return int(plan[slot + TRANSFER_NS])


@njit(
    "(int64[::1], float64, float32[::1], int64[::1], int64[::1], int64[::1], int64[::1])",
    cache=True,
    nogil=True,
)
def run(  # noqa: C901 - the whole order of events, in one place
    plan: Whole,
    spread: float,
    noise: NDArray[np.float32],
    taken: Whole,
    encoded: Whole,
    done: Whole,
    kept: Whole,
) -> tuple[int, int, int, int, int]:
    """Shoots one burst into the last four arrays, which have room for every frame that is due.

    They get the moments at which each frame was taken, encoded, and wholly on its cards, and the
    bytes of its files: the nominal ones times 1 + spread * noise. Answers with the number of
    frames, the wall, the moment a card was full, which slot's (0 or 1), and the first frame
    that overflow sends to slot 2; NEVER where there is none.

    Things that fall on the same instant follow one order: room is freed (written frames, then
    encoded ones), the cards are asked for room, memory is asked for room, the frame is taken.
    """
    hold_ns, interval_ns, encode_ns = plan[HOLD_NS], plan[INTERVAL_NS], plan[ENCODE_NS]
    memory_bytes, held_bytes, file_bytes = plan[MEMORY_BYTES], plan[HELD_BYTES], plan[FILE_BYTES]
    arrangement, coupling = plan[ARRANGEMENT], plan[COUPLING]
    to_both = arrangement in (MIRROR, SPLIT)

    # Frames taken; frames encoded and written by now, as far as memory has noticed. In overflow,
    # those from `switched` on have a queue of their own, and `freed_after` counts in it.
    frames = shrunk = freed = freed_after = 0
    switched = wall_ns = card_full_ns = full_slot = NEVER
    used_bytes = encoder_free_ns = first_free_ns = second_free_ns = 0
    first_bytes = second_bytes = 0  # placed on each card so far
    stalled = False
    now_ns = 0
    while now_ns < hold_ns:
        queued = frames if switched == NEVER else switched
        while freed < queued and done[freed] <= now_ns:
            used_bytes -= kept[freed]
            freed += 1
        if switched != NEVER:
            while freed_after < frames and done[freed_after] <= now_ns:
                used_bytes -= kept[freed_after]
                freed_after += 1
        while shrunk < frames and encoded[shrunk] <= now_ns:
            used_bytes -= max(held_bytes - kept[shrunk], 0)
            shrunk += 1

        size = NOMINAL
        if spread > 0:
            size = max(int(NOMINAL * (1 + spread * noise[frames])), SMALLEST)
        to_first = scaled(plan[SLOT_1 + BYTES], size)
        to_second = scaled(plan[SLOT_2 + BYTES], size)
        fits_first = first_bytes + to_first <= plan[SLOT_1 + FREE_BYTES]
        if arrangement == OVERFLOW and switched == NEVER and not fits_first:
            switched = freed_after = frames
        uses_first, uses_second = switched == NEVER, to_both or switched != NEVER
        if uses_first and not fits_first:
            full_slot = 0
        elif uses_second and second_bytes + to_second > plan[SLOT_2 + FREE_BYTES]:
            full_slot = 1
        if full_slot != NEVER:
            card_full_ns = now_ns
            break

        kept_bytes = scaled(file_bytes, size)
        frame_bytes = max(held_bytes, kept_bytes)
        if used_bytes + frame_bytes * (plan[RESUME_FRAMES] if stalled else 1) > memory_bytes:
            if wall_ns == NEVER:
                wall_ns = now_ns
            if used_bytes == 0:
                break  # memory is empty and still too small, as a draw can make it
            stalled = True
            now_ns = encoded[shrunk] if shrunk < frames else done[frames - 1]
            if freed < queued:
                now_ns = min(now_ns, done[freed])
            if switched != NEVER and freed_after < frames:
                now_ns = min(now_ns, done[freed_after])
            continue
        stalled = False

        encoder_free_ns = max(encoder_free_ns, now_ns) + encode_ns
        first_ns = second_ns = first_wait_ns = second_wait_ns = 0
        if uses_first:
            first_wait_ns = plan[SLOT_1 + OVERHEAD_NS]
            first_ns = scaled(transfer_ns(plan, SLOT_1, first_bytes), size)
            first_bytes += to_first
        if uses_second:
            second_wait_ns = plan[SLOT_2 + OVERHEAD_NS]
            second_ns = scaled(transfer_ns(plan, SLOT_2, second_bytes), size)
            second_bytes += to_second
        if coupling == PARALLEL:
            done_ns = 0
            if uses_first:
                first_free_ns = max(first_free_ns, encoder_free_ns) + first_wait_ns + first_ns
                done_ns = first_free_ns
            if uses_second:
                second_free_ns = max(second_free_ns, encoder_free_ns) + second_wait_ns + second_ns
                done_ns = max(done_ns, second_free_ns)
        else:
            if coupling == SERIAL:
                writing_ns = first_wait_ns + first_ns + second_wait_ns + second_ns
            else:
                writing_ns = max(first_wait_ns, second_wait_ns) + max(first_ns, second_ns)
            first_free_ns = max(first_free_ns, encoder_free_ns) + writing_ns
            done_ns = first_free_ns
        taken[frames] = now_ns
        encoded[frames] = encoder_free_ns
        done[frames] = done_ns
        kept[frames] = kept_bytes
        used_bytes += frame_bytes
        frames += 1
        now_ns += interval_ns
    return frames, wall_ns, card_full_ns, full_slot, switched
