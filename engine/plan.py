"""A scenario as one row of whole numbers, as the compiled event loop wants it.

The names below are places in the row. Those from BYTES on repeat for each slot, counted from
SLOT_1 or SLOT_2.
"""

import numpy as np
from numpy.typing import NDArray

from engine.scenario import Scenario, Slot
from engine.units import bytes_of, ns_of, writing_ns

(
    HOLD_NS,
    INTERVAL_NS,
    ENCODE_NS,
    MEMORY_BYTES,
    HELD_BYTES,
    FILE_BYTES,
    RESUME_FRAMES,
    ARRANGEMENT,
    COUPLING,
    SLOT_1,
) = range(10)
(
    BYTES,
    FREE_BYTES,
    OVERHEAD_NS,
    TRANSFER_NS,
    CACHE_BYTES,
    CACHED_NS,
    SLOW_BELOW_BYTES,
    SLOW_NS,
    SLOT_LENGTH,
) = range(9)
SLOT_2 = SLOT_1 + SLOT_LENGTH
LENGTH = SLOT_2 + SLOT_LENGTH

SINGLE, OVERFLOW, MIRROR, SPLIT = range(4)
PARALLEL, SERIAL, SLOWEST = range(3)
ARRANGEMENT_NUMBER = {"single": SINGLE, "overflow": OVERFLOW, "mirror": MIRROR, "split": SPLIT}
COUPLING_NUMBER = {"parallel": PARALLEL, "serial": SERIAL, "slowest": SLOWEST}

ENDLESS_BYTES = 2**60  # room on a card that never runs out


def plan_of(scenario: Scenario) -> NDArray[np.int64]:
    """`scenario` in bytes and nanoseconds; an absent second slot is all zeros."""
    shared = [
        scenario.hold_ns,
        scenario.frame_interval_ns,
        scenario.encode_ns,
        scenario.memory_bytes,
        bytes_of(scenario.held_mb),
        scenario.file_bytes,
        scenario.resume_free_frames,
        ARRANGEMENT_NUMBER[scenario.arrangement],
        COUPLING_NUMBER[scenario.coupling],
    ]
    plan = np.zeros(LENGTH, dtype=np.int64)
    plan[:SLOT_1] = shared
    for number, (slot, place) in enumerate(zip(scenario.slots, (SLOT_1, SLOT_2), strict=False)):
        plan[place : place + SLOT_LENGTH] = slot_row(
            slot, scenario.bytes_to(number), scenario.timed_bytes(number)
        )
    return plan


def slot_row(slot: Slot, size_bytes: int, timed_bytes: int) -> list[int]:
    """The places of `slot`, which gets `size_bytes` of a frame and writes for `timed_bytes`."""
    cached_mb_s = slot.write_mb_s if slot.cache_write_mb_s is None else slot.cache_write_mb_s
    return [
        size_bytes,
        ENDLESS_BYTES if slot.free_mb is None else bytes_of(slot.free_mb),
        ns_of(slot.overhead_s),
        writing_ns(timed_bytes, slot.write_mb_s),
        bytes_of(slot.cache_mb),
        writing_ns(timed_bytes, cached_mb_s),
        bytes_of(slot.slow_below_free_mb),
        writing_ns(timed_bytes, slot.write_mb_s * slot.slow_factor),
    ]
