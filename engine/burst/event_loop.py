"""The event loop itself, in whole nanoseconds and bytes, compiled.

Compiled because the Desk redraws ten minutes at 120 frames a second while a finger drags, and
because ranges and comparisons take hundreds of thousands of bursts (`bin/bench` prints both).
"""

import numpy as np
from numba import boolean, from_dtype, int32, int64, njit
from numpy.typing import NDArray

from engine.burst.plan import (
    CACHED,
    COUNTED_UNTIL_NS,
    FILE_SIZE,
    FINGER_UP_NS,
    MIRROR,
    NEARLY_FULL,
    NOMINAL,
    OVERFLOW,
    PARALLEL,
    PLAN,
    PRESS_NS,
    SERIAL,
    SIZE_BITS,
    SLOT_2_PACE,
    SPLIT,
    STEADY,
    UNUSED,
    Plan,
    SlotPlan,
)
from engine.quantities import NS_IN_S

Whole = NDArray[np.int64]
Sizes = NDArray[np.int32]

NEVER = -1
LATEST = 2**62

# What is noted of every frame: the moments at which it was taken, encoded and wholly on its cards,
# the bytes of its files, and the pace of both slots (that of slot 2 times SLOT_2_PACE).
TAKEN, ENCODED, WRITTEN, KEPT, PACE, FRAME_LENGTH = range(6)

# What is noted of every hold: its frames, those taken before they are no longer counted, those
# before the wall, the wall; the moments at which its first frame, its last one, and all frames
# taken so far are on their cards; and the pace at which is written when the finger is up.
(
    FRAMES,
    COUNTED,
    DEPTH,
    WALL_NS,
    FIRST_WRITTEN_NS,
    LAST_WRITTEN_NS,
    ALL_WRITTEN_NS,
    FINAL_PACE,
    HOLD_OUTCOME_LENGTH,
) = range(9)


