"""All presses of a day on one set-up: the event loop over more holds than a scenario has."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.burst.plan import NOMINAL, Records, parts_of_nominal, plan_of, power_of_two
from engine.burst.scenario import MOST_FRAMES, Hold, Scenario
from engine.quantities import NS_IN_S, InvalidValues

Whole = NDArray[np.int64]
Real = NDArray[np.float64]

MOST_PRESSES = 20_000  # as many as pictures of a day that are looked at


class InvalidDay(InvalidValues):
    """A day that makes no sense, in sentences by what is wrong."""


@dataclass(frozen=True, eq=False, kw_only=True)
class Presses:
    """Presses in order: when each begins and when the finger is up, and the size of its files.

    Moments in ns from any start; `sizes` are shares of what the scenario says of a frame's files.
    Raises :class:`InvalidDay`.
    """

    press_ns: Whole
    finger_up_ns: Whole
    sizes: Real

    def __post_init__(self) -> None:
        if not 1 <= len(self.press_ns) <= MOST_PRESSES:
            raise InvalidDay({"presses": f"must be 1 to {MOST_PRESSES:,}"})
        if (self.finger_up_ns <= self.press_ns).any():
            raise InvalidDay({"presses": "must each last a moment"})
        if (self.press_ns[1:] < self.finger_up_ns[:-1]).any():
            raise InvalidDay({"presses": "must be in order, none before the finger is up"})

    @classmethod
    def of(cls, holds: Sequence[Hold]) -> "Presses":
        """Those of `holds`, with files as the scenario says. Raises :class:`InvalidDay`."""
        moments_ns = np.array(
            [(hold.press_ns, hold.finger_up_ns) for hold in holds], dtype=np.int64
        ).reshape(-1, 2)
        press_ns, finger_up_ns = moments_ns.T
        return cls(press_ns=press_ns, finger_up_ns=finger_up_ns, sizes=np.ones(len(holds)))

    @cached_property
    def rows(self) -> Whole:
        """The holds as the event loop wants them."""
        sizes = parts_of_nominal(self.sizes).astype(np.int64)
        # By PRESS_NS, FINGER_UP_NS, COUNTED_UNTIL_NS (all of it), FILE_SIZE.
        return np.column_stack((self.press_ns, self.finger_up_ns, self.finger_up_ns, sizes))

    def frames_due(self, interval_ns: int) -> Whole:
        """Frames that each press would give if memory never refused one."""
        due: Whole = -((self.press_ns - self.finger_up_ns) // interval_ns)
        return due


@dataclass(frozen=True, eq=False, kw_only=True)
class ShotPresses:
    """What came of presses on a set-up, a place for each.

    `due` frames if memory had never refused one, `frames` that were taken, `depths` of them before
    the first that was refused (-1: none was); all frames up to its end are on their cards
    at `all_written_ns`. `card_full_ns` is when a card had no room for a frame, None if never.
    `taken_ns`, `encoded_ns` and `written_ns` have a place for each frame, `kept_bytes` its files.
    """

    presses: Presses
    due: Whole
    frames: Whole
    depths: Whole
    all_written_ns: Whole
    card_full_ns: int | None
    taken_ns: Whole
    encoded_ns: Whole
    written_ns: Whole
    kept_bytes: Whole

    @property
    def missed(self) -> Whole:
        """Frames that each press would have given beyond those that were taken."""
        return self.due - self.frames

    @property
    def clear_s(self) -> Real:
        """Seconds from finger up until all is on the cards, of each press."""
        busy_ns = np.maximum(self.all_written_ns - self.presses.finger_up_ns, 0)
        return np.asarray(busy_ns / NS_IN_S)


def shoot(scenario: Scenario, presses: Presses) -> ShotPresses:
    """Presses on the set-up of `scenario`, whose own holds are left aside.

    Memory, encoder, writers, caches and room carry over from one to the next, as in a series
    (docs/model.md). Raises :class:`InvalidDay` for more frames than a scenario may ask for.
    """
    return shoot_plan(plan_of(scenario), presses)


def shoot_plan(plan: Records, presses: Presses) -> ShotPresses:
    """The same of a set-up as the event loop wants it, a single PLAN."""
    # Here because its compiler takes a second to import.
    from engine.burst import event_loop

    due = presses.frames_due(int(plan["interval_ns"][0]))
    if due.sum() > MOST_FRAMES:
        raise InvalidDay({"presses": f"must not ask for more than {MOST_FRAMES:,} frames in all"})
    frame = np.empty((event_loop.FRAME_LENGTH, power_of_two(int(due.sum()))), dtype=np.int64)
    outcome = np.empty((len(due), event_loop.HOLD_OUTCOME_LENGTH), dtype=np.int64)
    nominal_size = np.array([NOMINAL], dtype=np.int32)
    frames, _, card_full_ns, _, _ = event_loop.run(
        plan[0], presses.rows, nominal_size, False, frame, outcome
    )
    return ShotPresses(
        presses=presses,
        due=due,
        frames=outcome[:, event_loop.FRAMES],
        depths=outcome[:, event_loop.DEPTH],
        all_written_ns=outcome[:, event_loop.ALL_WRITTEN_NS],
        card_full_ns=None if card_full_ns == event_loop.NEVER else int(card_full_ns),
        taken_ns=frame[event_loop.TAKEN, :frames],
        encoded_ns=frame[event_loop.ENCODED, :frames],
        written_ns=frame[event_loop.WRITTEN, :frames],
        kept_bytes=frame[event_loop.KEPT, :frames],
    )
