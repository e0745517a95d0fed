"""What a burst is made of: frozen values that refuse to exist when they make no sense."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from engine.units import BYTES_IN_MB, bytes_of, interval_ns, ns_of, writing_ns

Arrangement = Literal["single", "overflow", "mirror", "split"]
Coupling = Literal["parallel", "serial", "slowest"]
ARRANGEMENTS: tuple[Arrangement, ...] = get_args(Arrangement)
COUPLINGS: tuple[Coupling, ...] = get_args(Coupling)


@dataclass(frozen=True)
class Range:
    """The values a quantity may take, both ends included."""

    lowest: float
    highest: float
    unit: str

    def fault(self, value: float) -> str | None:
        """One sentence on what is wrong with `value`, or None."""
        if math.isfinite(value) and self.lowest <= value <= self.highest:
            return None
        return f"must be from {self.lowest:,} to {self.highest:,} {self.unit}, got {value:g}"


# The lower ends keep every duration above 0 ns; together with the upper ends they keep every
# moment of the slowest possible burst below 2^63 ns. Real cameras lie well within them.
FRAME_RATE_FPS = Range(0.001, 1_000, "frames a second")
HOLD_S = Range(0.001, 3_600, "s")
MEMORY_MB = Range(0.001, 1_000_000, "MB")
HELD_MB = Range(0, 1_000_000, "MB")
PROCESS_FPS = Range(0.001, 100_000, "frames a second")
FILE_MB = Range(0.001, 100_000, "MB")
WRITE_MB_S = Range(0.001, 100_000, "MB/s")
OVERHEAD_S = Range(0, 60, "s")
FREE_MB = Range(0, 1_000_000_000, "MB")
RESUME_FREE_FRAMES = Range(1, 1_000_000, "frames")
MOST_FILES = 2  # RAW+JPEG: no recording format writes more than a pair.


class InvalidScenario(ValueError):
    """A scenario that makes no sense.

    `faults` maps each key at fault, as written in a scenario file ("slots[0].write_mb_s"), to
    what is wrong with it. All faults of a scenario are told at once.
    """

    def __init__(self, faults: Mapping[str, str]) -> None:
        self.faults = dict(faults)
        super().__init__(" ".join(self.sentences()))

    def sentences(self) -> Iterator[str]:
        """One sentence per fault, each naming its key."""
        for key, fault in self.faults.items():
            yield f"{key} {fault}."


@dataclass(frozen=True, slots=True, kw_only=True)
class File:
    """One file that every frame writes: its name ("raw", "jpeg") and its size in MB."""

    name: str
    mb: float

    def __post_init__(self) -> None:
        _refuse(_out_of_range(mb=(self.mb, FILE_MB)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Slot:
    """One card slot with its card.

    `write_mb_s` is the effective write speed, what card and slot reach together in this body;
    `overhead_s` is spent on every frame before its bytes; `free_mb` is the room left on the card
    at the press, None when it never runs out.
    """

    write_mb_s: float
    overhead_s: float = 0.0
    free_mb: float | None = None

    def __post_init__(self) -> None:
        _refuse(
            _out_of_range(
                write_mb_s=(self.write_mb_s, WRITE_MB_S),
                overhead_s=(self.overhead_s, OVERHEAD_S),
                free_mb=(self.free_mb, FREE_MB),
            )
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Scenario:
    """One hold of the shutter button on one set-up; the scenario file of docs/formats.md.

    `frame_rate_fps` while memory has room, the button down from 0 to `hold_s`, `memory_mb` of
    working memory. A frame takes `held_mb`, or the sum of its files if that is more, from capture
    until the encoder, at `process_fps` frames a second (None: it never limits), has finished it.
    Once full, the body fires again when there is room for `resume_free_frames`.

    Raises :class:`InvalidScenario` with every fault it has.
    """

    frame_rate_fps: float
    hold_s: float
    memory_mb: float
    files: tuple[File, ...]
    slots: tuple[Slot, ...]
    held_mb: float = 0.0
    process_fps: float | None = None
    arrangement: Arrangement = "single"
    coupling: Coupling = "parallel"
    resume_free_frames: int = 1

    def __post_init__(self) -> None:
        faults = _out_of_range(
            frame_rate_fps=(self.frame_rate_fps, FRAME_RATE_FPS),
            hold_s=(self.hold_s, HOLD_S),
            memory_mb=(self.memory_mb, MEMORY_MB),
            held_mb=(self.held_mb, HELD_MB),
            process_fps=(self.process_fps, PROCESS_FPS),
            resume_free_frames=(self.resume_free_frames, RESUME_FREE_FRAMES),
        )
        if not 1 <= len(self.files) <= MOST_FILES:
            faults["files"] = f"must be 1 or {MOST_FILES} files, got {len(self.files)}"
        faults |= self._faults_of_slots()
        _refuse(faults or self._faults_of_memory())

    @property
    def memory_bytes(self) -> int:
        """Bytes of working memory."""
        return bytes_of(self.memory_mb)

    @property
    def file_bytes(self) -> int:
        """Bytes that one frame writes, all its files together."""
        return sum(bytes_of(file.mb) for file in self.files)

    @property
    def frame_bytes(self) -> int:
        """Bytes of memory that one frame takes from capture until it is encoded."""
        return max(bytes_of(self.held_mb), self.file_bytes)

    @property
    def free_bytes(self) -> int | None:
        """Bytes of room on the card at the press; None when it never runs out."""
        free_mb = self.slots[0].free_mb
        return None if free_mb is None else bytes_of(free_mb)

    @property
    def hold_ns(self) -> int:
        """Length of the hold."""
        return ns_of(self.hold_s)

    @property
    def frame_interval_ns(self) -> int:
        """From one frame to the next while memory has room."""
        return interval_ns(self.frame_rate_fps)

    @property
    def encode_ns(self) -> int:
        """Time that the encoder spends on one frame; 0 when it never limits."""
        return 0 if self.process_fps is None else interval_ns(self.process_fps)

    @property
    def write_ns(self) -> int:
        """Time that the writer spends on one frame, its overhead included."""
        slot = self.slots[0]
        return ns_of(slot.overhead_s) + writing_ns(self.file_bytes, slot.write_mb_s)

    def _faults_of_slots(self) -> dict[str, str]:
        if self.arrangement not in ARRANGEMENTS:
            return {"arrangement": f"must be one of {', '.join(ARRANGEMENTS)}"}
        if self.coupling not in COUPLINGS:
            return {"coupling": f"must be one of {', '.join(COUPLINGS)}"}
        if len(self.slots) == 2:
            return {"slots": "must hold one slot for now: two slots can't be predicted yet"}
        if len(self.slots) != 1:
            return {"slots": f"must hold one slot, got {len(self.slots)}"}
        if self.arrangement != "single":
            return {"arrangement": f"{self.arrangement} needs two slots, got one"}
        return {}

    def _faults_of_memory(self) -> dict[str, str]:
        frame = f"{self.frame_bytes / BYTES_IN_MB:g} MB"
        if self.frame_bytes > self.memory_bytes:
            return {"memory_mb": f"must hold one frame of {frame}, got {self.memory_mb:g}"}
        if self.resume_free_frames * self.frame_bytes > self.memory_bytes:
            return {
                "resume_free_frames": f"must fit in memory: {self.resume_free_frames} frames of "
                f"{frame} are more than {self.memory_mb:g} MB"
            }
        return {}


def _out_of_range(**quantities: tuple[float | None, Range]) -> dict[str, str]:
    return {
        name: fault
        for name, (value, allowed) in quantities.items()
        if value is not None and (fault := allowed.fault(value))
    }


def _refuse(faults: Mapping[str, str]) -> None:
    if faults:
        raise InvalidScenario(faults)
