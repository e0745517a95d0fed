"""Plans as draws have them, filled in by compiled code: one set-up after the other, draw by draw.

Records of BODY and SIDE have what is nominal of a body and of a slot with its card, and of each of
their numbers the column of ratios that it is multiplied by. A SET_UP says which of them it is made
of, as very many set-ups share few bodies and few cards. Sweeps make their plans with them where
they shoot them, so that no plan is kept.
"""

import math
from functools import lru_cache
from typing import Any

import numpy as np
from numba import float64, from_dtype, int64, njit
from numpy.typing import NDArray

from engine.burst.plan import BODY_FIELDS, PLAN, SLOT, Plan, Records, SlotPlan
from engine.burst.scenario import COUPLINGS, MOST_SLOTS, LoadedSlot, Scenario
from engine.figures.key import Factor, FigureKind
from engine.uncertainty.sources import ENCODER, FRAME_RATE, HELD, MEMORY, ROOM

Whole = NDArray[np.int64]
Real = NDArray[np.float64]

FACTORS_OF_BODY = (HELD, MEMORY, ROOM, FRAME_RATE, ENCODER)
KINDS_OF_SLOT = (
    FigureKind.CARD, FigureKind.SHARE, FigureKind.PACE, FigureKind.SLOT, FigureKind.OVERHEAD,
    FigureKind.CACHE,
)  # fmt: skip
FACTORS_OF_SLOTS = tuple(
    tuple(Factor(kind, number + 1) for kind in KINDS_OF_SLOT) for number in range(MOST_SLOTS)
)
# Their places among the columns of a body and of a slot.
HELD_SIZE, MEMORY_SIZE, ROOM_OF_IT, RATE, ENCODER_RATE, BODY_COLUMNS = range(6)
CARD, SHARE, PACE, SLOT_LIMIT, OVERHEAD, CACHE, SLOT_COLUMNS = range(7)

BODY = np.dtype([
    *((name, np.int64) for name in BODY_FIELDS), ("columns", np.int64, (BODY_COLUMNS,)),
])  # fmt: skip
# The nominal plan of a slot; the speeds of a card by itself, and of card and slot together, when it
# is steady, takes bytes in its cache, and is nearly full; and what its times are multiplied by with
# each coupling.
SIDE_FIELDS = [
    ("nominal", SLOT),
    ("steady_mb_s", np.float64), ("cached_mb_s", np.float64), ("slow_mb_s", np.float64),
    ("all_steady_mb_s", np.float64), ("all_cached_mb_s", np.float64),
    ("all_slow_mb_s", np.float64), ("limit_mb_s", np.float64), ("bus_mb_s", np.float64),
    ("slot_share", np.float64), ("pace", np.float64), ("timed", np.float64, (len(COUPLINGS),)),
    ("columns", np.int64, (SLOT_COLUMNS,)),
]  # fmt: skip
SIDE = np.dtype(SIDE_FIELDS)
# The rows of its body, its holds and the sizes of their files, its couplings in each draw, and its
# slots; no slot is NO_ROW.
SET_UP = np.dtype([
    ("body", np.int64), ("holds", np.int64), ("bursts", np.int64), ("coupling", np.int64),
    ("sides", np.int64, (MOST_SLOTS,)),
])  # fmt: skip
NO_ROW = -1
AS_NOMINAL = (1.0,) * len(COUPLINGS)

# The compiler knows records by these.
_SIDE, _BODY, _SET_UP, _SLOT, _PLAN = map(from_dtype, (SIDE, BODY, SET_UP, SLOT, PLAN))


def side_values(
    slot: LoadedSlot,
    nominal: tuple[int, ...],
    timed: tuple[float, ...],
    columns: tuple[int, ...],
) -> tuple[Any, ...]:
    """The fields of SIDE; `timed` is by coupling, `columns` by KINDS_OF_SLOT."""
    return nominal, *_speeds(slot), timed, columns


@lru_cache(maxsize=4_096)  # very many set-ups share them
def _speeds(slot: LoadedSlot) -> tuple[float, ...]:
    return (
        slot.write_mb_s,
        slot.cache_write_mb_s or slot.write_mb_s,
        slot.write_mb_s * slot.slow_factor,
        slot.effective_mb_s,
        slot.cached_mb_s,
        slot.slow_mb_s,
        slot.slot_limit_mb_s or math.inf,
        slot.bus_mb_s or math.inf,
        slot.slot_share,
        slot.pace,
    )


def timed_ratios(scenario: Scenario, number: int) -> tuple[float, ...]:
    """What the times of slot `number` are multiplied by with each coupling.

    Of split, coupled as "slowest", a frame takes the time of all its files.
    """
    if not scenario.arrangement.splits:
        return AS_NOMINAL
    nominal = scenario.timed_bytes(number)
    return tuple(
        (scenario.file_bytes if coupling == "slowest" else scenario.bytes_to(number)) / nominal
        for coupling in COUPLINGS
    )


