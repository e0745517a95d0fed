"""Documents as they were written once: in files that people have kept, and in changes to be undone.

Prices are on price lists now. What was learnt overwrote what had been entered, which was kept
beside it; figures had one name each, as "slot 1 cap_mb_s" and "lossless-raw held_mb". What an
estimate might be off by was one spread, either way.
"""

from collections.abc import Mapping
from copy import deepcopy
from typing import Any

from engine.figures.key import FigureKey, FigureKind
from kit.figure_places import (
    Document,
    Place,
    arrangement_of,
    place_of_speed,
    places_of,
    row_of,
)
from kit.models import Card, KitItem, Source

# Fields that documents had once; tables may still have them as columns.
GONE: Mapping[type[KitItem], tuple[str, ...]] = {
    Card: ("price", "currency", "priced_on", "sustained_spread")
}
_KIND_OF_NAME = {"held_mb": FigureKind.HELD, "process_fps": FigureKind.ENCODER}


def brought_up_to_date(model: type[KitItem], document: Mapping[str, Any]) -> Document:
    """`document` as it would be written today; itself if it says nothing in an earlier way."""
    found = {key: value for key, value in document.items() if key not in GONE.get(model, ())}
    if not any(_is_earlier(part, found.get(part)) for part in _READ):
        return found
    found = deepcopy(found)
    for part in _READ:
        if isinstance(found.get(part), list):
            found[part] = [new for row in found[part] if (new := _row(found, part, row))]
    return found


def key_of_name(name: str) -> FigureKey:
    """The figure that was called so."""
    first, _, part = name.partition(" ")
    if name == "memory_mb":
        return FigureKey(FigureKind.MEMORY)
    if first == "rate":
        return FigureKey(FigureKind.FRAME_RATE, part)
    if first == "slot" and part.endswith(" cap_mb_s"):
        return FigureKey(FigureKind.SLOT, part.removesuffix(" cap_mb_s"))
    if kind := _KIND_OF_NAME.get(part):
        return FigureKey(kind, first)
    return FigureKey(FigureKind.FILES, first, part)


def _is_earlier(part: str, rows: Any) -> bool:
    return isinstance(rows, list) and any(
        isinstance(row, Mapping) and not row.keys().isdisjoint(_GONE_OF_PART[part]) for row in rows
    )


def _row(document: Document, part: str, row: Any) -> Any:
    """A row as it is today, None where it did not hold any more; what can't be read stays."""
    try:
        return _READ[part](document, dict(row)) if _is_earlier(part, [row]) else row
    except (KeyError, TypeError, AttributeError):
        return row  # to be refused with a sentence, as anything else that makes no sense


def _estimate(document: Document, row: Document) -> Document | None:
    spread = row.pop("spread")
    row |= {"below": spread, "above": spread}
    if "figure" not in row:
        return row
    key, value = key_of_name(row.pop("figure")), row.pop("value")
    held = (value, Source.ESTIMATED)
    return row_of(key) | row if _holds(document, key, held) else None


def _figure(document: Document, row: Document) -> Document | None:
    key = key_of_name(row.pop("figure"))
    assumed = row.pop("assumed_value", None), row.pop("assumed_source", "")
    place = _holds(document, key, (row["value"], Source.MEASURED_HERE))
    if place is None:
        return None
    place.put(*assumed)
    return row_of(key) | row


def _coupling(document: Document, row: Document) -> Document | None:
    assumed = row.pop("assumed_coupling")
    arrangement = arrangement_of(document, row["kind"])
    learnt = (row["coupling"], Source.MEASURED_HERE)
    if not arrangement or (arrangement["coupling"], arrangement["source"]) != learnt:
        return None
    arrangement |= {"coupling": assumed, "source": Source.ESTIMATED.value}
    return row


def _speed(document: Document, row: Document) -> Document | None:
    assumed = {name: row.pop(f"assumed_{name}", None) for name in ("value", "source")}
    row.pop("assumed_spread", None)
    assumed_in, learnt_in = row.pop("assumed_in", ""), document.get("measured_in", "")
    place = place_of_speed(document)
    if place.entered != (row["value"], Source.MEASURED_HERE):
        return None
    place.put(assumed["value"], assumed["source"])
    document |= {"measured_in": assumed_in}
    return row | {"learnt_in": learnt_in}


def _holds(document: Document, key: FigureKey, held: tuple[Any, str]) -> Place | None:
    """Where a figure still was what a row had once made of it."""
    return next((one for one in places_of(document, key) if one.entered == held), None)


_READ = {
    "estimates": _estimate,
    "learnt_figures": _figure,
    "learnt_couplings": _coupling,
    "learnt_speeds": _speed,
}
# Keys by which a row of each part is told to be one of an earlier day.
_GONE_OF_PART = {
    "estimates": ("figure", "spread"),
    "learnt_figures": ("figure", "assumed_source"),
    "learnt_couplings": ("assumed_coupling",),
    "learnt_speeds": ("assumed_source",),
}
