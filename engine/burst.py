"""What comes of one burst, and what is asked of it; compiled."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engine.event_loop import NEVER, run
from engine.plan import HOLD_NS

Whole = NDArray[np.int64]

# What comes of one burst: frames in all of the hold; those within the time they are counted in;
# burst depth; light out and readiness after finger up.
FRAMES, COUNTED, DEPTH, CLEAR_NS, READY_NS, OUTCOME_LENGTH = range(6)
# What a burst is asked for.
FULL_FRAMES, LEAST_FRAMES, WITHIN_NS, MOST_READY_NS, FIRST_PICTURE, ASKED_LENGTH = range(6)
# Which of it was met, the last one asked of all: that memory never refused a frame.
FULL_RATE, ENOUGH, READY, NO_WALL, MET_LENGTH = range(5)


@njit(cache=True, nogil=True)
def shoot(
    plan: Whole, spread: float, noise: NDArray[np.float32], asked: Whole, room: Whole, out: Whole
) -> None:
    """Shoots `plan` and notes what comes of it in `out`; `room` has room for four times its frames.

    `room` gets the moments of `engine.event_loop.run`.
    """
    frames, depth, _, _, _, _, last_ns = run(
        plan, spread, noise, room[0], room[1], room[2], room[3]
    )
    out[FRAMES], out[DEPTH] = frames, depth
    out[COUNTED] = np.searchsorted(room[0, :frames], asked[WITHIN_NS])
    out[CLEAR_NS] = max(last_ns - plan[HOLD_NS], 0)
    out[READY_NS] = out[CLEAR_NS]
    if asked[FIRST_PICTURE]:
        out[READY_NS] = max(room[2, :frames].min() - plan[HOLD_NS], 0) if frames else 0


@njit(cache=True, nogil=True)
def met_by(outcome: Whole, asked: Whole) -> int:
    """A bit for each thing asked that `outcome` meets."""
    depth = outcome[DEPTH]
    unstopped = outcome[FRAMES] if depth == NEVER else depth
    return int(
        (unstopped >= asked[FULL_FRAMES]) << FULL_RATE
        | (outcome[COUNTED] >= asked[LEAST_FRAMES]) << ENOUGH
        | (outcome[READY_NS] <= asked[MOST_READY_NS]) << READY
        | (depth == NEVER) << NO_WALL
    )


@njit(cache=True, nogil=True)
def count(met: int, counted: Whole) -> None:
    """Adds what was `met` to `counted`."""
    for thing in range(MET_LENGTH):
        counted[thing] += met >> thing & 1
