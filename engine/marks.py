"""Reads the marks on a card's face, or in a shop's line of text, one by one.

Nothing is guessed in silence: what is not a mark is told as unread, and what was taken one way
though it could be meant in another gets a sentence that says so.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields
from typing import Any

from engine.face import PCIE_OF_BUS, Face
from engine.mark_faults import Note, notes_on
from engine.mark_kinds import PATTERNS, WORDS, Words, mb_s_of, speed_words
from engine.standards import BUSES_OF_FORM, EXPRESS_BUSES, MOST_GB, SD_FORMS, Bus, Form, Standard

FACE_FIELDS = {field.name for field in fields(Face)}
LONGEST_TEXT = 2_000  # characters; a shop's line has a tenth of that


@dataclass(frozen=True)
class Mark:
    """One mark: its `text` as found from `start` on, and its words."""

    kind: str
    text: str
    start: int
    words: Words


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What came of a text: the face, its marks in order, notes on them, and what was not read.

    `cut` tells that only the first LONGEST_TEXT characters were read.
    """

    text: str
    face: Face
    marks: tuple[Mark, ...]
    notes: tuple[Note, ...]
    unread: tuple[str, ...]
    cut: bool


def read_marks(text: str) -> Reading:
    """Reads any text; of a longer one than LONGEST_TEXT only its start."""
    tokens = list(_tokens(text[:LONGEST_TEXT]))
    marks = sorted([*_plain(tokens), *_speeds(tokens)], key=lambda mark: mark.start)
    face = _face(marks)
    return Reading(
        text=text[:LONGEST_TEXT],
        face=face,
        marks=tuple(marks),
        notes=notes_on(face, [pair for mark in marks for pair in mark.words.sets.items()]),
        unread=tuple(found[0] for kind, found in tokens if kind == "unread"),
        cut=len(text) > LONGEST_TEXT,
    )


_Token = tuple[str, re.Match[str]]


def _tokens(text: str) -> Iterator[_Token]:
    place = 0
    while place < len(text):
        tries = ((kind, pattern.match(text, place)) for kind, pattern in PATTERNS.items())
        kind, found = next((one for one in tries if one[1]), ("", None))
        if found:
            yield kind, found
        place = found.end() if found else place + 1


def _plain(tokens: Sequence[_Token]) -> Iterator[Mark]:
    for kind, found in tokens:
        if kind in WORDS:
            yield Mark(kind, found[0], found.start(), WORDS[kind](found))


def _speeds(tokens: Sequence[_Token]) -> Iterator[Mark]:
    """The speeds, each with the direction that stands beside it.

    Whichever comes first in the text, speed or direction, tells on which side of a speed its
    direction stands. Of speeds without one the first is for reading, the second for writing.
    """
    places = [place for place, (kind, _) in enumerate(tokens) if "speed" in kind]
    ways = {place: _way(found) for place, (kind, found) in enumerate(tokens) if kind == "direction"}
    first = min([*places, *ways], default=0)
    nearest: dict[int, str] = {}
    for way_place, way in ways.items():
        after = first in ways
        beside = [p for p in places if (p > way_place if after else p < way_place)]
        if beside:
            nearest[min(beside) if after else max(beside)] = way
    left = [way for way in ("read", "write") if way not in nearest.values()]
    for place in places:
        found = tokens[place][1]
        mb_s, remark = mb_s_of(found["speed"], found["unit"])
        way = nearest.get(place) or (left.pop(0) if left else "")
        yield Mark("speed", found[0], found.start(), speed_words(way, mb_s, remark))


def _way(found: re.Match[str]) -> str:
    word = (found["way"] or found["letter"]).lower()
    if word.startswith("r"):
        return "read"
    return "sustained" if found["holds"] else "write"


def _face(marks: Sequence[Mark]) -> Face:
    """The face on which of two marks for one thing the first holds."""
    given: dict[str, Any] = {}
    classes: dict[str, None] = {}
    for mark in marks:
        for field, value in mark.words.sets.items():
            if field == "classes":
                classes[value] = None
            else:
                given.setdefault(field, value)
    form, capacity_gb = given.get("form"), given.get("capacity_gb")
    if form in SD_FORMS and capacity_gb and capacity_gb <= MOST_GB[Standard.SD]:
        given.setdefault("standard", Standard.SD)
    bus = _bus(form, given)
    printed = {field: value for field, value in given.items() if field in FACE_FIELDS}
    return Face(**printed | {"bus": bus, "classes": tuple(classes)})


def _bus(form: Form | None, given: dict[str, Any]) -> Bus | None:
    """The bus that is printed, or follows from a generation and lanes, or from a version."""
    version = given.get("version")
    generation = given.get("generation", version and (4 if version == 4 else 3))
    if "express" in given:
        # A lane of PCIe 4 carries as much as two of PCIe 3.
        lanes_of_pcie_3 = given.get("lanes", 1) * (2 if generation == 4 else 1)
        return dict(zip((1, 2, 4), EXPRESS_BUSES, strict=True)).get(lanes_of_pcie_3)
    if form is Form.XQD and version:
        return {1: Bus.XQD_1, 2: Bus.XQD_2}.get(version)
    if form and form.startswith("CFexpress") and generation:
        return next(b for b in BUSES_OF_FORM[form] if PCIE_OF_BUS[b][0] == generation)
    return given.get("bus")
