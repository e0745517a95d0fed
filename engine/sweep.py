"""The same model over very many bursts at once, for ranges and comparisons.

Every set-up is shot once for every draw of the noise, by the event loop that `simulate` uses, on
scratch memory for one burst. The same draws serve every set-up, so that differences between
set-ups are theirs and not chance's, and the same seed gives the same figures again.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engine.event_loop import NOISE_LENGTH, one_writer_ns, run
from engine.plan import (
    ARRANGEMENT,
    BYTES,
    CACHED_NS,
    COUPLING,
    ENCODE_NS,
    FILE_BYTES,
    HOLD_NS,
    MEMORY_BYTES,
    MIRROR,
    OVERHEAD_NS,
    PARALLEL,
    SLOT_1,
    SLOT_2,
    SLOW_NS,
    SPLIT,
    TRANSFER_NS,
    plan_of,
)
from engine.scenario import InvalidScenario, Scenario

Whole = NDArray[np.int64]
_NOTHING: frozenset[str] = frozenset()

LEAST = 0.2  # no draw takes a quantity below a fifth of itself
MOST_FRAMES_IN_ALL = 500_000_000  # about ten seconds of one core: the most that one request may ask
# What is drawn once for all set-ups of a draw, unless a set-up has luck of its own in it.
FACTORS = ("file_size", "write_1", "write_2", "memory", "encoder")


@dataclass(frozen=True, kw_only=True)
class Spread:
    """Relative standard deviations of what goes into a burst; 0 where it is known exactly."""

    frame_to_frame: float = 0.0
    file_size: float = 0.0
    write_1: float = 0.0
    write_2: float = 0.0
    memory: float = 0.0
    encoder: float = 0.0


@dataclass(frozen=True, eq=False)
class Outcomes:
    """What came of every set-up (first axis) in every draw (second axis).

    `frames_at_full_speed` is NEVER (-1) where memory refused no frame within the hold;
    `frame_ns` is the long-run time of a frame once memory is full, whatever the frame rate.
    """

    frames: Whole
    frames_at_full_speed: Whole
    clear_ns: Whole
    frame_ns: Whole


def sweep(
    scenarios: Sequence[Scenario],
    spreads: Sequence[Spread],
    draws: int,
    seed: int = 0,
    apart: Sequence[frozenset[str]] | None = None,
) -> Outcomes:
    """Shoots every scenario, each with its spread, in `draws` draws of the noise.

    `apart` names for each scenario the FACTORS in which its luck is its own: two cards err each
    in its own way, one body in two set-ups errs the same. Left out, all share all of it.

    Raises :class:`InvalidScenario` when that is more than one request may ask for.
    """
    plans = np.stack([plan_of(scenario) for scenario in scenarios])
    due = [scenario.frames_due for scenario in scenarios]
    if draws < 1 or sum(due) * draws > MOST_FRAMES_IN_ALL:
        raise InvalidScenario(
            {"draws": f"must be at least 1, and {MOST_FRAMES_IN_ALL:,} frames in all at most"}
        )
    shared, noise = luck_of(draws, seed)
    lots = list(dict.fromkeys(apart or [_NOTHING]))
    lot_of = np.array([lots.index(own) for own in apart or [_NOTHING] * len(plans)])
    luck = np.stack([_with_own(shared, own, seed, number) for number, own in enumerate(lots)])
    deviations = np.array(
        [
            [s.frame_to_frame, s.file_size, s.write_1, s.write_2, s.memory, s.encoder]
            for s in spreads
        ]
    )
    outcomes = np.empty((4, len(plans), draws), dtype=np.int64)
    _shoot_all(plans, deviations, luck, lot_of, noise, max(due), outcomes)
    return Outcomes(*outcomes)


@lru_cache(maxsize=8)
def luck_of(draws: int, seed: int) -> tuple[NDArray[np.float64], NDArray[np.float32]]:
    """What the draws of a seed are: the shared ones, and those for each frame.

    Always the same ones, whatever is shot with them; kept because drawing takes longer than
    shooting a short burst.
    """
    random = np.random.Generator(np.random.PCG64(seed))
    shared = random.standard_normal((draws, len(FACTORS)))
    noise = random.standard_normal((draws, NOISE_LENGTH), dtype=np.float32)
    return shared, noise


def _with_own(
    shared: NDArray[np.float64], own: frozenset[str], seed: int, number: int
) -> NDArray[np.float64]:
    """The shared draws, with others in their place for the factors in `own`."""
    if not own:
        return shared
    random = np.random.Generator(np.random.PCG64((seed, 1 + number)))
    others = random.standard_normal(shared.shape)
    return np.where([factor in own for factor in FACTORS], others, shared)


@njit(cache=True, nogil=True)
def drawn(nominal: int, deviation: float, draw: float) -> int:
    """A size or memory of `nominal` as one draw has it."""
    if deviation == 0:
        return nominal
    return int(nominal * max(1 + deviation * draw, LEAST))


@njit(cache=True, nogil=True)
def drawn_ns(nominal_ns: int, deviation: float, draw: float) -> int:
    """The time of one frame when it is the rate that is drawn."""
    if deviation == 0:
        return nominal_ns
    return int(nominal_ns / max(1 + deviation * draw, LEAST))


@njit(cache=True, nogil=True)
def draw_body(plan: Whole, deviations: NDArray[np.float64], shared: NDArray[np.float64]) -> None:
    """Makes memory, encoder and file size of `plan` what they are in one draw."""
    plan[MEMORY_BYTES] = drawn(plan[MEMORY_BYTES], deviations[4], shared[3])
    plan[ENCODE_NS] = drawn_ns(plan[ENCODE_NS], deviations[5], shared[4])
    plan[FILE_BYTES] = drawn(plan[FILE_BYTES], deviations[1], shared[0])


@njit(cache=True, nogil=True)
def draw_slot(
    slot: Whole, of_file: float, file_draw: float, of_write: float, write_draw: float
) -> None:
    """Makes the places of one slot what they are where files and writing are drawn so."""
    slot[BYTES] = drawn(slot[BYTES], of_file, file_draw)
    for place in (TRANSFER_NS, CACHED_NS, SLOW_NS):
        slot[place] = drawn_ns(drawn(slot[place], of_file, file_draw), of_write, write_draw)


@njit(cache=True, nogil=True)
def _draw(plan: Whole, deviations: NDArray[np.float64], shared: NDArray[np.float64]) -> Whole:
    """`plan` as one draw has it."""
    taken = plan.copy()
    draw_body(taken, deviations, shared)
    for number, slot in enumerate((SLOT_1, SLOT_2)):
        draw_slot(
            taken[slot:], deviations[1], shared[0], deviations[2 + number], shared[1 + number]
        )
    return taken


@njit(cache=True, nogil=True)
def _writing_ns(plan: Whole) -> int:
    """Time between two frames of which the card sides are the narrowest, by the couplings."""
    wait_1, write_1 = plan[SLOT_1 + OVERHEAD_NS], plan[SLOT_1 + TRANSFER_NS]
    if plan[ARRANGEMENT] != MIRROR and plan[ARRANGEMENT] != SPLIT:
        return int(wait_1 + write_1)
    wait_2, write_2 = plan[SLOT_2 + OVERHEAD_NS], plan[SLOT_2 + TRANSFER_NS]
    if plan[COUPLING] == PARALLEL:
        return int(max(wait_1 + write_1, wait_2 + write_2))
    return one_writer_ns(plan[COUPLING], wait_1, write_1, wait_2, write_2)


@njit(
    "(int64[:, ::1], float64[:, ::1], float64[:, :, ::1], int64[::1], float32[:, ::1], int64, "
    "int64[:, :, ::1])",
    cache=True,
    nogil=True,
)
def _shoot_all(
    plans: Whole,
    deviations: NDArray[np.float64],
    luck: NDArray[np.float64],
    lot_of: Whole,
    noise: NDArray[np.float32],
    most_frames: int,
    outcomes: Whole,
) -> None:
    taken = np.empty(most_frames, dtype=np.int64)
    encoded, done, kept = np.empty_like(taken), np.empty_like(taken), np.empty_like(taken)
    for setup in range(len(plans)):
        hold_ns = plans[setup, HOLD_NS]
        for draw in range(len(noise)):
            plan = _draw(plans[setup], deviations[setup], luck[lot_of[setup], draw])
            frames, depth, _, _, _, _, last_ns = run(
                plan, deviations[setup, 0], noise[draw], taken, encoded, done, kept
            )
            outcomes[0, setup, draw] = frames
            outcomes[1, setup, draw] = depth
            outcomes[2, setup, draw] = max(last_ns - hold_ns, 0)
            outcomes[3, setup, draw] = max(_writing_ns(plan), plan[ENCODE_NS])
