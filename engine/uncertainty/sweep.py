"""The same model over very many bursts at once, for ranges and comparisons.

Every set-up is shot once for every draw, by the event loop that `simulate` uses, on scratch memory
for the frames that a camera holds at once. Draws are common random numbers (`draws`):
differences between set-ups are theirs and not chance's, and the same call gives the same figures
again.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numba import boolean, from_dtype, int32, int64, njit
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
    Records,
)
from engine.burst.scenario import InvalidScenario, Scenario
from engine.cores import in_parts
from engine.uncertainty.draws import AnyDraws, Sizes, drawn_holds, drawn_plans, frame_sizes
from engine.uncertainty.sources import Sources

Whole = NDArray[np.int64]

FRAMES_OF_ONE_CORE = 500_000  # of one set-up; more are shared out
MOST_FRAMES_IN_ALL = 500_000_000  # about ten seconds of one core: the most that one request may ask


@dataclass(frozen=True, eq=False)
class Outcomes:
    """What came of every set-up (first axis) in every draw (second axis).

    `holds` has the places of `event_loop` for each hold (third axis); `card_full` tells that
    a card was full; `frame_ns` is the long-run time of a frame once memory is full, whatever the
    frame rate, in the regime in which the burst ended.
    """

    scenarios: Sequence[Scenario]
    holds: Whole
    card_full: NDArray[np.bool_]
    frame_ns: Whole

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
        ends = [[hold.finger_up_ns for hold in scenario.holds] for scenario in self.scenarios]
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
    shape = (len(scenarios), count)
    holds = np.empty((*shape, len(scenarios[0].holds), HOLD_OUTCOME_LENGTH), dtype=np.int64)
    card_full = np.empty(shape, dtype=np.bool_)
    frame_ns = np.empty(shape, dtype=np.int64)
    for number, scenario in enumerate(scenarios):
        drawn = (
            drawn_plans(scenario, sources[number], of_each[number]),
            drawn_holds(scenario, sources[number], of_each[number]),
            frame_sizes(count, scenario.frames_due, sources[number].within_burst),
            holds[number],
            card_full[number],
            frame_ns[number],
        )
        if due[number] * count > FRAMES_OF_ONE_CORE:
            in_parts(shoot_all, drawn)
        else:
            shoot_all(*drawn)
    return Outcomes(scenarios, holds, card_full, frame_ns)


@njit(cache=True, nogil=True)
def frames_kept(plans: Records, holds: Whole, sizes: Sizes) -> int:
    """How many frames `run` has to keep at once, a power of two: those that memory may hold.

    In overflow it is every frame of the holds: slot 1 may still write one when many later ones have
    gone to slot 2.
    """
    needed = 1
    for draw in range(len(plans)):
        due, smallest = 0, NOMINAL
        for hold in holds[draw]:
            due += -(-(hold[FINGER_UP_NS] - hold[PRESS_NS]) // plans[draw].interval_ns)
            smallest = min(smallest, hold[FILE_SIZE])
        smallest = smallest * sizes[draw].min() >> SIZE_BITS
        file_bytes = max(plans[draw].file_bytes * smallest >> SIZE_BITS, 1)
        in_memory = plans[draw].memory_bytes // file_bytes + 2
        is_overflow = plans[draw].arrangement == OVERFLOW
        needed = max(needed, due if is_overflow else min(due, in_memory))
    room = 1
    while room < needed:
        room *= 2
    return room


@njit(
    [
        (
            from_dtype(PLAN)[::1],
            int64[:, :, ::1],
            int32[:, ::1],
            int64[:, :, ::1],
            boolean[::1],
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
    card_full: NDArray[np.bool_],
    frames_ns: Whole,
) -> None:
    """Shoots every draw into the last three."""
    frame = np.empty((FRAME_LENGTH, frames_kept(plans, holds, sizes)), dtype=np.int64)
    for draw in range(len(plans)):
        _, _, card_full_ns, _, _ = run(
            plans[draw], holds[draw], sizes[draw], False, frame, outcomes[draw]
        )
        card_full[draw] = card_full_ns != NEVER
        pace, size = outcomes[draw, -1, FINAL_PACE], holds[draw, -1, FILE_SIZE]
        frames_ns[draw] = frame_ns(plans[draw], pace, size)
