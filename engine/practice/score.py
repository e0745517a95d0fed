"""What the presses of a run kept of its moment, and what the best press would have kept."""

from dataclasses import dataclass
from functools import cached_property

from engine.burst.scenario import SHORTEST_HOLD_NS, Hold
from engine.practice.shot_run import ShotRun
from engine.quantities import NS_IN_S, ns_of

SUCCESS = 2 / 3  # of the frames that were possible: a run that keeps as many has succeeded


def best_presses(shot: ShotRun, not_before_s: float = 0.0) -> tuple[Hold, ...]:
    """The presses that keep most frames of the moment, none before `not_before_s`.

    Pressed when the moment begins, with memory as empty as it can be, and held until it is over:
    every earlier frame only fills memory. A body that falls silent once full fires sooner when the
    finger goes up and down again as soon as there is room for one frame, so that is done. Presses
    that were made do better only where waiting for a card's cache to empty pays. Empty where there
    is no moment, or it is over by then.
    """
    if shot.run.moment_ns is None:
        return ()
    from_ns, to_ns = shot.run.moment_ns
    from_ns = max(from_ns, ns_of(not_before_s))
    presses: list[tuple[int, int]] = []
    while to_ns - from_ns >= SHORTEST_HOLD_NS:
        stalls_ns, room_ns = _stall(shot.with_presses(_holds([*presses, (from_ns, to_ns)])), to_ns)
        if stalls_ns - from_ns >= SHORTEST_HOLD_NS:
            presses.append((from_ns, stalls_ns))
        from_ns = max(room_ns, from_ns + SHORTEST_HOLD_NS)
    return _holds(presses)


def _stall(shot: ShotRun, to_ns: int) -> tuple[int, int]:
    """When the body falls silent in the last press, which ends at `to_ns`, and when memory has
    room for one frame again; both `to_ns` where it doesn't."""
    hold = shot.holds[-1] if shot.holds and shot.scenario.resume_free_frames > 1 else None
    if hold is None or hold.wall_ns is None:
        return to_ns, to_ns
    wall_ns = shot.walls_ns[-1]
    moments_ns, used_bytes = shot.memory
    fits = used_bytes + shot.scenario.frame_bytes <= shot.scenario.memory_bytes
    later_ns = moments_ns[fits & (moments_ns > wall_ns)]
    return wall_ns, min(int(later_ns[0]), to_ns) if len(later_ns) else to_ns


def _holds(presses_ns: list[tuple[int, int]]) -> tuple[Hold, ...]:
    return tuple(Hold.between(press_ns, up_ns) for press_ns, up_ns in presses_ns)


def share_kept(kept: int, possible: int) -> float | None:
    """The share of the possible frames, 1 at most; None where there was nothing to keep."""
    return min(1.0, kept / possible) if possible else None


def has_succeeded(kept: int, possible: int) -> bool | None:
    """Whether that is enough; None where there was nothing to keep."""
    share = share_kept(kept, possible)
    return None if share is None else share >= SUCCESS


@dataclass(frozen=True)
class Score:
    """What a run came to, for somebody who takes `reaction_s` to answer what they see.

    That time is taken out: of a moment that gives no sign before it comes, nobody is asked for
    frames that are over before they can have pressed.
    """

    shot: ShotRun
    reaction_s: float

    @cached_property
    def best(self) -> ShotRun:
        """The run with the best presses; with those that were made, should they be better."""
        best = self.shot.with_presses(best_presses(self.shot))
        return max((best, self.shot), key=lambda one: one.kept)

    @cached_property
    def possible(self) -> int:
        """Frames of the moment that somebody can keep who waits for a sure sign of it."""
        sign_s = self.shot.run.sure_sign_s
        if sign_s is None:
            return 0
        return self.shot.with_presses(best_presses(self.shot, sign_s + self.reaction_s)).kept

    @property
    def kept(self) -> int:
        """Frames of the moment that were kept."""
        return self.shot.kept

    @property
    def share(self) -> float | None:
        """What was kept of the possible frames; None where there was nothing to keep."""
        return share_kept(self.kept, self.possible)

    @property
    def early_s(self) -> float | None:
        """Seconds from the press to the moment, below 0 when it was late; None without a press.

        The press is that which was down, or the first one, since the subject stirred at last.
        """
        if self.shot.run.moment_s is None:
            return None
        starts_s, ends_s = self.shot.run.moment_s
        since_s = self.shot.run.final_build_up_s
        presses = [one for one in self.shot.played.presses
                   if one.press_s + one.hold_s > since_s and one.press_s < ends_s]  # fmt: skip
        return starts_s - presses[0].press_s if presses else None

    @property
    def wall_s(self) -> float | None:
        """The last moment before the end of the moment at which memory was full; None: never."""
        if self.shot.run.moment_ns is None:
            return None
        walls_ns = [wall for wall in self.shot.walls_ns if wall < self.shot.run.moment_ns[1]]
        return max(walls_ns) / NS_IN_S if walls_ns else None

    @property
    def let_go_early_s(self) -> float | None:
        """Seconds by which the finger was up before the moment was over; None: it was not."""
        if self.shot.run.moment_s is None:
            return None
        _, ends_s = self.shot.run.moment_s
        ups_s = [one.press_s + one.hold_s for one in self.shot.played.presses
                 if one.press_s < ends_s]  # fmt: skip
        if not ups_s or ups_s[-1] >= ends_s or ups_s[-1] < self.shot.run.final_build_up_s:
            return None
        return ends_s - ups_s[-1]