@njit(cache=True, nogil=True)
def flushed_bytes(idle_ns: int, bytes_s: int) -> int:
    """What a cache gives back in `idle_ns`, rounded down; in steps that stay below 2^63."""
    whole_s, rest_ns = idle_ns // NS_IN_S, idle_ns % NS_IN_S
    a_ns, rest_bytes_s = bytes_s // NS_IN_S, bytes_s % NS_IN_S
    return int(a_ns * idle_ns + whole_s * rest_bytes_s + rest_ns * rest_bytes_s // NS_IN_S)


@njit(cache=True, nogil=True)
def level_after(level_bytes: int, idle_ns: int, bytes_s: int) -> int:
    """What is in a cache of `level_bytes` after its card had nothing to write for `idle_ns`."""
    if level_bytes == 0 or idle_ns <= 0:
        return level_bytes
    if idle_ns // NS_IN_S > level_bytes // max(bytes_s, 1):
        return 0
    return max(level_bytes - flushed_bytes(idle_ns, bytes_s), 0)


@njit(cache=True, nogil=True)
def pace_of(slot: SlotPlan, placed_bytes: int, level_bytes: int, frame_bytes: int) -> int:
    """The pace of a frame of `frame_bytes` in `slot`, after `placed_bytes` were meant for it.

    A nearly full card is slow whatever its cache; else the cache takes the frame if it fits.
    """
    if slot.free_bytes - placed_bytes < slot.slow_below_bytes:
        return NEARLY_FULL
    return CACHED if level_bytes + frame_bytes <= slot.cache_bytes else STEADY


@njit(cache=True, nogil=True)
def transfer_ns(slot: SlotPlan, pace: int) -> int:
    """Time to write a nominal frame in `slot` at `pace`, its overhead left out."""
    if pace == STEADY:
        return int(slot.transfer_ns)
    if pace == CACHED:
        return int(slot.cached_ns)
    return int(slot.slow_ns) if pace == NEARLY_FULL else 0


@njit(cache=True, nogil=True)
def changes(slot: SlotPlan) -> bool:
    """Whether the card in `slot` has a speed that depends on what went there before."""
    return bool(slot.slow_below_bytes > 0 or slot.cache_bytes > 0)


@njit(cache=True, nogil=True)
def one_writer_ns(coupling: int, wait_1: int, write_1: int, wait_2: int, write_2: int) -> int:
    """Time of one writer for a frame, from the overhead and transfer of each slot that it uses.

    Serial: the two times add up. Slowest: the larger overhead, then all bytes at the slower rate.
    """
    if coupling == SERIAL:
        return wait_1 + write_1 + wait_2 + write_2
    return max(wait_1, wait_2) + max(write_1, write_2)


@njit(cache=True, nogil=True)
def frame_ns(plan: Plan, pace: int, size: int) -> int:
    """Time from one frame to the next where the camera limits, card sides at `pace`.

    `size` is that of its files, in parts of NOMINAL.
    """
    pace_1, pace_2 = pace % SLOT_2_PACE, pace // SLOT_2_PACE
    write_1 = transfer_ns(plan.slots[0], pace_1) * size >> SIZE_BITS
    write_2 = transfer_ns(plan.slots[1], pace_2) * size >> SIZE_BITS
    wait_1 = plan.slots[0].overhead_ns if pace_1 != UNUSED else 0
    wait_2 = plan.slots[1].overhead_ns if pace_2 != UNUSED else 0
    if plan.coupling == PARALLEL:
        written_ns = max(wait_1 + write_1, wait_2 + write_2)
    else:
        written_ns = one_writer_ns(plan.coupling, wait_1, write_1, wait_2, write_2)
    return int(max(written_ns, plan.encode_ns))


@njit(cache=True, nogil=True)
def is_near(
    one: tuple[int, int, int, int, int, int],
    other: tuple[int, int, int, int, int, int],
    near_bytes: int,
    near_ns: int,
) -> bool:
    """Whether two states of the camera, three of bytes and three of ns, are as good as the same."""
    return (
        max(abs(one[0] - other[0]), abs(one[1] - other[1]), abs(one[2] - other[2])) <= near_bytes
        and max(abs(one[3] - other[3]), abs(one[4] - other[4]), abs(one[5] - other[5])) <= near_ns
    )


@njit(
    [(from_dtype(PLAN), int64[:, ::1], int32[::1], boolean, int64[:, ::1], int64[:, ::1])],
    cache=True,
    nogil=True,
)
def run(  # noqa: C901 - the whole order of events, in one place
    plan: Plan,
    holds: Whole,
    sizes: Sizes,
    until_steady: bool,
    frame: Whole,
    outcome: Whole,
) -> tuple[int, int, int, int, int]:
    """Shoots the `holds` one after the other; memory, writers, caches and room carry over.

    `sizes` has the size of each frame's files in parts of NOMINAL, over and over where the series
    is longer. `frame` gets the places from TAKEN on, `outcome` a row a hold with those from FRAMES
    on. `sizes` and `frame` have a power of two of places; of more frames than those of `frame`
    only the last ones are kept, and memory never holds so many (`frames_kept`).
    `until_steady` stops once a press finds the camera as the press before found it: what follows
    repeats.

    Answers with the number of frames, that of the holds that were shot, the moment a card was full
    and which slot's (0 or 1), and the first frame that overflow sends to slot 2; NEVER where there
    is none.

    Things that fall on the same instant follow one order: room is freed (written frames, then
    encoded ones), the cards are asked for room, memory is asked for room, the frame is taken.
    """
    # What the loop reads at every frame is read from the record once.
    interval_ns, encode_ns = plan.interval_ns, plan.encode_ns
    memory_bytes, held_bytes, file_bytes = plan.memory_bytes, plan.held_bytes, plan.file_bytes
    resume_frames, arrangement, coupling = plan.resume_frames, plan.arrangement, plan.coupling
    slot_1, slot_2 = plan.slots[0], plan.slots[1]
    bytes_1, free_1, overhead_1 = slot_1.bytes, slot_1.free_bytes, slot_1.overhead_ns
    bytes_2, free_2, overhead_2 = slot_2.bytes, slot_2.free_bytes, slot_2.overhead_ns
    steady_1, steady_2 = slot_1.transfer_ns, slot_2.transfer_ns
    flush_1, flush_2 = slot_1.flush_bytes_s, slot_2.flush_bytes_s
    changes_1, changes_2 = changes(slot_1), changes(slot_2)
    uses_1, uses_2 = True, arrangement in (MIRROR, SPLIT)
    taken, encoded, done, kept, pace = (
        frame[TAKEN],
        frame[ENCODED],
        frame[WRITTEN],
        frame[KEPT],
        frame[PACE],
    )

    # Frames taken; frames encoded and written by now, as far as memory has noticed. In overflow,
    # those from `switched` on have a queue of their own, and `freed_after` counts in it.
    frames = shrunk = freed = freed_after = 0
    switched = card_full_ns = full_slot = NEVER
    used_bytes = encoder_free_ns = writer_1_free_ns = writer_2_free_ns = 0
    placed_1 = placed_2 = 0  # bytes on their way to each card, or there
    level_1 = level_2 = 0  # bytes in each card's cache when its writer was last free
    last_ns = spent_ns = 0  # the last byte so far, and how long the last frame was written
    varies = len(sizes) > 1
    mask = frame.shape[1] - 1
    found = (0, 0, 0, 0, 0, 0)  # how the last press found memory, caches, encoder and writers
    shot = 0
    for hold in range(len(holds)):
        now_ns, finger_up_ns = holds[hold, PRESS_NS], holds[hold, FINGER_UP_NS]
        counted_until_ns, size_of_hold = holds[hold, COUNTED_UNTIL_NS], holds[hold, FILE_SIZE]
        size = size_of_hold * sizes[0] >> SIZE_BITS
        kept_bytes, to_1, to_2 = file_bytes, bytes_1, bytes_2
        if size != NOMINAL:
            kept_bytes = file_bytes * size >> SIZE_BITS
            to_1, to_2 = bytes_1 * size >> SIZE_BITS, bytes_2 * size >> SIZE_BITS
        frame_bytes = max(held_bytes, kept_bytes)
        depth = wall_ns = first_ns = done_ns = NEVER
        before, counted = frames, 0
        while now_ns < finger_up_ns:
            queued, overflowed = (frames, 0) if switched == NEVER else (switched, frames)
            while freed < queued and done[freed & mask] <= now_ns:
                used_bytes -= kept[freed & mask]
                freed += 1
            while freed_after < overflowed and done[freed_after & mask] <= now_ns:
                used_bytes -= kept[freed_after & mask]
                freed_after += 1
            while shrunk < frames and encoded[shrunk & mask] <= now_ns:
                used_bytes -= max(held_bytes - kept[shrunk & mask], 0)
                shrunk += 1

            if until_steady and frames == before and wall_ns == NEVER:
                found_before = found
                idle_1 = now_ns - writer_1_free_ns
                idle_2 = now_ns - writer_2_free_ns if coupling == PARALLEL else idle_1
                found = (
                    used_bytes,
                    level_after(level_1, idle_1, flush_1),
                    level_after(level_2, idle_2, flush_2),
                    max(encoder_free_ns - now_ns, 0),
                    max(-idle_1, 0),
                    max(-idle_2, 0),
                )
                # Sizes that vary never repeat exactly; to within two frames is close enough then.
                near_bytes = 2 * frame_bytes if varies else 0
                near_ns = 2 * max(interval_ns, spent_ns) if varies else 0
                same_size = hold > 0 and size_of_hold == holds[hold - 1, FILE_SIZE]
                if same_size and is_near(found, found_before, near_bytes, near_ns):
                    return frames, shot, card_full_ns, full_slot, switched

            if varies:
                size = size_of_hold * sizes[frames & (len(sizes) - 1)] >> SIZE_BITS
                kept_bytes = file_bytes * size >> SIZE_BITS
                frame_bytes = max(held_bytes, kept_bytes)
                to_1, to_2 = bytes_1 * size >> SIZE_BITS, bytes_2 * size >> SIZE_BITS

            if uses_1 and placed_1 + to_1 > free_1:
                if arrangement == OVERFLOW:
                    uses_1, uses_2 = False, True
                    switched = freed_after = queued = overflowed = frames
                else:
                    full_slot = 0
            if uses_2 and full_slot == NEVER and placed_2 + to_2 > free_2:
                full_slot = 1
            if full_slot != NEVER:
                card_full_ns = now_ns if card_full_ns == NEVER else card_full_ns
                break

            if used_bytes + frame_bytes > memory_bytes:
                if wall_ns == NEVER:
                    wall_ns, depth = now_ns, frames - before
                # Goes from one release to the next until there is room, or the finger is up.
                needed_bytes = max(min(frame_bytes * resume_frames, memory_bytes), frame_bytes)
                while used_bytes + needed_bytes > memory_bytes and used_bytes > 0:
                    encoded_ns = encoded[shrunk & mask] if shrunk < frames else LATEST
                    next_done_ns = done[freed & mask] if freed < queued else LATEST
                    after_ns = done[freed_after & mask] if freed_after < overflowed else LATEST
                    now_ns = min(encoded_ns, next_done_ns, after_ns)
                    if now_ns >= finger_up_ns:
                        break
                    if encoded_ns < min(next_done_ns, after_ns):
                        used_bytes -= max(held_bytes - kept[shrunk & mask], 0)
                        shrunk += 1
                    elif next_done_ns <= after_ns:
                        used_bytes -= kept[freed & mask]
                        freed += 1
                    else:
                        used_bytes -= kept[freed_after & mask]
                        freed_after += 1
                if now_ns >= finger_up_ns or used_bytes + needed_bytes > memory_bytes:
                    break  # or memory is empty and still too small, as a draw can make it

            encoder_free_ns = max(encoder_free_ns, now_ns) + encode_ns
            start_1 = max(writer_1_free_ns, encoder_free_ns)
            start_2 = max(writer_2_free_ns, encoder_free_ns) if coupling == PARALLEL else start_1
            write_1 = write_2 = 0
            pace_1 = pace_2 = UNUSED
            if uses_1:
                pace_1, write_1 = STEADY, steady_1
                if changes_1:
                    level_1 = level_after(level_1, start_1 - writer_1_free_ns, flush_1)
                    pace_1 = pace_of(slot_1, placed_1, level_1, to_1)
                    write_1 = transfer_ns(slot_1, pace_1)
                    level_1 += to_1 if pace_1 == CACHED else 0
                placed_1 += to_1
            if uses_2:
                pace_2, write_2 = STEADY, steady_2
                if changes_2:
                    idle_ns = start_2 - (
                        writer_2_free_ns if coupling == PARALLEL else writer_1_free_ns
                    )
                    level_2 = level_after(level_2, idle_ns, flush_2)
                    pace_2 = pace_of(slot_2, placed_2, level_2, to_2)
                    write_2 = transfer_ns(slot_2, pace_2)
                    level_2 += to_2 if pace_2 == CACHED else 0
                placed_2 += to_2
            if size != NOMINAL:
                write_1, write_2 = write_1 * size >> SIZE_BITS, write_2 * size >> SIZE_BITS
            wait_1, wait_2 = overhead_1 if uses_1 else 0, overhead_2 if uses_2 else 0
            if coupling == PARALLEL:
                done_ns = 0
                if uses_1:
                    writer_1_free_ns = start_1 + wait_1 + write_1
                    done_ns = writer_1_free_ns
                if uses_2:
                    writer_2_free_ns = start_2 + wait_2 + write_2
                    done_ns = max(done_ns, writer_2_free_ns)
            else:
                writer_1_free_ns = start_1 + one_writer_ns(
                    coupling, wait_1, write_1, wait_2, write_2
                )
                done_ns = writer_1_free_ns
            spent_ns = done_ns - min(start_1, start_2)
            last_ns = max(last_ns, done_ns)
            place = frames & mask
            taken[place] = now_ns
            encoded[place] = encoder_free_ns
            done[place] = done_ns
            kept[place] = kept_bytes
            pace[place] = pace_1 + SLOT_2_PACE * pace_2
            first_ns = done_ns if frames == before else first_ns
            counted += now_ns < counted_until_ns
            used_bytes += frame_bytes
            frames += 1
            now_ns += interval_ns
        # The frame that is being written when the finger is up, or the last one.
        writing = frames - 1 if switched != NEVER else freed
        while writing < frames - 1 and done[writing & mask] <= finger_up_ns:
            writing += 1
        final_pace = (STEADY if uses_1 else UNUSED) + SLOT_2_PACE * (STEADY if uses_2 else UNUSED)
        if frames:
            final_pace = pace[min(writing, frames - 1) & mask]
        outcome[hold, FRAMES] = frames - before
        outcome[hold, COUNTED] = counted
        outcome[hold, DEPTH] = depth
        outcome[hold, WALL_NS] = wall_ns
        outcome[hold, FIRST_WRITTEN_NS] = first_ns
        outcome[hold, LAST_WRITTEN_NS] = done_ns
        outcome[hold, ALL_WRITTEN_NS] = last_ns
        outcome[hold, FINAL_PACE] = final_pace
        shot += 1
    return frames, shot, card_full_ns, full_slot, switched
