"""What a figure is a figure of: one key for it, from the kit through the engine to the pages."""

from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from typing import NamedTuple, Self

from engine.formats import exact


class FigureKind(StrEnum):
    """What sort of number it is; the value names what is drawn (`Factor`)."""

    FRAME_RATE = "frame rate"
    HELD = "held size"
    FILES = "file size"
    BURST = "burst"
    MEMORY = "memory"
    ENCODER = "encoder"
    COUPLING = "coupling"
    CARD = "card"
    SLOT = "slot"
    OVERHEAD = "overhead"
    CACHE = "cache"
    SHARE = "slot share"
    PACE = "pace"
    ROOM = "room"
    COVERED_FILES = "file size, lens covered"


# The field of a scenario, and of what is told of its sources, that has the number; and the same of
# a slot. They are also the keys of the files in docs/formats.md.
FIELD_OF_BODY = {
    FigureKind.FRAME_RATE: "frame_rate_fps",
    FigureKind.HELD: "held_mb",
    FigureKind.FILES: "files",
    FigureKind.MEMORY: "memory_mb",
    FigureKind.ENCODER: "process_fps",
}
FIELD_OF_SLOT = {
    FigureKind.CARD: "write_mb_s",
    FigureKind.SLOT: "slot_limit_mb_s",
    FigureKind.OVERHEAD: "overhead_s",
    FigureKind.CACHE: "cache_mb",
    FigureKind.SHARE: "slot_share",
    FigureKind.PACE: "pace",
}
OF_CARD = (FigureKind.CARD, FigureKind.CACHE)  # whatever body it is in
# What the answer to a learn file calls them.
_NAME_OF_KIND = {
    FigureKind.HELD: "held",
    FigureKind.FILES: "files",
    FigureKind.COVERED_FILES: "files",
    FigureKind.ENCODER: "processor",
    FigureKind.FRAME_RATE: "rate",
}


class Factor(NamedTuple):
    """A number of a set-up, by the place that it has there.

    `place` is 1 or 2 of what belongs to a slot, in the order in which they are written to, and 2
    and more of bursts after the first; else 0.
    """

    kind: FigureKind
    place: int = 0

    @cache  # noqa: B019 - there are few, and draws of very many set-ups ask for them
    def __str__(self) -> str:
        return f"{self.kind} {self.place}" if self.place else str(self.kind)


@dataclass(frozen=True)
class FigureKey:
    """A number of a body or card, whatever set-up it is met in.

    `of` is what it is a number of, where a body has several: the format, the frame rate, the slot,
    the card, or the arrangement; `file` which file of a format, where they are told apart.
    """

    kind: FigureKind
    of: str = ""
    file: str = ""

    @classmethod
    def of_frame_rate(cls, frame_rate_fps: float) -> Self:
        """The key of a frame rate, by what the camera calls it."""
        return cls(FigureKind.FRAME_RATE, exact(frame_rate_fps))

    def __str__(self) -> str:
        covered = " covered" if self.kind is FigureKind.COVERED_FILES else ""
        return f"{_NAME_OF_KIND.get(self.kind, self.kind)} {self.of}{covered}".rstrip()
