"""What the marks of one card say of each other: repeated, contradicting, suspicious, missing."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from engine.cards.label.face import READ_MB_S_OF_TIMES, Face
from engine.cards.standards import (
    BUSES_OF_FORM,
    CEILING_MB_S,
    GUARANTEED_MB_S,
    buses_of_class,
    forms_of_class,
    standard_of,
)

ROUNDED = 0.05  # 1867x restates 280 MB/s: makers round both


class NoteKind(StrEnum):
    """What kind of note a note is."""

    CONTRADICTS = "contradiction"
    WARNS = "warning"
    REPEATS = "repeated"
    MISSING = "not said"


@dataclass(frozen=True)
class Note:
    """One sentence on marks taken together."""

    finding: NoteKind
    says: str


def notes_on(face: Face, given: Sequence[tuple[str, Any]]) -> tuple[Note, ...]:
    """All that there is to say on `face`, which was made of the fields and values in `given`."""
    checks = (
        (NoteKind.CONTRADICTS, _given_twice(given)),
        (NoteKind.CONTRADICTS, _capacity(face)),
        (NoteKind.CONTRADICTS, _bus_and_classes(face)),
        (NoteKind.CONTRADICTS, _figures(face)),
        (NoteKind.WARNS, _suspicious(face)),
        (NoteKind.WARNS, _numeral(face, given)),
        (NoteKind.REPEATS, _repeated(face)),
        (NoteKind.MISSING, _missing(face)),
    )
    return tuple(Note(finding, says) for finding, sentences in checks for says in sentences)


def _given_twice(given: Sequence[tuple[str, Any]]) -> Iterator[str]:
    words = {
        "capacity_gb": "capacities", "form": "forms", "standard": "standards", "bus": "buses",
        "read_mb_s": "figures for reading", "write_mb_s": "figures for writing",
        "sustained_mb_s": "figures for writing on and on",
    }  # fmt: skip
    for field, plural in words.items():
        values = list(dict.fromkeys(value for name, value in given if name == field))
        if len(values) > 1:
            unit = "GB" if field == "capacity_gb" else "MB/s"
            listed = " and ".join(v if isinstance(v, str) else f"{v:,g} {unit}" for v in values)
            yield f"Two {plural}, {listed}: the first is taken."


def _capacity(face: Face) -> Iterator[str]:
    if face.standard and face.capacity_gb:
        belongs = standard_of(face.capacity_gb)
        if belongs is not face.standard:
            yield (
                f"{face.capacity_gb:,g} GB would be {belongs}, not {face.standard}: a mistake, or "
                "a fake."
            )


def _bus_and_classes(face: Face) -> Iterator[str]:
    for one in face.classes:
        of_sd = not one.startswith("VPG")
        if face.form and face.form not in forms_of_class(one):
            yield f"{one} is not defined for {face.form}."
        elif of_sd and face.bus and face.bus not in buses_of_class(one):
            least = buses_of_class(one)[0]
            yield f"{one} needs {least} or better, not {face.bus}: a mistake, or a fake."
    if face.form and face.bus and face.bus not in BUSES_OF_FORM[face.form]:
        yield f"{face.form} has no {face.bus}."


def _figures(face: Face) -> Iterator[str]:
    guaranteed, write, sustained = face.guaranteed_mb_s, face.write_mb_s, face.sustained_mb_s
    if guaranteed and write and guaranteed > write:
        yield f"A class guarantees {guaranteed:g} MB/s, yet it writes {write:g} at best."
    if sustained and write and sustained > write:
        yield f"It goes on at {sustained:g} MB/s, yet it writes {write:g} at best."
    if face.times and face.read_mb_s and not _restates(face):
        said = face.times * READ_MB_S_OF_TIMES
        yield f"{face.times}x would be reading {said:.4g} MB/s, not {face.read_mb_s:g}."


def _restates(face: Face) -> bool:
    if not (face.times and face.read_mb_s):
        return False
    said = face.times * READ_MB_S_OF_TIMES
    return abs(said - face.read_mb_s) <= ROUNDED * face.read_mb_s


def _numeral(face: Face, given: Sequence[tuple[str, Any]]) -> Iterator[str]:
    """A bare II beside a printed UHS-I is part of a name, as far as anybody can tell."""
    for name, value in given:
        if name == "bus_numeral" and value is not face.bus:
            yield f"“{value.removeprefix('UHS-')}” is taken for part of a name."


def _suspicious(face: Face) -> Iterator[str]:
    for words, mb_s in (("Reading", face.read_mb_s), ("Writing", face.write_mb_s)):
        if mb_s and face.bus and mb_s > CEILING_MB_S[face.bus]:
            yield (
                f"{words} {mb_s:,g} MB/s is above the {CEILING_MB_S[face.bus]:,g} of {face.bus}: "
                "only a reader made to match does that, or it is a fake."
            )
    if face.read_mb_s and face.write_mb_s and face.write_mb_s > face.read_mb_s:
        yield "It writes faster than it reads, which is rare: check which figure is which."


def _repeated(face: Face) -> Iterator[str]:
    if len(face.classes) > 1:
        # Of equals the video class is the one that photographers ask for.
        says_most = max(face.classes, key=lambda one: (GUARANTEED_MB_S[one], one))
        rest = " and ".join(one for one in face.classes if one != says_most)
        yield f"{rest} promise{'' if ' and ' in rest else 's'} no more than {says_most}."
    if _restates(face):
        yield f"{face.times}x repeats the reading of {face.read_mb_s:g} MB/s."


def _missing(face: Face) -> Iterator[str]:
    if face.form is None:
        yield "No mark says what form the card has."
    if face.capacity_gb is None:
        yield "No mark says how much it holds."
    if face.form and face.bus is None:
        yield f"No mark says its bus; {face.least_bus} is the slowest that it can be."
    if face.guaranteed_mb_s is None and face.sustained_mb_s is None:
        yield "No mark guarantees a sustained write speed."
