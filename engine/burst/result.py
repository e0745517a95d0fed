"""What came of a burst: the moments of every frame, and the figures that follow from them."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.burst.rates import Regime
from engine.burst.scenario import Hold, Scenario
from engine.quantities import BYTES_IN_MB, NS_IN_S

Whole = NDArray[np.int64]


@dataclass(frozen=True)
class HoldResult:
    """What came of one hold of a series.

    Its frames are `frames` from number `first_frame` on; `wall_ns` is the first moment at which
    memory refused a frame that was due, None if it refused none; at `all_written_ns` all frames
    taken up to its end are on their cards. `final_pace` is that of the frame that is being written
    when the finger is up, as `plan` counts it. Moments are counted from the first press.
    """

    hold: Hold
    first_frame: int
    frames: int
    wall_ns: int | None
    all_written_ns: int
    final_pace: int

    @property
    def clear_s(self) -> float:
        """Seconds from finger up until the last byte is on the card; 0 if it was there before."""
        return max(0, self.all_written_ns - self.hold.finger_up_ns) / NS_IN_S


@dataclass(frozen=True, eq=False, kw_only=True)
class Result:
    """One burst or a series of them, frame by frame.

    `taken_ns`, `encoded_ns` and `written_ns` hold one moment a frame, in the order taken, counted
    from the first press; written is when all its files are on all the cards they are meant for.
    `paces` has the pace at which each is written, as `plan` counts them. `holds` has what
    came of each hold, `card_full_ns` the moment a frame was refused by a card, `full_slot` (0 or 1)
    that card's slot, and `overflow_frame` the first frame that goes to slot 2 because slot 1 is
    full; None when that never happened.

    Raises ValueError when the moments contradict each other or the scenario.
    """

    scenario: Scenario
    taken_ns: Whole
    encoded_ns: Whole
    written_ns: Whole
    paces: Whole
    holds: tuple[HoldResult, ...]
    card_full_ns: int | None
    full_slot: int | None
    overflow_frame: int | None

    def __post_init__(self) -> None:
        if not len(self.taken_ns) == len(self.encoded_ns) == len(self.written_ns):
            raise ValueError("every frame needs the moment it was taken, encoded and written")
        if (self.taken_ns > self.encoded_ns).any() or (self.encoded_ns >= self.written_ns).any():
            raise ValueError("every frame is taken, then encoded, then written")
        if sum(hold.frames for hold in self.holds) != len(self.taken_ns):
            raise ValueError("every frame belongs to one hold")

    @property
    def wall_ns(self) -> int | None:
        """The first moment at which memory refused a frame that was due; None: it refused none."""
        walls = (hold.wall_ns for hold in self.holds if hold.wall_ns is not None)
        return next(walls, None)

    @property
    def frames(self) -> int:
        """Frames taken in the hold."""
        return len(self.taken_ns)

    @property
    def frames_due(self) -> int:
        """Frames that the hold would give if memory never refused one."""
        return self.scenario.frames_due

    @property
    def frames_missed(self) -> int:
        """Moments at which a frame would have been due and none was taken."""
        return self.frames_due - self.frames

    @property
    def missed_ns(self) -> Whole:
        """The moments missed, on the grid of frames due from each press on.

        Frames are at least an interval apart, so that each stands for a moment of its own: the
        last one due at or before it was taken.
        """
        return np.concatenate([self._missed_ns(hold) for hold in self.holds])

    def _missed_ns(self, hold: HoldResult) -> Whole:
        interval_ns = self.scenario.frame_interval_ns
        due = np.arange(self.scenario.frames_due_in(hold.hold))
        moments_ns = self.taken_ns[hold.first_frame :][: hold.frames] - hold.hold.press_ns
        return hold.hold.press_ns + np.setdiff1d(due, moments_ns // interval_ns) * interval_ns

    def full_speed_frames_of(self, hold: HoldResult) -> int | None:
        """Burst depth of one hold: its frames before the first that memory refused, or None."""
        if hold.wall_ns is None:
            return None
        return self.frames_taken_before(hold.wall_ns) - hold.first_frame

    @property
    def frames_at_full_speed(self) -> int | None:
        """Burst depth, added up over the holds (all frames where one meets no wall).

        None if memory refused no frame in any of them.
        """
        if self.wall_ns is None:
            return None
        depths = [(self.full_speed_frames_of(hold), hold.frames) for hold in self.holds]
        return sum(frames if depth is None else depth for depth, frames in depths)

    @property
    def full_speed_s(self) -> float | None:
        """Burst depth / frame rate: seconds at full speed before the wall."""
        depth = self.frames_at_full_speed
        return None if depth is None else depth / self.scenario.frame_rate_fps

    @property
    def light_out_s(self) -> float:
        """Seconds from the first press until the last byte is on the card; 0 without frames."""
        return int(self.written_ns.max(initial=0)) / NS_IN_S

    @property
    def clear_s(self) -> float:
        """Seconds from the last finger up until the last byte is on the card."""
        return self.holds[-1].clear_s

    def pause_until_free_s(self, share: float) -> float:
        """Seconds from finger up until `share` (0 to 1) of memory is free again."""
        moments_ns, used_bytes = self.memory_steps
        is_last = np.diff(moments_ns, append=-1) != 0  # of the changes on one instant
        moments_ns, used_bytes = moments_ns[is_last], used_bytes[is_last]
        fuller = np.flatnonzero(used_bytes > (1 - share) * self.scenario.memory_bytes)
        if not fuller.size:
            return 0.0
        return max(0, int(moments_ns[fuller[-1] + 1]) - self.scenario.end_ns) / NS_IN_S

    @property
    def card_full_s(self) -> float | None:
        """Seconds from the press to the first frame that the card had no room for."""
        return None if self.card_full_ns is None else self.card_full_ns / NS_IN_S

    @property
    def card_full_slot(self) -> int | None:
        """The slot, 1 or 2, whose card had no room for a frame."""
        return None if self.full_slot is None else self.full_slot + 1

    @property
    def overflow_s(self) -> float | None:
        """Seconds from the press to the first frame on slot 2 because slot 1 was full."""
        if self.overflow_frame is None or self.overflow_frame >= self.frames:
            return None
        return int(self.taken_ns[self.overflow_frame]) / NS_IN_S

    @property
    def final_regime(self) -> Regime:
        """Which slots are written to, and how fast, when the finger is up for the last time."""
        return Regime.of_pace(self.scenario, self.holds[-1].final_pace)

    def regime_at(self, moment_ns: int) -> Regime:
        """Which slots the frames are written to at `moment_ns`, and how fast.

        Once slot 2 has taken over in overflow, that is where frames go, though slot 1 may still
        be busy with those before.
        """
        taken = self.frames_taken_before(moment_ns)
        if not taken:
            return Regime.at_press(self.scenario)
        if self.overflow_frame is not None and self.overflow_frame < taken:
            return Regime.of_pace(self.scenario, int(self.paces[taken - 1]))
        writing = int(np.searchsorted(self.written_ns[:taken], moment_ns, side="right"))
        return Regime.of_pace(self.scenario, int(self.paces[min(writing, taken - 1)]))

    @cached_property
    def memory_steps(self) -> tuple[Whole, Whole]:
        """Moments in ns at which memory changed, and the bytes in use after each change.

        Raises ValueError when that is not what the memory can have held.
        """
        file_bytes, frame_bytes = self.scenario.file_bytes, self.scenario.frame_bytes
        shrink_bytes = frame_bytes - file_bytes
        # A frame is shrunk after it is taken even where the encoder needs no time for it, so the
        # changes are listed in the order they hold on one instant, and sorted stably by moment.
        instant = self.scenario.encode_ns == 0
        written = (self.written_ns, -file_bytes)
        encoded = (self.encoded_ns, -shrink_bytes)
        taken = (self.taken_ns, frame_bytes)
        in_order = [written, taken, encoded] if instant else [written, encoded, taken]
        changes = [(moments, change) for moments, change in in_order if change]
        moments_ns = np.concatenate([moments for moments, _ in changes])
        change_bytes = np.concatenate(
            [np.full(len(moments), change, dtype=np.int64) for moments, change in changes]
        )
        order = np.argsort(moments_ns, kind="stable")
        used_bytes = np.cumsum(change_bytes[order])
        if used_bytes.size and (
            used_bytes.min() < 0
            or used_bytes.max() > self.scenario.memory_bytes
            or used_bytes[-1] != 0
        ):
            raise ValueError("memory must stay within its size and end empty")
        return moments_ns[order], used_bytes

    def memory_mb_at(self, moment_ns: int) -> float:
        """MB of memory in use at `moment_ns`."""
        moments_ns, used_bytes = self.memory_steps
        changes = int(np.searchsorted(moments_ns, moment_ns, side="right"))
        return int(used_bytes[changes - 1]) / BYTES_IN_MB if changes else 0.0

    def frames_taken_before(self, moment_ns: int) -> int:
        """Frames taken earlier than `moment_ns`."""
        return int(np.searchsorted(self.taken_ns, moment_ns, side="left"))

    def frames_on_card(self, moment_ns: int) -> int:
        """Frames wholly on the card at `moment_ns`."""
        return int(np.count_nonzero(self.written_ns <= moment_ns))
