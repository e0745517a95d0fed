"""What a camera makes of the presses of a run: the event loop, with all runs before it.

Memory, encoder, writers and caches carry over from one run of a session to the next, as in any
series of holds (docs/model.md).
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.burst.result import HoldResult, Result
from engine.burst.scenario import SHORTEST_HOLD_NS, Hold, Scenario
from engine.burst.simulate import simulate
from engine.practice.subject_run import PAUSE_S, SubjectRun
from engine.quantities import NS_IN_S, ns_of

LONGEST_RUN_S = 25.0  # no subject takes longer

Whole = NDArray[np.int64]


def never_full(scenario: Scenario) -> Scenario:
    """The set-up of `scenario` as it is practised with: one hold, and cards that never fill."""
    slots = tuple(replace(one, free_mb=None, slow_below_free_mb=0.0) for one in scenario.slots)
    return replace(scenario, slots=slots, later_holds=())


def full_after_s(scenario: Scenario) -> float | None:
    """Seconds until the buffer is first full, from empty; None: no run lasts as long."""
    wall_ns = simulate(replace(scenario, hold_s=LONGEST_RUN_S)).wall_ns
    return None if wall_ns is None else wall_ns / NS_IN_S


@dataclass(frozen=True)
class PlayedRun:
    """A run and the presses made in it, in seconds from its start."""

    run: SubjectRun
    presses: tuple[Hold, ...]


def start_after(played: Sequence[PlayedRun]) -> float:
    """Seconds from the start of a session to that of the run that follows those of `played`."""
    return sum(one.run.ends_s + PAUSE_S for one in played)


@dataclass(frozen=True)
class ShotRun:
    """The run after `earlier` ones, shot on the set-up of `scenario` (`never_full`).

    All moments are counted from its start.
    """

    scenario: Scenario
    earlier: Sequence[PlayedRun]
    played: PlayedRun

    @property
    def run(self) -> SubjectRun:
        """What the subject did."""
        return self.played.run

    def with_presses(self, presses: Iterable[Hold]) -> "ShotRun":
        """The same run, had it been pressed so."""
        return replace(self, played=replace(self.played, presses=tuple(presses)))

    @cached_property
    def starts_ns(self) -> int:
        """The start of the run in its session."""
        return ns_of(start_after(self.earlier))

    @cached_property
    def _answered_ns(self) -> list[tuple[int, int]]:
        """Presses and fingers up of the session, as far as the camera answers them.

        A camera that takes f frames a second is not ready for a press sooner than 1/f after the
        last frame that was due.
        """
        interval_ns, ready_ns = self.scenario.frame_interval_ns, 0
        answered = []
        for press_ns, up_ns in self._asked_ns():
            from_ns = max(press_ns, ready_ns)
            if up_ns - from_ns >= SHORTEST_HOLD_NS:
                ready_ns = from_ns - (from_ns - up_ns) // interval_ns * interval_ns
                answered.append((from_ns, up_ns))
        return answered

    def _asked_ns(self) -> Iterator[tuple[int, int]]:
        runs = [*self.earlier, self.played]
        for number, played in enumerate(runs):
            start_ns = ns_of(start_after(runs[:number]))
            for hold in played.presses:
                yield start_ns + hold.press_ns, start_ns + hold.finger_up_ns

    @cached_property
    def result(self) -> Result | None:
        """The series of all presses of the session up to here; None while there are none."""
        if not self._answered_ns:
            return None
        zero_ns = self._answered_ns[0][0]
        first, *later = [
            Hold.between(press_ns - zero_ns, up_ns - zero_ns)
            for press_ns, up_ns in self._answered_ns
        ]
        return simulate(replace(self.scenario, hold_s=first.hold_s, later_holds=tuple(later)))

    @property
    def _shift_ns(self) -> int:
        """What is added to a moment of the result to count it from the start of the run."""
        return self._answered_ns[0][0] - self.starts_ns

    @cached_property
    def taken_ns(self) -> Whole:
        """The moments of its frames, in ns."""
        if self.result is None:
            return np.empty(0, dtype=np.int64)
        taken_ns = self.result.taken_ns + self._shift_ns
        return taken_ns[taken_ns >= 0]

    @property
    def frames(self) -> int:
        """Frames taken in the run."""
        return len(self.taken_ns)

    @cached_property
    def walls_ns(self) -> list[int]:
        """The moments at which memory first refused a frame, of each press of the run."""
        walls = (hold.wall_ns for hold in self.holds if hold.wall_ns is not None)
        return [wall_ns + self._shift_ns for wall_ns in walls]

    @property
    def holds(self) -> list[HoldResult]:
        """What came of the presses of the run that the camera answered."""
        if self.result is None:
            return []
        return [one for one in self.result.holds if one.hold.press_ns + self._shift_ns >= 0]

    @cached_property
    def memory(self) -> tuple[Whole, Whole]:
        """Moments in ns at which memory changed, and the bytes in use from each on.

        The first is the start of the run at the latest.
        """
        if self.result is None:
            return np.zeros(1, dtype=np.int64), np.zeros(1, dtype=np.int64)
        moments_ns, used_bytes = self.result.memory_steps
        moments_ns = np.append(-self.starts_ns, moments_ns + self._shift_ns)
        used_bytes = np.append(0, used_bytes)
        first = int(np.searchsorted(moments_ns, 0, side="right")) - 1
        return moments_ns[first:], used_bytes[first:]

    def frames_between(self, from_ns: int, to_ns: int) -> int:
        """Frames taken from one moment on, and before another."""
        first, end = np.searchsorted(self.taken_ns, (from_ns, to_ns), side="left")
        return int(end - first)

    @property
    def kept(self) -> int:
        """Frames of the moment; 0 where it never came."""
        return self.frames_between(*self.run.moment_ns) if self.run.moment_ns else 0
