"""How a day was: its presses and bursts, told from when each frame was taken and how large it is.

The set-up that it was shot with tells a silence of the camera, whose memory was full, from one of
the photographer: a frame that comes when the camera could take it at last belongs to the hold
before, one that comes later is of a new press. What the set-up doesn't explain is the camera's
all the same where it is as even as no hand is: what files show beats what was assumed.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from engine.burst.plan import Records, plan_of
from engine.burst.scenario import PRESS_S, Scenario
from engine.day.presses import MOST_PRESSES, InvalidDay, Presses, ShotPresses, shoot_plan
from engine.measurement.capture_times import FEWEST_FRAMES, MOST_DECIMALS
from engine.measurement.strokes import NOISE
from engine.quantities import BYTES_IN_MB, NS_IN_S, ns_of

Whole = NDArray[np.int64]
Real = NDArray[np.float64]
Flags = NDArray[np.bool_]

LATE = 2.0  # times as long as the set-up lets expect is still a silence of the camera
REPRESS_S = 0.2  # nobody lets go and presses again within less
UNSURE_FRAMES, UNSURE_SHARE = 2, 0.1  # of memory, which may be full so much earlier than assumed
FEWEST_ALIKE, ALIKE = 4, 0.1  # gaps in a row, and how far each is off their median: no hand's
S_IN_DAY = 86_400
LONGEST_INTERVAL_S, MUCH_LONGER = 1.5, 1.5  # of frames at full speed
SAME_S = 10.0**-MOST_DECIMALS  # that moments which are written alike may differ by
UNTOLD: Mapping[float, float] = MappingProxyType({})
NO_INTERVAL_NS = 2**60  # between frames that are each given a press of their own


@dataclass(frozen=True, eq=False)
class FramesTaken:
    """When each frame of a day was taken, in order, and the MB of all its files.

    Moments in seconds from any start, exact to `resolution_s`. Raises :class:`InvalidDay`.
    """

    times_s: Real
    mb: Real
    resolution_s: float = 0.0

    @classmethod
    def of(
        cls, pictures: Sequence[tuple[float, float]] | Real, resolution_s: float
    ) -> "FramesTaken":
        """From the moment and the size of each file; files of one moment are one frame."""
        if not 1 <= len(pictures) <= MOST_PRESSES:
            raise InvalidDay({"pictures": f"must be 1 to {MOST_PRESSES:,}"})
        taken_s, mb = np.array(pictures, dtype=np.float64).T
        times_s, frame = np.unique(taken_s, return_inverse=True)
        if times_s[-1] - times_s[0] > PRESS_S.highest:
            days = PRESS_S.highest / S_IN_DAY
            raise InvalidDay({"pictures": f"must lie within {days:.0f} days of each other"})
        return cls(times_s, np.bincount(frame, mb).astype(np.float64), resolution_s)

    @property
    def frame_rate_fps(self) -> float | None:
        """Frames a second at full speed: by the mean of gaps that are about as long as most.

        The mean, as times are rounded: of 30 fps, hundredths make gaps of 0.03 and of 0.04 s. None
        where no frames follow each other.
        """
        gaps_s = np.diff(self.times_s)
        gaps_s = gaps_s[gaps_s < LONGEST_INTERVAL_S]
        if not len(gaps_s):
            return None
        usual_s = np.median(gaps_s[gaps_s <= MUCH_LONGER * np.quantile(gaps_s, 0.25)])
        is_even = np.abs(gaps_s - usual_s) <= NOISE * usual_s + self.resolution_s
        return 1 / float(gaps_s[is_even].mean())

    @cached_property
    def times_ns(self) -> Whole:
        """The same moments, from the first one on."""
        return np.asarray(np.rint((self.times_s - self.times_s[0]) * NS_IN_S), dtype=np.int64)


@dataclass(frozen=True, kw_only=True)
class DayBurst:
    """Frames of one hold, or of several between which the camera waited for focus or light.

    `press_s` is a moment as those of the pictures are; the hold ends halfway from its last frame to
    the next one that the camera could have taken, as the finger may be up at any moment of these.
    `frames_at_full_speed` were taken before the first one that came late as memory was
    full (None: none did), `missed` are those that an unbroken rhythm would have given beyond.
    `longest_s` is the longest hold that ends with the same frame, as memory was full (None: it was
    not), so that only the photographer knows when the finger was up.
    `is_explained` tells that memory was full by what the set-up lets expect, too, or wasn't at all.
    `next_press_s` is from finger up to the next press of the day (None: there is none).
    """

    press_s: float
    hold_s: float
    longest_s: float | None
    frames: int
    frames_at_full_speed: int | None
    missed: int
    mb: float
    is_explained: bool
    next_press_s: float | None

    @property
    def is_single(self) -> bool:
        """Whether it has too few frames to be called a burst."""
        return self.frames < FEWEST_FRAMES


@dataclass(frozen=True, eq=False)
class DayAsItWas:
    """`presses` of a day, the number of the first press of each burst, and the `bursts`."""

    presses: Presses
    first_presses: Whole
    bursts: Sequence[DayBurst]

    @property
    def several(self) -> int:
        """Bursts of several frames."""
        return sum(not burst.is_single for burst in self.bursts)

    @cached_property
    def filled(self) -> list[DayBurst]:
        """The bursts in which memory was full, at their end perhaps, and that missed frames."""
        return [burst for burst in self.bursts if burst.missed]

    @property
    def missed(self) -> int:
        """Frames that were missed by that."""
        return sum(burst.missed for burst in self.filled)


def day_as_it_was(
    scenario: Scenario, taken: FramesTaken, holds_s: Mapping[float, float] = UNTOLD
) -> DayAsItWas:
    """The presses and bursts of a day that was shot with the set-up of `scenario`.

    `holds_s` has, by the moments of their presses, how long bursts were held that ended with memory
    full, as far as the photographer knows: within what their frames allow, it holds.
    Raises :class:`InvalidDay` for times that are too coarse to tell its frames apart.
    """
    interval_ns, times_ns = scenario.frame_interval_ns, taken.times_ns
    resolution_ns = ns_of(taken.resolution_s)
    noise_ns = NOISE * interval_ns + resolution_ns
    if noise_ns > interval_ns:
        raise InvalidDay(
            {"pictures": "must tell when each was taken, as exactly as frames follow each other"}
        )
    gaps_ns = np.diff(times_ns)
    is_late = gaps_ns > interval_ns + resolution_ns
    ready_ns, was_full = _ready_ns(scenario, taken, np.append(is_late, True))
    waited_ns = ready_ns - times_ns  # what the camera needed until it could go on
    is_stall = is_late & (waited_ns > interval_ns)[:-1] & (gaps_ns <= LATE * waited_ns[:-1])
    is_even = np.abs(gaps_ns - interval_ns) <= noise_ns
    is_odd = ~is_stall & _is_cameras_own(gaps_ns, is_even, resolution_ns)
    is_stall |= is_odd
    firsts = np.flatnonzero(np.append(True, ~(is_stall | is_even)))
    since_ready_ns = (times_ns[1:] - ready_ns[:-1])[firsts[1:] - 1]
    is_burst = np.append(True, since_ready_ns > ns_of(REPRESS_S))
    first_presses = np.flatnonzero(is_burst)
    first_frames = firsts[first_presses]
    last_frames = np.append(first_frames[1:], len(times_ns)) - 1
    half_ns = np.where(was_full, waited_ns, interval_ns) // 2
    up_ns = times_ns + np.maximum(half_ns, 1)
    longest_ns = np.where(was_full, ready_ns, 0)[last_frames] - times_ns[first_frames]
    _tell(holds_s, taken, first_frames, last_frames, longest_ns, up_ns)
    presses = _presses(scenario, taken, firsts, up_ns)
    missed = presses.frames_due(interval_ns) - _counts(firsts, len(times_ns))
    return DayAsItWas(
        presses,
        first_presses,
        _bursts(
            taken, presses, first_presses, first_frames, longest_ns, np.append(is_stall, False),
            np.add.reduceat(np.maximum(missed, 0), first_presses),
            np.logical_or.reduceat(np.append(is_odd, False), first_frames),
        ),
    )  # fmt: skip


def _tell(
    holds_s: Mapping[float, float],
    taken: FramesTaken,
    first_frames: Whole,
    last_frames: Whole,
    longest_ns: Whole,
    up_ns: Whole,
) -> None:
    """Writes when fingers were up, as it is told, over what was taken for it."""
    began_s = taken.times_s[first_frames]
    for press_s, hold_s in holds_s.items():
        for number in np.flatnonzero((np.abs(began_s - press_s) <= SAME_S) & (longest_ns > 0)):
            press_ns = int(taken.times_ns[first_frames[number]])
            least_ns = int(taken.times_ns[last_frames[number]]) - press_ns + 1
            told_ns = min(max(ns_of(hold_s), least_ns), int(longest_ns[number]))
            up_ns[last_frames[number]] = press_ns + told_ns


def _is_cameras_own(gaps_ns: Whole, is_even: Flags, resolution_ns: int) -> Flags:
    """Which gaps are as even as no hand is, and follow frames at full speed: memory was full.

    The first of them may be shorter, as memory has been emptied for a while.
    """
    found = np.zeros(len(gaps_ns), dtype=np.bool_)
    uneven = np.flatnonzero(~is_even)
    for run in np.split(uneven, np.flatnonzero(np.diff(uneven) > 1) + 1):
        if len(run) <= FEWEST_ALIKE or run[0] < FEWEST_ALIKE:
            continue
        gaps = gaps_ns[run]
        usual_ns = np.median(gaps[1 : 1 + FEWEST_ALIKE])
        is_alike = np.abs(gaps - usual_ns) <= ALIKE * usual_ns + resolution_ns
        is_alike[0] |= gaps[0] <= usual_ns
        alike = int(np.argmin(np.append(is_alike, False)))  # up to the first that is not
        if alike > FEWEST_ALIKE and is_even[run[0] - FEWEST_ALIKE : run[0]].all():
            found[run[:alike]] = True
    return found


def _presses(scenario: Scenario, taken: FramesTaken, firsts: Whole, up_ns: Whole) -> Presses:
    """A press at each of the frames `firsts`, up when its last frame has it in `up_ns`."""
    press_ns = taken.times_ns[firsts]
    finger_up_ns = up_ns[np.append(firsts[1:], len(up_ns)) - 1]
    finger_up_ns[:-1] = np.minimum(finger_up_ns[:-1], press_ns[1:])
    return Presses(
        press_ns=press_ns,
        finger_up_ns=finger_up_ns,
        sizes=np.add.reduceat(_sizes(scenario, taken), firsts) / _counts(firsts, len(taken.mb)),
    )


def _bursts(
    taken: FramesTaken,
    presses: Presses,
    first_presses: Whole,
    first_frames: Whole,
    longest_ns: Whole,
    is_stall: Flags,
    missed: Whole,
    is_odd: Flags,
) -> list[DayBurst]:
    ends = np.append(first_presses[1:], len(presses.press_ns)) - 1
    holds_s = (presses.finger_up_ns[ends] - presses.press_ns[first_presses]) / NS_IN_S
    frames = _counts(first_frames, len(taken.times_s))
    stalls = np.flatnonzero(is_stall)
    next_stalls = np.append(stalls, len(is_stall))[np.searchsorted(stalls, first_frames)]
    depths = next_stalls - first_frames + 1
    mb = np.add.reduceat(taken.mb, first_frames)
    pauses_s = (presses.press_ns[first_presses[1:]] - presses.finger_up_ns[ends[:-1]]) / NS_IN_S
    longest_s = longest_ns / NS_IN_S
    columns = (taken.times_s[first_frames], holds_s, longest_s, frames, depths, missed, mb, ~is_odd)
    return [
        DayBurst(
            press_s=press_s,
            hold_s=hold_s,
            longest_s=at_most_s if at_most_s > 0 else None,
            frames=count,
            frames_at_full_speed=depth if depth < count else None,
            missed=lost,
            mb=of_all,
            is_explained=explained,
            next_press_s=pause_s,
        )
        for press_s, hold_s, at_most_s, count, depth, lost, of_all, explained, pause_s in zip(
            *(column.tolist() for column in columns), [*pauses_s.tolist(), None], strict=True
        )
    ]


def _counts(firsts: Whole, total: int) -> Whole:
    return np.diff(np.append(firsts, total))


def _sizes(scenario: Scenario, taken: FramesTaken) -> Real:
    """The size of each frame's files as a share of what the scenario says of them."""
    return taken.mb * (BYTES_IN_MB / scenario.file_bytes)


