"""One hold of the button, or several in a row, exact to the nanosecond."""

import numpy as np

from engine.burst.plan import NOMINAL, holds_of, plan_of, power_of_two
from engine.burst.result import HoldResult, Result
from engine.burst.scenario import Scenario


def simulate(scenario: Scenario) -> Result:
    """Hold the button down and follow every frame until the last byte is on its cards."""
    # Here because its compiler takes a second to import, and most commands never simulate.
    from engine.burst import event_loop

    room = power_of_two(scenario.frames_due)
    frame = np.empty((event_loop.FRAME_LENGTH, room), dtype=np.int64)
    outcome = np.empty((len(scenario.holds), event_loop.HOLD_OUTCOME_LENGTH), dtype=np.int64)
    same_size = np.array([NOMINAL], dtype=np.int32)
    frames, _, card_full_ns, full_slot, switched = event_loop.run(
        plan_of(scenario)[0], holds_of(scenario), same_size, False, frame, outcome
    )

    def unless_never(value: int) -> int | None:
        return None if value == event_loop.NEVER else int(value)

    first, holds = 0, []
    for hold, of_hold in zip(scenario.holds, outcome, strict=True):
        taken = int(of_hold[event_loop.FRAMES])
        wall_ns = unless_never(of_hold[event_loop.WALL_NS])
        all_written_ns = int(of_hold[event_loop.ALL_WRITTEN_NS])
        pace = int(of_hold[event_loop.FINAL_PACE])
        holds.append(HoldResult(hold, first, taken, wall_ns, all_written_ns, pace))
        first += taken
    return Result(
        scenario=scenario,
        taken_ns=frame[event_loop.TAKEN, :frames],
        encoded_ns=frame[event_loop.ENCODED, :frames],
        written_ns=frame[event_loop.WRITTEN, :frames],
        paces=frame[event_loop.PACE, :frames],
        holds=tuple(holds),
        card_full_ns=unless_never(card_full_ns),
        full_slot=unless_never(full_slot),
        overflow_frame=unless_never(switched),
    )
