"""Reads the marks on a card's face, or in a shop's line of text, one by one.

Nothing is guessed in silence: what is not a mark is told as unread, and what was taken one way
though it could be meant in another gets a sentence that says so.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields
from typing import Any

from engine.cards.label.checks import Note, notes_on
from engine.cards.label.face import PCIE_OF_BUS, Face
from engine.cards.label.patterns import PATTERNS, WORDS, Words, mb_s_of, speed_words
from engine.cards.standards import (
    BUSES_OF_FORM,
    EXPRESS_BUSES,
    MOST_GB,
    SD_FORMS,
    Bus,
    Form,
    Standard,
)

FACE_FIELDS = {field.name for field in fields(Face)}
LONGEST_TEXT = 2_000  # characters; a shop's line has a tenth of that


@dataclass(frozen=True)
class LabelMark:
    """One mark: its `text` as match from `start` on, and its words."""

    kind: str
    text: str
    start: int
    words: Words


@dataclass(frozen=True, kw_only=True)
class LabelReading:
    """What came of a text: the face, its marks in order, notes on them, and what was not read.

    `cut` tells that only the first LONGEST_TEXT characters were read.
    """

    text: str
    face: Face
    marks: tuple[LabelMark, ...]
    notes: tuple[Note, ...]
    unread: tuple[str, ...]
    cut: bool


def read_marks(text: str) -> LabelReading:
    """Reads any text; of a longer one than LONGEST_TEXT only its start."""
    tokens = list(_tokens(text[:LONGEST_TEXT]))
    marks = sorted([*_plain(tokens), *_speeds(tokens)], key=lambda mark: mark.start)
    face = _face(marks)
    return LabelReading(
        text=text[:LONGEST_TEXT],
        face=face,
        marks=tuple(marks),
        notes=notes_on(face, [pair for mark in marks for pair in mark.words.sets.items()]),
        unread=tuple(_unread(tokens, marks)),
        cut=len(text) > LONGEST_TEXT,
    )


_Token = tuple[str, re.Match[str]]


def _unread(tokens: Sequence[_Token], marks: Sequence[LabelMark]) -> Iterator[str]:
    """What is no mark, and numbers that may be speeds but say of nothing."""
    read = {mark.start for mark in marks}
    for kind, match in tokens:
        if kind == "unread" or ("speed" in kind and match.start() not in read):
            yield match[0]


def _tokens(text: str) -> Iterator[_Token]:
    place = 0
    while place < len(text):
        tries = ((kind, pattern.match(text, place)) for kind, pattern in PATTERNS.items())
        kind, match = next((one for one in tries if one[1]), ("", None))
        if match:
            yield kind, match
        place = match.end() if match else place + 1


def _plain(tokens: Sequence[_Token]) -> Iterator[LabelMark]:
    for kind, match in tokens:
        if kind in WORDS:
            yield LabelMark(kind, match[0], match.start(), WORDS[kind](match))


def _speeds(tokens: Sequence[_Token]) -> Iterator[LabelMark]:
    """The speeds, each with the direction that stands beside it in its own clause.

    Of speeds without a direction the first is for reading, the second for writing; the third of
    three holds.
    """
    ways: dict[int, str] = {}
    bare: list[int] = []
    for clause in _clauses(tokens):
        speeds = [place for place in clause if "speed" in tokens[place][0]]
        directions = {p: _way(tokens[p][1]) for p in clause if tokens[p][0] == "direction"}
        assigned = _assigned(speeds, directions, tokens)
        ways |= assigned
        # A number without a unit is a speed only where its clause says of what.
        bare += [
            p for p in speeds if p not in assigned and (tokens[p][1]["unit"] or not directions)
        ]
    left = [way for way in ("read", "write", "sustained") if way not in ways.values()]
    known = sum("speed" in kind for kind, _ in tokens)
    for place in sorted([*ways, *bare]):
        match = tokens[place][1]
        number, unit = match["speed"], match["unit"]
        if place in bare and not unit:
            continue
        mb_s, remark = mb_s_of(number, unit)
        way = ways.get(place, "")
        if not way and left and (left[0] != "sustained" or known == len(SPEEDS_OF_THREE)):
            way = left.pop(0)
        yield LabelMark("speed", match[0], match.start(), speed_words(way, mb_s, remark))


SPEEDS_OF_THREE = ("read", "write", "sustained")
_SEPARATOR = re.compile(r"[,;|\n\u2022\u00b7]")


def _clauses(tokens: Sequence[_Token]) -> Iterator[list[int]]:
    """The places of the tokens between one comma, bar or "and" and the next."""
    clause: list[int] = []
    end = 0
    for place, (kind, match) in enumerate(tokens):
        if clause and (kind == "and" or _SEPARATOR.search(match.string[end : match.start()])):
            yield clause
            clause = []
        clause.append(place)
        end = match.end()
    yield clause


def _assigned(
    speeds: Sequence[int], directions: dict[int, str], tokens: Sequence[_Token]
) -> dict[int, str]:
    """The direction of each speed of a clause that has one beside it."""
    if not speeds or not directions:
        return {}
    if max(directions) < min(speeds) and len(directions) == len(speeds):
        return dict(zip(speeds, directions.values(), strict=True))  # R/W 170/90
    first, last = min(*speeds, *directions), max(*speeds, *directions)
    # 170 MB/s write 60 MB/s: a word stands before its speed, a letter after it.
    word = tokens[min(directions)][1]["letter"] is None
    after = first in directions or (last not in directions and word)
    nearest: dict[int, str] = {}
    for place, way in directions.items():
        beside = [p for p in speeds if (p > place if after else p < place)]
        if beside:
            nearest[min(beside) if after else max(beside)] = way
    return nearest


def _way(match: re.Match[str]) -> str:
    if match["alone"]:
        return "sustained"
    word = (match["way"] or match["letter"]).lower()
    if word[0] in "rl":
        return "read"
    return "sustained" if match["holds"] or match["held"] else "write"


def _face(marks: Sequence[LabelMark]) -> Face:
    """The face on which of two marks for one thing the first holds."""
    given: dict[str, Any] = {}
    classes: dict[str, None] = {}
    for mark in marks:
        for field, value in mark.words.sets.items():
            if field == "classes":
                classes[value] = None
            else:
                given.setdefault(field, value)
    if "cfexpress" in given and not str(given.get("form", "")).startswith("CFexpress"):
        given.pop("form", None)  # CFexpress of a type that nobody says
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
    if "express" in given or (form in SD_FORMS and "generation" in given):
        # A lane of PCIe 4 carries as much as two of PCIe 3.
        lanes_of_pcie_3 = given.get("lanes", 1) * (2 if generation == 4 else 1)
        return dict(zip((1, 2, 4), EXPRESS_BUSES, strict=True)).get(lanes_of_pcie_3)
    if form is Form.XQD and version:
        return {1: Bus.XQD_1, 2: Bus.XQD_2}.get(version)
    if form and form.startswith("CFexpress") and generation:
        return next(b for b in BUSES_OF_FORM[form] if PCIE_OF_BUS[b][0] == generation)
    # A bare numeral may be part of a name; an explicit mark beats it.
    numeral = given.get("bus_numeral") if form is None or form in SD_FORMS else None
    return given.get("bus", numeral)