def _ready_ns(scenario: Scenario, taken: FramesTaken, is_late: Flags) -> tuple[Whole, Flags]:
    """When the camera could have taken the next frame after each, and whether it was full.

    That is an interval later, or, where the next is late and memory had no room for it by then,
    once there was.
    """
    ready_ns = taken.times_ns + scenario.frame_interval_ns
    was_full = np.zeros(len(ready_ns), dtype=np.bool_)
    memory = _Memory.of(scenario, taken)
    for frame in np.flatnonzero(is_late & memory.may_be_full(ready_ns)).tolist():
        ready_ns[frame], was_full[frame] = memory.ready_ns(frame, int(ready_ns[frame]))
    return ready_ns, was_full


@dataclass(frozen=True, eq=False)
class _Memory:
    """What is in memory once a frame was taken, each of them at its moment as far as there is room.

    `taken_by` counts the frames taken up to each of them, `all_written_ns` is when that many are
    on the cards.
    """

    shot: ShotPresses
    plan: Records
    taken_by: Whole
    all_written_ns: Whole

    @classmethod
    def of(cls, scenario: Scenario, taken: FramesTaken) -> "_Memory":
        """Shoots each frame by a press of its own that lasts until the next one."""
        times_ns, plan = taken.times_ns, plan_of(scenario)
        each = plan.copy()
        each["interval_ns"], each["resume_frames"] = NO_INTERVAL_NS, 1
        presses = Presses(
            press_ns=times_ns,
            finger_up_ns=np.append(times_ns[1:], times_ns[-1] + scenario.frame_interval_ns),
            sizes=_sizes(scenario, taken),
        )
        shot = shoot_plan(each, presses)
        written_ns = np.maximum.accumulate(shot.written_ns)
        return cls(shot, plan[0], np.cumsum(shot.frames), written_ns)

    def may_be_full(self, due_ns: Whole) -> Flags:
        """After which frames there may be no room for the next one by then, at a quick look."""
        not_written = self.taken_by - np.searchsorted(self.all_written_ns, due_ns, side="right")
        most_bytes = max(int(self.shot.kept_bytes.max(initial=0)), self._frame_bytes)
        used_bytes = (np.maximum(not_written, 0) + 1) * most_bytes + self._unsure_bytes
        return np.asarray(used_bytes > int(self.plan["memory_bytes"]))

    @property
    def _frame_bytes(self) -> int:
        return max(int(self.plan["held_bytes"]), int(self.plan["file_bytes"]))

    @property
    def _unsure_bytes(self) -> float:
        of_memory = UNSURE_SHARE * int(self.plan["memory_bytes"])
        return max(UNSURE_FRAMES * self._frame_bytes, of_memory)

    def ready_ns(self, frame: int, due_ns: int) -> tuple[int, bool]:
        """When there is room for another frame after this one, and whether it was full by then.

        It is due at `due_ns`. Where it is unsure whether there is room, as if there was none.
        """
        first = int(np.searchsorted(self.all_written_ns, due_ns, side="right"))
        some = slice(first, int(self.taken_by[frame]))
        kept_bytes = self.shot.kept_bytes[some]
        held_bytes = int(self.plan["held_bytes"])
        moments_ns = np.concatenate([self.shot.written_ns[some], self.shot.encoded_ns[some]])
        freed_bytes = np.concatenate([kept_bytes, np.maximum(held_bytes - kept_bytes, 0)])
        is_to_come = moments_ns > due_ns
        order = np.argsort(moments_ns[is_to_come])
        moments_ns = moments_ns[is_to_come][order]
        freed_bytes = freed_bytes[is_to_come][order]
        used_bytes, memory_bytes = int(freed_bytes.sum()), int(self.plan["memory_bytes"])
        frame_bytes = self._frame_bytes
        if used_bytes + frame_bytes + self._unsure_bytes <= memory_bytes:
            return due_ns, False
        full_bytes = min(memory_bytes, used_bytes + frame_bytes - 1)
        needed_bytes = min(frame_bytes * int(self.plan["resume_frames"]), full_bytes)
        left_bytes = used_bytes - np.cumsum(freed_bytes)
        has_room = np.flatnonzero(left_bytes + needed_bytes <= full_bytes)
        was_full = used_bytes + frame_bytes > memory_bytes
        return (int(moments_ns[has_room[0]]), was_full) if len(has_room) else (due_ns, False)
