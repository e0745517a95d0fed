"""Bursts that nothing hinders: the same outcome as the event loop's, without following memory."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engine.burst.event_loop import (
    ALL_WRITTEN_NS,
    COUNTED,
    DEPTH,
    FINAL_PACE,
    FIRST_WRITTEN_NS,
    FRAMES,
    LAST_WRITTEN_NS,
    NEVER,
    WALL_NS,
    changes,
    one_writer_ns,
)
from engine.burst.plan import (
    COUNTED_UNTIL_NS,
    FILE_SIZE,
    FINGER_UP_NS,
    MIRROR,
    NOMINAL,
    PARALLEL,
    PRESS_NS,
    SIZE_BITS,
    SLOT_2_PACE,
    SPLIT,
    STEADY,
    Plan,
)

Whole = NDArray[np.int64]


@njit(cache=True, nogil=True)
def shoot_unhindered(
    plan: Plan, holds: Whole, sizes: NDArray[np.int32], largest: int, outcome: Whole
) -> bool:
    """Shoots a plan that never fills memory or a card; False: it may, and `run` is to shoot it.

    Without memory only the encoder and the writers are followed. What is in memory when a frame is
    taken are frames that were taken no longer ago than the longest of them took until it was
    written, and of these unencoded ones no longer ago than the longest of them took until it was
    encoded. Where memory has room for as many of the largest ones, it never fills. `largest` is
    the largest of `sizes`.
    """
    uses_2 = plan.arrangement in (MIRROR, SPLIT)
    if changes(plan.slots[0]) or (uses_2 and changes(plan.slots[1])):
        return False
    interval_ns, encode_ns, coupling = plan.interval_ns, plan.encode_ns, plan.coupling
    transfer_1, transfer_2 = plan.slots[0].transfer_ns, plan.slots[1].transfer_ns
    wait_1, wait_2 = plan.slots[0].overhead_ns, plan.slots[1].overhead_ns
    frames = encoder_free_ns = writer_1_free_ns = writer_2_free_ns = 0
    mask = len(sizes) - 1
    due, most = 0, NOMINAL
    for hold in holds:
        due += -(-(hold[FINGER_UP_NS] - hold[PRESS_NS]) // interval_ns)
        most = max(most, hold[FILE_SIZE])
    most = most * largest >> SIZE_BITS
    most_bytes = plan.file_bytes * most >> SIZE_BITS
    longest_ns = plan.memory_bytes // max(most_bytes, 1) * interval_ns
    unencoded_ns = unwritten_ns = 0  # the longest so far
    for slot in plan.slots:
        if due * (slot.bytes * most >> SIZE_BITS) > slot.free_bytes and slot.bytes:
            return False
    for hold in range(len(holds)):
        now_ns, of_hold = holds[hold, PRESS_NS], holds[hold, FILE_SIZE]
        finger_up_ns, counted_until_ns = holds[hold, FINGER_UP_NS], holds[hold, COUNTED_UNTIL_NS]
        before, counted, done_ns, first_ns = frames, 0, NEVER, NEVER
        while now_ns < finger_up_ns:
            size = of_hold * sizes[frames & mask] >> SIZE_BITS
            encoder_free_ns = max(encoder_free_ns, now_ns) + encode_ns
            write_1, write_2 = transfer_1 * size >> SIZE_BITS, transfer_2 * size >> SIZE_BITS
            writer_1_free_ns = max(writer_1_free_ns, encoder_free_ns)
            if not uses_2:
                writer_1_free_ns += wait_1 + write_1
                done_ns = writer_1_free_ns
            elif coupling == PARALLEL:
                writer_1_free_ns += wait_1 + write_1
                writer_2_free_ns = max(writer_2_free_ns, encoder_free_ns) + wait_2 + write_2
                done_ns = max(writer_1_free_ns, writer_2_free_ns)
            else:
                writer_1_free_ns += one_writer_ns(coupling, wait_1, write_1, wait_2, write_2)
                done_ns = writer_1_free_ns
            unencoded_ns = max(unencoded_ns, encoder_free_ns - now_ns)
            unwritten_ns = max(unwritten_ns, done_ns - now_ns)
            if unwritten_ns > longest_ns:
                return False
            first_ns = done_ns if frames == before else first_ns
            counted += now_ns < counted_until_ns
            frames += 1
            now_ns += interval_ns
        outcome[hold, FRAMES] = frames - before
        outcome[hold, COUNTED] = counted
        outcome[hold, DEPTH] = outcome[hold, WALL_NS] = NEVER
        outcome[hold, FIRST_WRITTEN_NS] = first_ns
        outcome[hold, LAST_WRITTEN_NS] = done_ns
        outcome[hold, ALL_WRITTEN_NS] = max(writer_1_free_ns, writer_2_free_ns)
        outcome[hold, FINAL_PACE] = STEADY + (SLOT_2_PACE * STEADY if uses_2 else 0)
    held = (unencoded_ns // interval_ns + 2) * max(plan.held_bytes, most_bytes)
    written = (unwritten_ns // interval_ns + 1) * most_bytes
    return bool(held + written <= plan.memory_bytes)
