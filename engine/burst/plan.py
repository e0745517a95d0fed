"""A scenario as one record of whole numbers, as the compiled event loop wants it.

Records are elements of structured arrays, so that a loop over thousands of draws reads them by
name at the speed of plain rows. Places from PRESS_NS on are of a row of their own for each hold.
"""

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from engine.burst.arrangement import Arrangement
from engine.burst.scenario import MOST_SLOTS, LoadedSlot, Scenario
from engine.quantities import bytes_of, ns_of, writing_ns

# What a slot with its card does: the bytes of a frame that go there, the room, the overhead, the
# times of a nominal frame at each pace, the cache, and when it is nearly full.
SLOT_FIELDS = (
    "bytes",
    "free_bytes",
    "overhead_ns",
    "transfer_ns",
    "cache_bytes",
    "cached_ns",
    "slow_below_bytes",
    "slow_ns",
    "flush_bytes_s",
)
SLOT = np.dtype([(name, np.int64) for name in SLOT_FIELDS])
BODY_FIELDS = (
    "interval_ns",
    "encode_ns",
    "memory_bytes",
    "held_bytes",
    "file_bytes",
    "resume_frames",
    "arrangement",
)
PLAN = np.dtype([
    *((name, np.int64) for name in (*BODY_FIELDS, "coupling")), ("slots", SLOT, (MOST_SLOTS,)),
])  # fmt: skip
Plan = Any  # a record of PLAN, whose fields the type checker doesn't know
SlotPlan = Any  # a record of SLOT
Records = NDArray[np.void]  # of PLAN or SLOT

PRESS_NS, FINGER_UP_NS, COUNTED_UNTIL_NS, FILE_SIZE, HOLD_LENGTH = range(5)
SIZE_BITS = 10  # file sizes vary in steps of 1/1024: a multiplication and a shift
NOMINAL = 1 << SIZE_BITS

# How fast a slot writes a frame; both paces of a frame are one number, that of slot 2 times
# SLOT_2_PACE.
UNUSED, STEADY, CACHED, NEARLY_FULL = range(4)
SLOT_2_PACE = 4

SINGLE, OVERFLOW, MIRROR, SPLIT = range(4)
PARALLEL, SERIAL, SLOWEST = range(3)
ARRANGEMENT_NUMBER = {
    Arrangement.SINGLE: SINGLE, Arrangement.OVERFLOW: OVERFLOW, Arrangement.MIRROR: MIRROR,
    Arrangement.SPLIT: SPLIT,
}  # fmt: skip
COUPLING_NUMBER = {"parallel": PARALLEL, "serial": SERIAL, "slowest": SLOWEST}

_NO_SLOT = (0,) * len(SLOT_FIELDS)
UNLIMITED_BYTES = 2**60  # room on a card that never runs out


def plan_of(scenario: Scenario) -> Records:
    """`scenario` in bytes and nanoseconds, a single PLAN; an absent second slot is all zeros."""
    slots = [slot_values(scenario, number) for number in range(len(scenario.slots))]
    slots += [_NO_SLOT] * (MOST_SLOTS - len(slots))
    values = *body_values(scenario), COUPLING_NUMBER[scenario.coupling], slots
    return np.array([values], dtype=PLAN)


def body_values(scenario: Scenario) -> tuple[int, ...]:
    """BODY_FIELDS, which are the same whatever the slots."""
    return (
        scenario.frame_interval_ns,
        scenario.encode_ns,
        scenario.memory_bytes,
        bytes_of(scenario.held_mb),
        scenario.file_bytes,
        scenario.resume_free_frames,
        ARRANGEMENT_NUMBER[scenario.arrangement],
    )


def slot_values(scenario: Scenario, number: int) -> tuple[int, ...]:
    """The fields of slot `number`, 0 or 1."""
    slot = scenario.slots[number]
    return slot_plan(slot, scenario.bytes_to(number), scenario.timed_bytes(number))


@lru_cache(maxsize=4_096)  # very many set-ups share them
def slot_plan(slot: LoadedSlot, size_bytes: int, timed_bytes: int) -> tuple[int, ...]:
    """The fields of `slot`, which gets `size_bytes` of a frame and writes for `timed_bytes`."""
    return (
        size_bytes,
        UNLIMITED_BYTES if slot.free_mb is None else bytes_of(slot.free_mb),
        ns_of(slot.overhead_s),
        writing_ns(timed_bytes, slot.effective_mb_s),
        bytes_of(slot.cache_mb),
        writing_ns(timed_bytes, slot.cached_mb_s),
        bytes_of(slot.slow_below_free_mb),
        writing_ns(timed_bytes, slot.slow_mb_s),
        bytes_of(slot.flush_mb_s),
    )


def holds_of(scenario: Scenario) -> NDArray[np.int64]:
    """A row a hold: press, finger up, until when frames are counted (all of it), and FILE_SIZE.

    That is the size of its files in parts of NOMINAL.
    """
    return np.array(hold_values(scenario), dtype=np.int64)


def hold_values(scenario: Scenario) -> list[tuple[int, ...]]:
    """The same rows."""
    return [(press_ns, end_ns, end_ns, NOMINAL) for press_ns, end_ns in scenario.holds_ns]


def parts_of_nominal(sizes: NDArray[np.float64]) -> NDArray[np.float64]:
    """Sizes, 1 being that of a nominal frame, in whole parts of NOMINAL, 1 at least."""
    return np.maximum(np.rint(NOMINAL * sizes), 1)


def power_of_two(least: int) -> int:
    """The smallest power of two that is not below `least`."""
    return 1 << max(least - 1, 0).bit_length()
