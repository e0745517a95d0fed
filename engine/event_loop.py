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
LATEST = 2**62
NOMINAL = 1024  # file sizes vary in steps of 1/1024: a multiplication and a shift
NOISE_LENGTH = 4096  # a power of two; a longer burst meets the same noise again
SMALLEST = 51  # about a twentieth of the nominal size: no draw makes a file vanish


@njit(cache=True, nogil=True)
def changing_ns(plan: Whole, slot: int, placed_bytes: int) -> int:
    """Time to write a nominal frame in `slot`, after `placed_bytes` went there before it.

    A nearly full card is slow even where its cache is not used up.
    """
    if plan[slot + FREE_BYTES] - placed_bytes < plan[slot + SLOW_BELOW_BYTES]:
        return int(plan[slot + SLOW_NS])
    if placed_bytes < plan[slot + CACHE_BYTES]:
        return int(plan[slot + CACHED_NS])
    return int(plan[slot + TRANSFER_NS])


@njit(cache=True, nogil=True)
def changes(plan: Whole, slot: int) -> bool:
    """Whether the card in `slot` has a speed that depends on what went there before."""
    return bool(plan[slot + SLOW_BELOW_BYTES] > 0 or plan[slot + CACHE_BYTES] > 0)


@njit(cache=True, nogil=True)
def one_writer_ns(coupling: int, wait_1: int, write_1: int, wait_2: int, write_2: int) -> int:
    """Time of one writer for a frame, from the overhead and transfer of each slot that it uses.

    Serial: the two times add up. Slowest: the larger overhead, then all bytes at the slower rate.
    """
    if coupling == SERIAL:
        return wait_1 + write_1 + wait_2 + write_2
    return max(wait_1, wait_2) + max(write_1, write_2)


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
) -> tuple[int, int, int, int, int, int, int]:
    """Shoots one burst into the last four arrays, which have room for every frame that is due.

    They get the moments at which each frame was taken, encoded, and wholly on its cards, and the
    bytes of its files: the nominal ones times 1 + spread * noise, which has NOISE_LENGTH places
    where spread is not 0. Answers with the number of frames, those before the wall, the wall, the
    moment a card was full, which slot's (0 or 1), the first frame that overflow sends to slot 2,
    and the moment of the last byte; NEVER where there is none.

    Things that fall on the same instant follow one order: room is freed (written frames, then
    encoded ones), the cards are asked for room, memory is asked for room, the frame is taken.
    """
    # What the loop reads at every frame is read from the row once.
    hold_ns, interval_ns, encode_ns = plan[HOLD_NS], plan[INTERVAL_NS], plan[ENCODE_NS]
    memory_bytes, held_bytes, file_bytes = plan[MEMORY_BYTES], plan[HELD_BYTES], plan[FILE_BYTES]
    resume_frames, arrangement, coupling = plan[RESUME_FRAMES], plan[ARRANGEMENT], plan[COUPLING]
    bytes_1, free_1, overhead_1 = (
        plan[SLOT_1 + BYTES],
        plan[SLOT_1 + FREE_BYTES],
        plan[SLOT_1 + OVERHEAD_NS],
    )
    bytes_2, free_2, overhead_2 = (
        plan[SLOT_2 + BYTES],
        plan[SLOT_2 + FREE_BYTES],
        plan[SLOT_2 + OVERHEAD_NS],
    )
    transfer_1, transfer_2 = plan[SLOT_1 + TRANSFER_NS], plan[SLOT_2 + TRANSFER_NS]
    changes_1, changes_2 = changes(plan, SLOT_1), changes(plan, SLOT_2)
    uses_1, uses_2 = True, arrangement in (MIRROR, SPLIT)

    # Frames taken; frames encoded and written by now, as far as memory has noticed. In overflow,
    # those from `switched` on have a queue of their own, and `freed_after` counts in it.
    frames = shrunk = freed = freed_after = 0
    switched = depth = wall_ns = card_full_ns = full_slot = NEVER
    used_bytes = encoder_free_ns = writer_1_free_ns = writer_2_free_ns = 0
    placed_1 = placed_2 = 0  # bytes on their way to each card, or there
    last_ns = 0
    size, varies = NOMINAL, spread > 0
    kept_bytes, to_1, to_2 = file_bytes, bytes_1, bytes_2
    frame_bytes = max(held_bytes, kept_bytes)
    now_ns = 0
    while now_ns < hold_ns:
        queued, overflowed = (frames, 0) if switched == NEVER else (switched, frames)
        while freed < queued and done[freed] <= now_ns:
            used_bytes -= kept[freed]
            freed += 1
        while freed_after < overflowed and done[freed_after] <= now_ns:
            used_bytes -= kept[freed_after]
            freed_after += 1
        while shrunk < frames and encoded[shrunk] <= now_ns:
            used_bytes -= max(held_bytes - kept[shrunk], 0)
            shrunk += 1

        if varies:
            size = max(int(NOMINAL * (1 + spread * noise[frames & (NOISE_LENGTH - 1)])), SMALLEST)
            kept_bytes = file_bytes * size >> 10
            frame_bytes = max(held_bytes, kept_bytes)
            to_1, to_2 = bytes_1 * size >> 10, bytes_2 * size >> 10

        if uses_1 and placed_1 + to_1 > free_1:
            if arrangement == OVERFLOW:
                uses_1, uses_2 = False, True
                switched = freed_after = queued = overflowed = frames
            else:
                full_slot = 0
        if uses_2 and full_slot == NEVER and placed_2 + to_2 > free_2:
            full_slot = 1
        if full_slot != NEVER:
            card_full_ns = now_ns
            break

        if used_bytes + frame_bytes > memory_bytes:
            if wall_ns == NEVER:
                wall_ns, depth = now_ns, frames
            # Goes from one release to the next until there is room.
            needed_bytes = frame_bytes * resume_frames
            while used_bytes + needed_bytes > memory_bytes and used_bytes > 0:
                encoded_ns = encoded[shrunk] if shrunk < frames else LATEST
                done_ns = done[freed] if freed < queued else LATEST
                after_ns = done[freed_after] if freed_after < overflowed else LATEST
                if encoded_ns < min(done_ns, after_ns):
                    now_ns = encoded_ns
                    used_bytes -= max(held_bytes - kept[shrunk], 0)
                    shrunk += 1
                elif done_ns <= after_ns:
                    now_ns = done_ns
                    used_bytes -= kept[freed]
                    freed += 1
                else:
                    now_ns = after_ns
                    used_bytes -= kept[freed_after]
                    freed_after += 1
            if now_ns >= hold_ns or used_bytes + needed_bytes > memory_bytes:
                break  # finger up; or memory is empty and still too small, as a draw can make it

        encoder_free_ns = max(encoder_free_ns, now_ns) + encode_ns
        write_1 = write_2 = 0
        if uses_1:
            write_1 = changing_ns(plan, SLOT_1, placed_1) if changes_1 else transfer_1
            placed_1 += to_1
        if uses_2:
            write_2 = changing_ns(plan, SLOT_2, placed_2) if changes_2 else transfer_2
            placed_2 += to_2
        if varies:
            write_1, write_2 = write_1 * size >> 10, write_2 * size >> 10
        wait_1, wait_2 = overhead_1 if uses_1 else 0, overhead_2 if uses_2 else 0
        if coupling == PARALLEL:
            done_ns = 0
            if uses_1:
                writer_1_free_ns = max(writer_1_free_ns, encoder_free_ns) + wait_1 + write_1
                done_ns = writer_1_free_ns
            if uses_2:
                writer_2_free_ns = max(writer_2_free_ns, encoder_free_ns) + wait_2 + write_2
                done_ns = max(done_ns, writer_2_free_ns)
        else:
            frame_ns = one_writer_ns(coupling, wait_1, write_1, wait_2, write_2)
            writer_1_free_ns = max(writer_1_free_ns, encoder_free_ns) + frame_ns
            done_ns = writer_1_free_ns
        last_ns = max(last_ns, done_ns)
        taken[frames] = now_ns
        encoded[frames] = encoder_free_ns
        done[frames] = done_ns
        kept[frames] = kept_bytes
        used_bytes += frame_bytes
        frames += 1
        now_ns += interval_ns
    return frames, depth, wall_ns, card_full_ns, full_slot, switched, last_ns
