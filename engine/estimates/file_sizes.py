"""The size of files by format and pixels: general arithmetic, to be corrected by one's own files.

The starting points are those of docs/model.md, "Estimates".
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from enum import StrEnum

from engine.burst.scenario import MOST_FILES
from engine.figures.figure import Figure
from engine.figures.uncertainty import EXACT, LogNormal
from engine.quantities import Range

FILE_MB = Range(0.1, 1_000, "MB")
MEGAPIXELS = Range(2, 400, "megapixels")  # stills cameras for photographers; all else is a slip
MB_OF_PACKED = 14 / 8  # of a megapixel at 14 bits, no bit wasted
PREVIEW_MB = 1.0  # in every RAW
HELD_MB_OF_MEGAPIXEL, HELD_RATIO = 1.8, 1.36  # up to two bytes a pixel until it is processed
HELD_OF_JPEG, HELD_OF_JPEG_RATIO = 0.71, 1.41  # of that: half to all
TYPED_RATIO = 1.1  # of a size that somebody read off one or a few files
UNKNOWN_MEGAPIXELS, UNKNOWN_RATIO = 30.0, 1.6  # from 19 to 48 in four cameras of five


class FormatKind(StrEnum):
    """The common recording formats, by their generic names."""

    UNCOMPRESSED_RAW = "uncompressed RAW"
    LOSSLESS_RAW = "lossless RAW"
    LOSSY_RAW = "lossy RAW"
    COMPACT_RAW = "compact RAW"
    JPEG_FINE = "JPEG fine"
    JPEG_NORMAL = "JPEG normal"
    HEIF = "HEIF"
    RAW_AND_JPEG = "lossless RAW + JPEG fine"

    @property
    def is_raw(self) -> bool:
        """Whether it keeps what the sensor gave."""
        return "RAW" in self.value


@dataclass(frozen=True)
class FileRule:
    """One file that a format writes: MB a megapixel and beside it, and the ratio either way.

    Growth by ISO and detail, and `variation` from frame to frame, are shares of its size.
    """

    name: str
    mb_of_megapixel: float
    ratio: float
    fixed_mb: float = 0.0
    iso_step: float = 0.05
    detail_step: float = 0.10
    variation: float = 0.08

    def mb(self, megapixels: float) -> float:
        """The size at so many megapixels."""
        return megapixels * self.mb_of_megapixel + self.fixed_mb


_LOSSLESS = FileRule("raw", 0.62 * MB_OF_PACKED, 1.26)
_FINE = FileRule("jpeg", 0.42, 1.68)
FILES_OF_FORMAT: Mapping[FormatKind, tuple[FileRule, ...]] = {
    FormatKind.UNCOMPRESSED_RAW: (
        FileRule("raw", MB_OF_PACKED, 1.15, PREVIEW_MB, iso_step=0, detail_step=0, variation=0.01),
    ),
    FormatKind.LOSSLESS_RAW: (_LOSSLESS,),
    FormatKind.LOSSY_RAW: (FileRule("raw", 0.50 * MB_OF_PACKED, 1.41),),
    FormatKind.COMPACT_RAW: (FileRule("raw", 0.40 * MB_OF_PACKED, 1.44),),
    FormatKind.JPEG_FINE: (_FINE,),
    FormatKind.JPEG_NORMAL: (FileRule("jpeg", 0.21, 1.68),),
    FormatKind.HEIF: (FileRule("heif", 0.27, 1.68),),
    FormatKind.RAW_AND_JPEG: (_LOSSLESS, _FINE),
}


def kinds_of(name: str) -> tuple[FormatKind, ...]:
    """The formats that a name puts together, as "compact RAW + JPEG fine"; none: others are in it.

    A frame writes no more files than a scenario may have.
    """
    try:
        if name in list(FormatKind):
            return (FormatKind(name),)
        kinds = tuple(FormatKind(part.strip()) for part in name.split("+"))
    except ValueError:
        return ()
    return kinds if sum(len(FILES_OF_FORMAT[kind]) for kind in kinds) <= MOST_FILES else ()


@dataclass(frozen=True)
class KnownSize:
    """The size of one file of a format, as somebody read it off."""

    kind: FormatKind
    mb: float


def pixels(megapixels: float | None, known: KnownSize | None) -> Figure:
    """How many megapixels the body has: as told, or as the size of a file lets expect."""
    if megapixels is not None:
        return Figure(megapixels, EXACT, f"{megapixels:g} megapixels, as you said")
    if known is None:
        return Figure(
            UNKNOWN_MEGAPIXELS,
            LogNormal.within(UNKNOWN_RATIO),
            "megapixels unknown; most cameras have 20 to 50",
        )
    rule = FILES_OF_FORMAT[known.kind][0]
    return Figure(
        max((known.mb - rule.fixed_mb) / rule.mb_of_megapixel, MEGAPIXELS.lowest),
        LogNormal.product(LogNormal.within(rule.ratio), LogNormal.within(TYPED_RATIO)),
        f"as a {known.kind} of {known.mb:g} MB lets expect",
    )


def file_sizes(kind: FormatKind, megapixels: Figure, known: KnownSize | None) -> tuple[Figure, ...]:
    """The mean size in MB of each file that a frame of `kind` writes."""
    return tuple(_file_size(kind, rule, megapixels, known) for rule in FILES_OF_FORMAT[kind])


def _file_size(
    kind: FormatKind, rule: FileRule, megapixels: Figure, known: KnownSize | None
) -> Figure:
    if known and known.kind is kind and rule is FILES_OF_FORMAT[kind][0]:
        return Figure(known.mb, LogNormal.within(TYPED_RATIO), "the size of a file that you gave")
    return Figure(
        rule.mb(megapixels.value),
        LogNormal.product(LogNormal.within(rule.ratio), megapixels.uncertainty),
        f"{rule.mb_of_megapixel:.2g} MB a megapixel is usual for {rule.name.upper()} in {kind}; "
        f"{megapixels.why}",
    )


def held_size(kinds: Collection[FormatKind], files_mb: float, megapixels: Figure) -> Figure:
    """The MB of buffer that a frame takes until it is processed: at least those of its files.

    What becomes a JPEG alone may be held as less than the sensor gave.
    """
    mb, ratio = megapixels.value * HELD_MB_OF_MEGAPIXEL, LogNormal.within(HELD_RATIO)
    if not any(kind.is_raw for kind in kinds):
        mb *= HELD_OF_JPEG
        ratio = LogNormal.product(ratio, LogNormal.within(HELD_OF_JPEG_RATIO))
    return Figure(
        max(mb, files_mb),
        LogNormal.product(ratio, megapixels.uncertainty),
        f"about {mb / megapixels.value:.2g} MB a megapixel until a frame is processed, or its "
        "files if they are larger",
    )
