"""One hold of the button, exact to the nanosecond."""

import numpy as np

from engine.plan import plan_of
from engine.result import Result
from engine.scenario import Scenario


def simulate(scenario: Scenario) -> Result:
    """Hold the button down and follow every frame until the last byte is on its cards."""
    # Here because its compiler takes a second to import, and most commands never simulate.
    from engine import event_loop

    taken_ns, encoded_ns, written_ns, kept_bytes = np.empty(
        (4, scenario.frames_due), dtype=np.int64
    )
    no_noise = np.empty(0, dtype=np.float32)
    frames, _, wall_ns, card_full_ns, full_slot, switched, _ = event_loop.run(
        plan_of(scenario), 0.0, no_noise, taken_ns, encoded_ns, written_ns, kept_bytes
    )

    def unless_never(value: int) -> int | None:
        return None if value == event_loop.NEVER else value

    return Result(
        scenario=scenario,
        taken_ns=taken_ns[:frames],
        encoded_ns=encoded_ns[:frames],
        written_ns=written_ns[:frames],
        wall_ns=unless_never(wall_ns),
        card_full_ns=unless_never(card_full_ns),
        full_slot=unless_never(full_slot),
        overflow_frame=unless_never(switched),
    )