@njit(cache=True, nogil=True)
def scaled(value: int, ratio: float) -> int:
    """`value` times `ratio`, to the nearest; what is 0, or not drawn, stays as it is."""
    return value if ratio == 1 or value == 0 else int(np.rint(value * ratio))


@njit(cache=True, nogil=True)
def fill_body(body: Any, ratios: Real, draw: int, plan: Plan) -> None:
    """The body's part of a plan in one draw."""
    columns = body.columns
    room = ratios[columns[MEMORY_SIZE], draw] * ratios[columns[ROOM_OF_IT], draw]
    plan.held_bytes = scaled(body.held_bytes, ratios[columns[HELD_SIZE], draw])
    plan.memory_bytes = scaled(body.memory_bytes, room)
    plan.interval_ns = scaled(body.interval_ns, 1 / ratios[columns[RATE], draw])
    plan.encode_ns = scaled(body.encode_ns, 1 / ratios[columns[ENCODER_RATE], draw])
    plan.file_bytes = body.file_bytes
    plan.resume_frames = body.resume_frames
    plan.arrangement = body.arrangement


@njit(cache=True, nogil=True)
def fill_slot(side: Any, ratios: Real, draw: int, timed: float, slot: SlotPlan) -> None:
    """A slot's part of a plan in one draw, its times `timed` times as long.

    Card and slot are drawn independently, and the lesser counts; the bus caps both.
    """
    columns, nominal = side.columns, side.nominal
    card, share = ratios[columns[CARD], draw], ratios[columns[SHARE], draw]
    pace = ratios[columns[PACE], draw]
    most_mb_s = min(side.limit_mb_s * ratios[columns[SLOT_LIMIT], draw], side.bus_mb_s)

    def time_ns(nominal_ns: int, card_mb_s: float, nominal_mb_s: float) -> int:
        drawn_mb_s = min(card_mb_s * side.slot_share * card * share, most_mb_s)
        drawn_ns = scaled(nominal_ns, nominal_mb_s / (drawn_mb_s * side.pace * pace))
        return drawn_ns if timed == 1 else int(np.rint(drawn_ns * timed))

    slot.transfer_ns = time_ns(nominal.transfer_ns, side.steady_mb_s, side.all_steady_mb_s)
    slot.cached_ns = time_ns(nominal.cached_ns, side.cached_mb_s, side.all_cached_mb_s)
    slot.slow_ns = time_ns(nominal.slow_ns, side.slow_mb_s, side.all_slow_mb_s)
    slot.overhead_ns = scaled(nominal.overhead_ns, ratios[columns[OVERHEAD], draw])
    slot.cache_bytes = scaled(nominal.cache_bytes, ratios[columns[CACHE], draw])
    slot.flush_bytes_s = scaled(nominal.flush_bytes_s, card * share)
    slot.bytes = nominal.bytes
    slot.free_bytes = nominal.free_bytes
    slot.slow_below_bytes = nominal.slow_below_bytes


@njit(cache=True, nogil=True)
def fill_plan(
    set_up: Any, bodies: Records, sides: Records, ratios: Real, couplings: Whole, draw: int,
    plan: Plan,
) -> None:  # fmt: skip
    """A whole plan in one draw; an absent second slot is left as it is."""
    fill_body(bodies[set_up.body], ratios, draw, plan)
    plan.coupling = couplings[set_up.coupling, draw]
    for number in range(MOST_SLOTS):
        if set_up.sides[number] != NO_ROW:
            side = sides[set_up.sides[number]]
            fill_slot(side, ratios, draw, side.timed[plan.coupling], plan.slots[number])


@njit(
    [
        (
            _SET_UP[::1], _BODY[::1], _SIDE[::1], float64[:, ::1], int64[:, ::1], _PLAN[::1],
        )
    ],
    cache=True,
    nogil=True,
)  # fmt: skip
def fill_plans(
    set_ups: Records,
    bodies: Records,
    sides: Records,
    ratios: Real,
    couplings: Whole,
    plans: Records,
) -> None:
    """The plan of the only set-up in every draw."""
    for draw in range(len(plans)):
        fill_plan(set_ups[0], bodies, sides, ratios, couplings, draw, plans[draw])


@njit([(_SIDE[::1], float64[:, ::1], _SLOT[:, ::1])], cache=True, nogil=True)
def fill_slots(sides: Records, ratios: Real, slots: Records) -> None:
    """The plan of a slot with each card in every draw, its times as they nominally are."""
    for card in range(len(slots)):
        for draw in range(slots.shape[1]):
            fill_slot(sides[card], ratios, draw, 1.0, slots[card, draw])
