"""Where each figure stands in the document of a body or card."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from engine.figures.key import FigureKey, FigureKind
from engine.formats import exact
from kit.models import Source

Document = dict[str, Any]
DIGITS_OF_SPREAD = 9
_OF_SLOT = {
    FigureKind.SLOT: ("cap_mb_s", "cap_source"),
    FigureKind.OVERHEAD: ("overhead_s", "overhead_source"),
}


@dataclass(frozen=True)
class Place:
    """The row of a document that has a figure, and the names of its value and source there."""

    row: Document
    value_key: str
    source_key: str

    @property
    def entered(self) -> tuple[float | None, str]:
        """The figure and its source."""
        return self.row.get(self.value_key), str(self.row.get(self.source_key, ""))

    def put(self, value: float | None, source: str) -> None:
        """Another figure in place of it; how far a file varies goes with its size."""
        before, _ = self.entered
        if "spread_mb" in self.row and before and value:
            spread_mb = float(f"{self.row['spread_mb'] * value / before:.{DIGITS_OF_SPREAD}g}")
            self.row["spread_mb"] = min(spread_mb, value)
        self.row.update({self.value_key: value, self.source_key: source})


def place_of(document: Document, key: FigureKey) -> Place | None:
    """Where a figure of a body stands; of two alike the first one, as a set-up takes it."""
    return next(places_of(document, key), None)


def has_figure(document: Document, key: FigureKey) -> bool:
    """Whether a body has such a figure: the share that a slot makes of cards stands nowhere."""
    if key.kind is FigureKind.SHARE:
        return key.of.isdecimal() and 0 < int(key.of) <= len(document["slots"])
    return place_of(document, key) is not None


def entered_of(document: Document, key: FigureKey) -> float | None:
    """What the owner has entered of a figure of a body, if anything."""
    place = place_of(document, key)
    return place.entered[0] if place else None


def place_of_speed(document: Document) -> Place:
    """Where the sustained write of a card stands."""
    return Place(document, "sustained_write_mb_s", "sustained_source")


def key_of(row: Mapping[str, Any]) -> FigureKey | None:
    """The figure that a row of a document tells of; None: there is no such kind."""
    kind = row.get("kind")
    if kind not in list(FigureKind):
        return None
    return FigureKey(FigureKind(kind), str(row.get("of", "")), str(row.get("file", "")))


def row_of(key: FigureKey) -> Document:
    """The fields of a row of a document that tell of a figure."""
    return {"kind": key.kind.value, "of": key.of, "file": key.file}


def arrangement_of(document: Document, kind: str) -> Document | None:
    """The arrangement of that kind."""
    return next((one for one in document["arrangements"] if one.get("kind") == kind), None)


def measured_elsewhere(document: Document) -> Document:
    """What a copy of an item has: all that was measured, was measured in the original.

    So what runs have taught of the original is noted as such.
    """
    for row in document.pop("learnt_figures", ()):
        key = key_of(row)
        if key and (place := place_of(document, key)):
            place.put(row["value"], Source.MEASURED_ELSEWHERE.value)
    for row in document.pop("learnt_couplings", ()):
        if arrangement := arrangement_of(document, row["kind"]):
            arrangement |= {"coupling": row["coupling"], "source": Source.MEASURED_ELSEWHERE.value}
    for row in document.pop("learnt_speeds", ()):
        place_of_speed(document).put(row["value"], Source.MEASURED_ELSEWHERE.value)
        document |= {"measured_in": row["learnt_in"]}
    copied: Document = _replaced(document)
    return copied


def without_edited(before: Document, after: Document, part: str) -> list[Document]:
    """The rows of `part` before a change, but for those whose figure it has changed."""
    return [
        row for row in before[part] if _entered(before, row, part) == _entered(after, row, part)
    ]


def _entered(document: Document, row: Document, part: str) -> Any:
    """What the owner has entered where a row of `part` tells of it."""
    if part == "learnt_speeds":
        return place_of_speed(document).entered
    if part == "learnt_couplings":
        arrangement = arrangement_of(document, row["kind"])
        return arrangement and (arrangement.get("coupling"), arrangement.get("source"))
    key = key_of(row)
    place = place_of(document, key) if key else None
    return place and place.entered


def places_of(document: Document, key: FigureKey) -> Iterator[Place]:
    """All places where a figure of a body stands: two shutters may have one rate."""
    if key.kind is FigureKind.MEMORY:
        yield Place(document, "memory_mb", "memory_source")
    elif key.kind in _OF_SLOT and key.of.isdecimal():
        for slot in document["slots"][int(key.of) - 1 : int(key.of)]:
            yield Place(slot, *_OF_SLOT[key.kind])
    elif key.kind is FigureKind.FRAME_RATE:
        for mode in document["shutter_modes"]:
            for rate in mode.get("frame_rates", ()):
                if key.of == _as_number(rate.get("fps")):
                    yield Place(rate, "fps", "source")
    for recording in document["formats"]:
        if recording.get("slug") == key.of:
            yield from _places_of_format(recording, key)


def _places_of_format(recording: Document, key: FigureKey) -> Iterator[Place]:
    if key.kind is FigureKind.HELD:
        yield Place(recording, "held_mb", "held_source")
    elif key.kind is FigureKind.ENCODER:
        yield Place(recording, "process_fps", "process_source")
    elif key.kind is FigureKind.FILES:
        for file in recording.get("files", ()):
            if file.get("name") == key.file:
                yield Place(file, "file_mb", "source")


def _as_number(value: Any) -> str:
    return exact(value) if isinstance(value, int | float) else str(value)


def _replaced(value: Any) -> Any:
    if isinstance(value, dict):
        return {key: _replaced(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [_replaced(inner) for inner in value]
    return Source.MEASURED_ELSEWHERE.value if value == Source.MEASURED_HERE else value
