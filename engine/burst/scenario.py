"""What a burst is made of: frozen values that refuse to exist when they make no sense."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Literal, get_args

from engine.burst.arrangement import Arrangement
from engine.quantities import (
    BYTES_IN_MB,
    NS_IN_S,
    WRITE_MB_S,
    InvalidValues,
    Range,
    bytes_of,
    interval_ns,
    ns_of,
    out_of_range,
    quantity,
)

Coupling = Literal["parallel", "serial", "slowest"]
ARRANGEMENTS = tuple(Arrangement)
COUPLINGS: tuple[Coupling, ...] = get_args(Coupling)


# The lower ends keep every duration above 0 ns; together with the upper ends they keep every
# moment of the slowest possible burst below 2^63 ns. Real cameras lie well within them.
FRAME_RATE_FPS = Range(0.001, 1_000, "fps")
HOLD_S = Range(0.001, 3_600, "s")
SHORTEST_HOLD_NS = ns_of(HOLD_S.lowest)
PRESS_S = Range(0, 1_000_000, "s")
MEMORY_MB = Range(0.001, 1_000_000, "MB")
HELD_MB = Range(0, 1_000_000, "MB")
PROCESS_FPS = Range(0.001, 100_000, "fps")
FILE_MB = Range(0.001, 100_000, "MB")
OVERHEAD_S = Range(0, 60, "s")
FREE_MB = Range(0, 1_000_000_000, "MB")
CACHE_MB = Range(0, 1_000_000_000, "MB")
SLOW_FACTOR = Range(0.01, 1, "of the write speed")
SLOT_SHARE = Range(0.01, 2, "of the write speed")
PACE = Range(0.01, 10, "of the write speed")
RESUME_FREE_FRAMES = Range(1, 1_000_000, "frames")
MOST_FILES = 2  # RAW+JPEG: no recording format writes more than a pair.
MOST_SLOTS = 2
MOST_HOLDS = 1_000
MOST_FRAMES = (
    3_600_000  # due in all holds together: as many as the longest hold at the highest rate
)


class InvalidScenario(InvalidValues):
    """A scenario that makes no sense; fields are keys of its file ("slots[0].write_mb_s")."""


@dataclass(frozen=True, slots=True, kw_only=True)
class File:
    """One file that every frame writes: its name ("raw", "jpeg") and its size in MB."""

    name: str
    mb: float = quantity(FILE_MB)

    def __post_init__(self) -> None:
        _refuse(out_of_range(self))


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadedSlot:
    """One card slot with its card.

    `write_mb_s` is the sustained write of the card, of which the slot makes `slot_share` whatever
    the card, `slot_limit_mb_s` the most that the slot has ever been seen to write, `bus_mb_s` what
    the bus between them carries (None: not known). Together they reach the least of the three;
    the speeds of a card measured in this body have the share in them, which is 1. `overhead_s` is
    spent on every frame before its bytes; `free_mb` is the room left on the card at the first
    press, None when it never runs out. `pace` is for what all these leave out: what the bytes are
    written at against what they let expect, as of two slots that hold each other up.

    A card may have a cache of `cache_mb` that it writes to at `cache_write_mb_s`; while it has
    nothing to write, the cache empties at `cache_flush_mb_s` (None: at half of its speed in this
    slot). Once less than `slow_below_free_mb` is free it goes at `slow_factor` of `write_mb_s`,
    cache or not.
    """

    write_mb_s: float = quantity(WRITE_MB_S)
    overhead_s: float = quantity(OVERHEAD_S, default=0.0)
    free_mb: float | None = quantity(FREE_MB, default=None)
    cache_mb: float = quantity(CACHE_MB, default=0.0)
    cache_write_mb_s: float | None = quantity(WRITE_MB_S, default=None)
    cache_flush_mb_s: float | None = quantity(WRITE_MB_S, default=None)
    slow_below_free_mb: float = quantity(FREE_MB, default=0.0)
    slow_factor: float = quantity(SLOW_FACTOR, default=1.0)
    slot_limit_mb_s: float | None = quantity(WRITE_MB_S, default=None)
    bus_mb_s: float | None = quantity(WRITE_MB_S, default=None)
    slot_share: float = quantity(SLOT_SHARE, default=1.0)
    pace: float = quantity(PACE, default=1.0)

    def __post_init__(self) -> None:
        _refuse(out_of_range(self) or self._contradictions())

    @property
    def most_mb_s(self) -> float:
        """What slot and bus pass, whatever the card; infinite when nobody knows."""
        known = (self.slot_limit_mb_s, self.bus_mb_s)
        return min((limit for limit in known if limit is not None), default=math.inf)

    @property
    def effective_mb_s(self) -> float:
        """Effective write speed: what card, slot and bus reach together."""
        return self._together(self.write_mb_s)

    @property
    def cached_mb_s(self) -> float:
        """The same while the cache takes it; the effective speed where there is no cache."""
        return self._together(self.cache_write_mb_s or self.write_mb_s)

    @property
    def slow_mb_s(self) -> float:
        """The same of a nearly full card."""
        return self._together(self.write_mb_s * self.slow_factor)

    @property
    def flush_mb_s(self) -> float:
        """How fast the cache empties while the card has nothing to write."""
        usual_mb_s = self.write_mb_s * self.slot_share / 2
        return usual_mb_s if self.cache_flush_mb_s is None else self.cache_flush_mb_s

    def _together(self, card_mb_s: float) -> float:
        return min(card_mb_s * self.slot_share, self.most_mb_s) * self.pace

    def _contradictions(self) -> dict[str, str]:
        if self.cache_mb and self.cache_write_mb_s is None:
            return {"cache_write_mb_s": "must be given with cache_mb"}
        if self.slow_below_free_mb and self.free_mb is None:
            return {"slow_below_free_mb": "needs free_mb, the room on the card"}
        if self.cache_write_mb_s is not None and self.cache_write_mb_s < self.write_mb_s:
            return {
                "cache_write_mb_s": f"must not be below write_mb_s, {self.write_mb_s:g}, "
                f"got {self.cache_write_mb_s:g}"
            }
        return {}


@dataclass(frozen=True, slots=True, kw_only=True)
class Hold:
    """The shutter button held down for `hold_s`, from `press_s` after the first press on."""

    press_s: float = quantity(PRESS_S)
    hold_s: float = quantity(HOLD_S)

    def __post_init__(self) -> None:
        _refuse(out_of_range(self))

    @classmethod
    def between(cls, press_ns: int, finger_up_ns: int) -> "Hold":
        """That from one moment to another, SHORTEST_HOLD_NS later at least."""
        return cls(press_s=press_ns / NS_IN_S, hold_s=(finger_up_ns - press_ns) / NS_IN_S)

    @property
    def press_ns(self) -> int:
        """The press."""
        return ns_of(self.press_s)

    @property
    def finger_up_ns(self) -> int:
        """The end of the hold."""
        return self.press_ns + ns_of(self.hold_s)


@dataclass(frozen=True, kw_only=True)
class Scenario:
    """One or several holds of the shutter button on one set-up; the file of docs/formats.md.

    `frame_rate_fps` while memory has room, the button down from 0 to `hold_s` and again in each of
    `later_holds`, `memory_mb` of working memory. A frame takes `held_mb`, or the sum of its files
    if that is more, from capture until the encoder, at `process_fps` frames a second (None: it
    never limits), has finished it.
    Once full, the body fires again when there is room for `resume_free_frames`. `arrangement` says
    which files go to which slot, and `coupling` how two slots share the work (docs/model.md).

    Raises :class:`InvalidScenario` with every fault it has.
    """

    frame_rate_fps: float = quantity(FRAME_RATE_FPS)
    hold_s: float = quantity(HOLD_S)
    memory_mb: float = quantity(MEMORY_MB)
    files: tuple[File, ...]
    slots: tuple[LoadedSlot, ...]
    held_mb: float = quantity(HELD_MB, default=0.0)
    process_fps: float | None = quantity(PROCESS_FPS, default=None)
    arrangement: Arrangement = Arrangement.SINGLE
    coupling: Coupling = "parallel"
    resume_free_frames: int = quantity(RESUME_FREE_FRAMES, default=1)
    later_holds: tuple[Hold, ...] = ()

    def __post_init__(self) -> None:
        if self.arrangement in ARRANGEMENTS:  # given as a word, perhaps
            object.__setattr__(self, "arrangement", Arrangement(self.arrangement))
        faults = out_of_range(self)
        if not 1 <= len(self.files) <= MOST_FILES:
            faults["files"] = f"must be 1 or {MOST_FILES} files, got {len(self.files)}"
        faults |= self._faults_of_slots()
        _refuse(faults or self._faults_of_series() or self._faults_of_memory())

    @property
    def holds(self) -> tuple[Hold, ...]:
        """Every hold, the first one pressed at 0."""
        return (Hold(press_s=0, hold_s=self.hold_s), *self.later_holds)

    @cached_property
    def holds_ns(self) -> tuple[tuple[int, int], ...]:
        """Press and finger up of every hold."""
        later = [(hold.press_ns, hold.finger_up_ns) for hold in self.later_holds]
        return ((0, ns_of(self.hold_s)), *later)

    @property
    def memory_bytes(self) -> int:
        """Bytes of working memory."""
        return bytes_of(self.memory_mb)

    @cached_property
    def file_bytes(self) -> int:
        """Bytes that one frame writes, all its files together."""
        return sum([bytes_of(file.mb) for file in self.files])

    @property
    def frame_bytes(self) -> int:
        """Bytes of memory that one frame takes from capture until it is encoded."""
        return max(bytes_of(self.held_mb), self.file_bytes)

    @property
    def end_ns(self) -> int:
        """Finger up for the last time."""
        return self.holds[-1].finger_up_ns

    @cached_property
    def frame_interval_ns(self) -> int:
        """From one frame to the next while memory has room."""
        return interval_ns(self.frame_rate_fps)

    @cached_property
    def frames_due(self) -> int:
        """Frames that all holds would give if memory never refused one."""
        interval_ns = self.frame_interval_ns
        return sum([_due(end_ns - press_ns, interval_ns) for press_ns, end_ns in self.holds_ns])

    def frames_due_in(self, hold: Hold) -> int:
        """Frames that `hold` would give if memory never refused one."""
        return _due(hold.finger_up_ns - hold.press_ns, self.frame_interval_ns)

    @property
    def encode_ns(self) -> int:
        """Time that the encoder spends on one frame; 0 when it never limits."""
        return 0 if self.process_fps is None else interval_ns(self.process_fps)

    def bytes_to(self, slot: int) -> int:
        """Bytes that one frame writes to `slot` (0 or 1), should it go there."""
        if self.arrangement.splits:
            return bytes_of(self.files[slot].mb)
        return 0 if slot >= self.arrangement.slots_used else self.file_bytes

    def timed_bytes(self, slot: int) -> int:
        """Bytes whose writing takes `slot` its time: coupled as "slowest", the whole frame's."""
        return self.file_bytes if self.coupling == "slowest" else self.bytes_to(slot)

    def _faults_of_slots(self) -> dict[str, str]:
        if self.arrangement not in ARRANGEMENTS:
            return {"arrangement": f"must be one of {', '.join(ARRANGEMENTS)}"}
        if self.coupling not in COUPLINGS:
            return {"coupling": f"must be one of {', '.join(COUPLINGS)}"}
        if not 1 <= len(self.slots) <= MOST_SLOTS:
            return {"slots": f"must be 1 or {MOST_SLOTS} slots, got {len(self.slots)}"}
        if self.arrangement.slots_used > len(self.slots):
            return {"arrangement": f"{self.arrangement} needs two slots, got one"}
        if 0 < len(self.files) < self.arrangement.needs_files:
            return {"arrangement": "split needs two files, one for each slot, got one"}
        return {}

    def _faults_of_series(self) -> dict[str, str]:
        holds = self.holds
        if len(holds) > MOST_HOLDS:
            return {"series": f"must have at most {MOST_HOLDS:,} holds, got {len(holds):,}"}
        for number, (before, hold) in enumerate(pairwise(holds), 1):
            if hold.press_ns < before.finger_up_ns:
                return {f"series[{number}].press_s": "must not be before the finger is up"}
        if self.frames_due > MOST_FRAMES:
            return {"series": f"must not ask for more than {MOST_FRAMES:,} frames in all"}
        return {}

    def _faults_of_memory(self) -> dict[str, str]:
        if self.resume_free_frames * self.frame_bytes <= self.memory_bytes:
            return {}
        frame = f"{self.frame_bytes / BYTES_IN_MB:g} MB"
        if self.frame_bytes > self.memory_bytes:
            return {"memory_mb": f"must hold one frame of {frame}, got {self.memory_mb:g}"}
        return {
            "resume_free_frames": f"must fit in the buffer: {self.resume_free_frames} "
            f"frames of {frame} are more than {self.memory_mb:g} MB"
        }


def _due(hold_ns: int, interval_ns: int) -> int:
    return -(-hold_ns // interval_ns)


def _refuse(faults: Mapping[str, str]) -> None:
    if faults:
        raise InvalidScenario(faults)
