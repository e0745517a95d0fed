"""The same model over very many bursts at once, for ranges and comparisons.

Every set-up is shot once for every draw, by the event loop that `simulate` uses, on scratch memory
for the frames that a camera holds at once. Draws are common random numbers (`draws`):
differences between set-ups are theirs and not chance's, and the same call gives the same figures
again.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple, Self

import numpy as np
from numba import float64, from_dtype, int32, int64, njit
from numpy.typing import NDArray

from engine.burst.event_loop import (
    ALL_WRITTEN_NS,
    DEPTH,
    FINAL_PACE,
    FRAME_LENGTH,
    FRAMES,
    HOLD_OUTCOME_LENGTH,
    NEVER,
    frame_ns,
    run,
)
from engine.burst.plan import (
    FILE_SIZE,
    FINGER_UP_NS,
    NOMINAL,
    OVERFLOW,
    PLAN,
    PRESS_NS,
    SIZE_BITS,
    Plan,
    Records,
)
from engine.burst.rates import Regime
from engine.burst.scenario import InvalidScenario, Scenario
from engine.burst.unhindered import shoot_unhindered
from engine.cores import CORES, on_all_cores
from engine.uncertainty.drawing import BODY, SET_UP, SIDE, fill_plan
from engine.uncertainty.draws import NOMINAL_DRAW, AnyDraws, Sizes, frame_sizes
from engine.uncertainty.sources import SlotSources, Sources
from engine.uncertainty.tables import SetUpTables

Whole = NDArray[np.int64]
Real = NDArray[np.float64]

FRAMES_OF_ONE_CORE = 500_000  # more are shared out
PARTS_OF_CORE = 4  # of many set-ups, so that no core is left without work
MOST_FRAMES_IN_ALL = 500_000_000  # about ten seconds of one core: the most that one request may ask


@dataclass(frozen=True, eq=False)
class Outcomes:
    """What came of every set-up (first axis) in every draw (second axis).

    `holds` has the places of `event_loop` for each hold (third axis); `card_full_ns` is when a card
    was full, NEVER where none was; `frame_ns` is the long-run time of a frame once memory is full,
    whatever the frame rate, in the regime in which the burst ended.
    """

    scenarios: Sequence[Scenario]
    holds: Whole
    card_full_ns: Whole
    frame_ns: Whole

    @classmethod
    def empty(cls, scenarios: Sequence[Scenario], count: int) -> Self:
        """Room for what comes of them in so many draws."""
        shape, holds = (len(scenarios), count), 1 + len(scenarios[0].later_holds)
        return cls(
            scenarios,
            np.empty((*shape, holds, HOLD_OUTCOME_LENGTH), dtype=np.int64),
            np.empty(shape, dtype=np.int64),
            np.empty(shape, dtype=np.int64),
        )

    @property
    def card_full(self) -> NDArray[np.bool_]:
        """Whether a card was full."""
        return np.asarray(self.card_full_ns != NEVER)

    def final_regime(self, number: int, draw: int) -> Regime:
        """Which slots are written to, and how fast, when the finger is up for the last time."""
        pace = int(self.holds[number, draw, -1, FINAL_PACE])
        return Regime.of_pace(self.scenarios[number], pace)

    @property
    def frames(self) -> Whole:
        """Frames taken in all holds."""
        return np.asarray(self.holds[..., FRAMES].sum(axis=-1))

    @property
    def depths(self) -> Whole:
        """Burst depth of each hold, NEVER (-1) where memory refused no frame of it."""
        return np.asarray(self.holds[..., DEPTH])

    @property
    def frames_at_full_speed(self) -> Whole:
        """Burst depth, added up over the holds; NEVER where no hold met a wall."""
        depths = self.depths
        total = np.where(depths == NEVER, self.holds[..., FRAMES], depths).sum(axis=-1)
        return np.asarray(np.where((depths == NEVER).all(axis=-1), NEVER, total))

    @property
    def clear_ns(self) -> Whole:
        """From each finger up until all frames taken so far are on their cards."""
        ends = [[end_ns for _, end_ns in scenario.holds_ns] for scenario in self.scenarios]
        written_ns = self.holds[..., ALL_WRITTEN_NS]
        return np.asarray(np.maximum(written_ns - np.array(ends)[:, None], 0))


def sweep(
    scenarios: Sequence[Scenario],
    sources: Sequence[Sources],
    draws: AnyDraws | Sequence[AnyDraws],
) -> Outcomes:
    """Shoots every scenario, each as sure as its sources, in every draw.

    The scenarios have the same number of holds. One `draws` serves all of them, or each has its
    own, all with the same count.

    Raises :class:`InvalidScenario` when that is more than one request may ask for.
    """
    of_each = draws if isinstance(draws, Sequence) else [draws] * len(scenarios)
    count, due = of_each[0].count, [scenario.frames_due for scenario in scenarios]
    if count < 1 or sum(due) * count > MOST_FRAMES_IN_ALL:
        raise InvalidScenario(
            {"draws": f"must be at least 1, and {MOST_FRAMES_IN_ALL:,} frames in all at most"}
        )
    tables = SetUpTables(count)
    asked = list(zip(scenarios, sources, of_each, strict=True))
    set_ups = np.array([tables.set_up(*one) for one in asked], dtype=SET_UP)
    shared = (
        tables.bodies, tables.sides, tables.holds, tables.bursts, tables.ratios, tables.couplings,
        tables.burst_sizes,
    )  # fmt: skip
    came = Outcomes.empty(scenarios, count)

    def shoot(part: _Part) -> None:
        shoot_set_ups(
            set_ups, *shared, part.sizes, part.ends, part.numbers, part.first, part.last,
            np.zeros(1, dtype=PLAN), came.holds, came.card_full_ns, came.frame_ns,
        )  # fmt: skip

    parts = list(_parts(sources, due, count))
    if sum(due) * count > FRAMES_OF_ONE_CORE:
        on_all_cores(shoot, parts)
    else:
        for part in parts:
            shoot(part)
    return came


_EXACT = {slots: Sources(slots=(SlotSources(),) * slots) for slots in (1, 2)}


def nominal_outcomes(scenarios: Sequence[Scenario]) -> Outcomes:
    """What comes of every scenario with every number as it is: what `simulate` tells of each."""
    return sweep(scenarios, [_EXACT[len(one.slots)] for one in scenarios], NOMINAL_DRAW)


class _Part(NamedTuple):
    """Set-ups whose frames vary alike, by their numbers, and the draws that one core shoots.

    Those from `first` to before `last`; `ends` has the smallest and the largest size in each draw.
    """

    sizes: Sizes
    ends: Sizes
    numbers: Whole
    first: int
    last: int


def _parts(sources: Sequence[Sources], due: Sequence[int], count: int) -> Iterator[_Part]:
    """All set-ups and draws. Many set-ups are shared out among the cores, the draws of a few."""
    alike: dict[int, tuple[Sizes, list[int]]] = {}
    for number, one in enumerate(sources):
        sizes = frame_sizes(count, due[number], one.within_burst)
        alike.setdefault(id(sizes), (sizes, []))[1].append(number)
    for sizes, numbers in alike.values():
        ends = np.stack([sizes.min(axis=1), sizes.max(axis=1)], axis=1)
        if len(numbers) >= CORES * PARTS_OF_CORE:
            for some in np.array_split(numbers, CORES * PARTS_OF_CORE):
                yield _Part(sizes, ends, some, 0, count)
        else:
            for first, last in pairwise(np.linspace(0, count, CORES + 1).astype(int)):
                yield _Part(sizes, ends, np.array(numbers), int(first), int(last))


@njit(cache=True, nogil=True)
def with_room(frame: Whole, plan: Plan, holds: Whole, smallest: int) -> Whole:
    """`frame`, or a larger one: a power of two of places for all frames that `run` has to keep.

    Those are as many as memory may hold, whose files are `smallest` parts of NOMINAL at least. In
    overflow it is every frame of the holds: slot 1 may still write one when many later ones have
    gone to slot 2.
    """
    due, least = 0, NOMINAL
    for hold in holds:
        due += -(-(hold[FINGER_UP_NS] - hold[PRESS_NS]) // plan.interval_ns)
        least = min(least, hold[FILE_SIZE])
    file_bytes = max(plan.file_bytes * (least * smallest >> SIZE_BITS) >> SIZE_BITS, 1)
    needed = due
    if plan.arrangement != OVERFLOW:
        needed = min(due, plan.memory_bytes // file_bytes + 2)
    if needed <= frame.shape[1]:
        return frame
    room = frame.shape[1]
    while room < needed:
        room *= 2
    return np.empty((FRAME_LENGTH, room), dtype=np.int64)


@njit(cache=True, nogil=True)
def shoot_one(
    plan: Plan, holds: Whole, sizes: NDArray[np.int32], frame: Whole, outcome: Whole
) -> tuple[int, int]:
    """Shoots a plan into `outcome`; when a card was full, and the long-run time of a frame."""
    _, _, card_full_ns, _, _ = run(plan, holds, sizes, False, frame, outcome)
    pace, size = outcome[-1, FINAL_PACE], holds[-1, FILE_SIZE]
    return card_full_ns, frame_ns(plan, pace, size)


@njit(
    [
        (
            from_dtype(PLAN)[::1],
            int64[:, :, ::1],
            int32[:, ::1],
            int64[:, :, ::1],
            int64[::1],
            int64[::1],
        )
    ],
    cache=True,
    nogil=True,
)
def shoot_all(
    plans: Records,
    holds: Whole,
    sizes: Sizes,
    outcomes: Whole,
    card_full_ns: Whole,
    frames_ns: Whole,
) -> None:
    """Shoots every plan into the last three."""
    frame = np.empty((FRAME_LENGTH, 1), dtype=np.int64)
    for draw in range(len(plans)):
        frame = with_room(frame, plans[draw], holds[draw], sizes[draw].min())
        card_full_ns[draw], frames_ns[draw] = shoot_one(
            plans[draw], holds[draw], sizes[draw], frame, outcomes[draw]
        )


@njit(
    [
        (
            from_dtype(SET_UP)[::1], from_dtype(BODY)[::1], from_dtype(SIDE)[::1],
            int64[:, :, ::1], int64[:, ::1], float64[:, ::1], int64[:, ::1], int64[:, ::1],
            int32[:, ::1], int32[:, ::1], int64[::1], int64, int64, from_dtype(PLAN)[::1],
            int64[:, :, :, ::1], int64[:, ::1], int64[:, ::1],
        )
    ],
    cache=True,
    nogil=True,
)  # fmt: skip
def shoot_set_ups(
    set_ups: Records,
    bodies: Records,
    sides: Records,
    holds: Whole,
    bursts: Whole,
    ratios: Real,
    couplings: Whole,
    burst_sizes: Whole,
    sizes: Sizes,
    ends: NDArray[np.int32],
    numbers: Whole,
    first: int,
    last: int,
    plan: Records,
    outcomes: Whole,
    card_full_ns: Whole,
    frames_ns: Whole,
) -> None:
    """Shoots the set-ups of these `numbers` in the draws from `first` to before `last`.

    The next seven are their tables (`SetUpTables`); `ends` has the smallest and the largest of
    `sizes` in each draw, `plan` is room for one.
    """
    frame = np.empty((FRAME_LENGTH, 1), dtype=np.int64)
    for number in numbers:
        set_up = set_ups[number]
        of_draw = holds[set_up.holds].copy()
        for draw in range(first, last):
            fill_plan(set_up, bodies, sides, ratios, couplings, draw, plan[0])
            for hold in range(len(of_draw)):
                of_draw[hold, FILE_SIZE] = burst_sizes[bursts[set_up.bursts, hold], draw]
            if shoot_unhindered(
                plan[0], of_draw, sizes[draw], ends[draw, 1], outcomes[number, draw]
            ):
                card_full_ns[number, draw] = NEVER
                pace = outcomes[number, draw, -1, FINAL_PACE]
                frames_ns[number, draw] = frame_ns(plan[0], pace, of_draw[-1, FILE_SIZE])
                continue
            frame = with_room(frame, plan[0], of_draw, ends[draw, 0])
            card_full_ns[number, draw], frames_ns[number, draw] = shoot_one(
                plan[0], of_draw, sizes[draw], frame, outcomes[number, draw]
            )
