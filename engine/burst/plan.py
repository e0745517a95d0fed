"""A scenario as one row of whole numbers, as the compiled event loop wants it.

The names below are places in the row. Those from BYTES on repeat for each slot, counted from
SLOT_1 or SLOT_2. Those from PRESS_NS on are of a row of their own for each hold.
"""

import numpy as np
from numpy.typing import NDArray

from engine.burst.scenario import Scenario, Slot
from engine.quantities import bytes_of, ns_of, writing_ns

(
    INTERVAL_NS,
    ENCODE_NS,
    MEMORY_BYTES,
    HELD_BYTES,
    FILE_BYTES,
    RESUME_FRAMES,
    ARRANGEMENT,
    COUPLING,
    SLOT_1,
) = range(9)
(
    BYTES,
    FREE_BYTES,
    OVERHEAD_NS,
    TRANSFER_NS,
    CACHE_BYTES,
    CACHED_NS,
    SLOW_BELOW_BYTES,
    SLOW_NS,
    FLUSH_BYTES_S,
    SLOT_LENGTH,
) = range(10)
SLOT_2 = SLOT_1 + SLOT_LENGTH
LENGTH = SLOT_2 + SLOT_LENGTH

PRESS_NS, FINGER_UP_NS, COUNTED_UNTIL_NS, FILE_SIZE, HOLD_LENGTH = range(5)
SIZE_BITS = 10  # file sizes vary in steps of 1/1024: a multiplication and a shift
NOMINAL = 1 << SIZE_BITS

# How fast a slot writes a frame; both paces of a frame are one number, that of slot 2 times
# SLOT_2_PACE.
UNUSED, STEADY, CACHED, NEARLY_FULL = range(4)
SLOT_2_PACE = 4

SINGLE, OVERFLOW, MIRROR, SPLIT = range(4)
PARALLEL, SERIAL, SLOWEST = range(3)
ARRANGEMENT_NUMBER = {"single": SINGLE, "overflow": OVERFLOW, "mirror": MIRROR, "split": SPLIT}
COUPLING_NUMBER = {"parallel": PARALLEL, "serial": SERIAL, "slowest": SLOWEST}

UNLIMITED_BYTES = 2**60  # room on a card that never runs out


def plan_of(scenario: Scenario) -> NDArray[np.int64]:
    """`scenario` in bytes and nanoseconds; an absent second slot is all zeros."""
    shared = [
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
    return [
        size_bytes,
        UNLIMITED_BYTES if slot.free_mb is None else bytes_of(slot.free_mb),
        ns_of(slot.overhead_s),
        writing_ns(timed_bytes, slot.effective_mb_s),
        bytes_of(slot.cache_mb),
        writing_ns(timed_bytes, slot.cached_mb_s),
        bytes_of(slot.slow_below_free_mb),
        writing_ns(timed_bytes, slot.slow_mb_s),
        bytes_of(slot.flush_mb_s),
    ]


def holds_of(scenario: Scenario) -> NDArray[np.int64]:
    """A row a hold: press, finger up, until when frames are counted (all of it), and FILE_SIZE.

    That is the size of its files in parts of NOMINAL.
    """
    rows = [(h.press_ns, h.finger_up_ns, h.finger_up_ns, NOMINAL) for h in scenario.holds]
    return np.array(rows, dtype=np.int64)


def power_of_two(least: int) -> int:
    """The smallest power of two that is not below `least`."""
    return 1 << max(least - 1, 0).bit_length()
