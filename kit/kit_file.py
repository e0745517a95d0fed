"""A whole kit as one JSON file, or its cards as a table, and back; see docs/formats.md."""

import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder

from kit import card_table
from kit.document import KINDS
from pages.boundary import NoJson, clean_text, read_json

VERSION = 1
MOST_BYTES = 20_000_000
MOST_ITEMS = 20_000
MOST_ROWS = 200_000  # items and all that belongs to them
MOST_VALUES = 700_000
MOST_FIELDS = 200  # of one entry
LONGEST_TEXT = 50_000  # characters
DEEPEST = 8  # a kit, its bodies, their shutter modes, their frame rates: seven levels
TOO_LARGE = "The file is larger than 20 MB, which no kit needs."
TOO_MANY = f"The file has more than {MOST_ITEMS:,} items, which no kit needs."
TOO_DEEP = "The file is nested deeper than any kit."
TOO_MUCH = f"The file has more than {MOST_ROWS:,} rows or {MOST_VALUES:,} values, as no kit has."

Documents = Mapping[str, Iterable[dict[str, Any]]]


@dataclass(frozen=True)
class Entry:
    """One item of a file: its kind, where it stands there, and its document."""

    kind: str
    place: str
    document: dict[str, Any]


class BadFile(Exception):
    """A file that holds no kit; says why in a sentence."""


def as_json(documents: Documents) -> Iterator[bytes]:
    """The kit as JSON, a line an item, in pieces: it is never in memory as a whole."""
    yield f'{{"ondata_kit": {VERSION}'.encode()
    for kind, items in documents.items():
        yield f',\n"{kind}": ['.encode()
        for number, item in enumerate(items):
            line = json.dumps(item, cls=DjangoJSONEncoder, ensure_ascii=False)
            yield f"{',' if number else ''}\n{line}".encode()
        yield b"]"
    yield b"}\n"


def as_card_table(documents: Documents) -> Iterator[bytes]:
    """The cards as a CSV table, in pieces."""
    return card_table.written(documents["cards"])


def read_kit(name: str, data: bytes) -> list[Entry]:
    """The items in a file of that name. Raises :class:`BadFile`."""
    if len(data) > MOST_BYTES:
        raise BadFile(TOO_LARGE)
    if data[:100].decode(json.detect_encoding(data), "ignore").lstrip()[:1] == "{":
        entries = _from_json(data)
    else:
        entries = _from_table(_text(name, data))
    if len(entries) > MOST_ITEMS:
        raise BadFile(TOO_MANY)
    return entries


def _from_json(data: bytes) -> list[Entry]:
    # Counted before it is read: a file of brackets alone would take gigabytes.
    if data.count(b"{") > MOST_ROWS or data.count(b",") + data.count(b"[") > MOST_VALUES:
        raise BadFile(TOO_MUCH)
    try:
        kit = read_json(data.decode(json.detect_encoding(data)))
    except UnicodeDecodeError as error:
        raise BadFile(f"The file is no JSON: {error}.") from error
    except NoJson as error:
        raise BadFile(str(error)) from error
    _check_values(kit)
    if kit.get("ondata_kit") != VERSION:
        raise BadFile(f"The file is no kit: it lacks “ondata_kit”: {VERSION}.")
    unknown = kit.keys() - KINDS.keys() - {"ondata_kit"}
    if unknown:
        raise BadFile(f"A kit has no “{min(unknown)}”.")
    entries = []
    for kind in KINDS:
        items = kit.get(kind, [])
        if not (isinstance(items, list) and all(isinstance(item, dict) for item in items)):
            raise BadFile(f"“{kind}” must be a list of entries.")
        entries += [Entry(kind, f"{kind}, entry {n}", item) for n, item in enumerate(items, 1)]
    return entries


def _check_values(kit: Any) -> None:
    """Refuses what is nested too deep or too long for a kit."""
    inner: list[Any] = [kit]
    for _ in range(DEEPEST):
        if any(isinstance(one, dict) and len(one) > MOST_FIELDS for one in inner):
            raise BadFile(f"The file has an entry of more than {MOST_FIELDS} fields, as none has.")
        texts = [one for one in inner if isinstance(one, str)]
        texts += [key for one in inner if isinstance(one, dict) for key in one]
        if any(len(text) > LONGEST_TEXT for text in texts):
            raise BadFile(f"The file has a text of more than {LONGEST_TEXT:,} characters.")
        inner = [
            one
            for outer in inner
            if isinstance(outer, dict | list)
            for one in (outer.values() if isinstance(outer, dict) else outer)
        ]
    if inner:
        raise BadFile(TOO_DEEP)


def _text(name: str, data: bytes) -> str:
    """The text of a table as spreadsheets save it: UTF-8, UTF-16, or the code of Windows."""
    wide = data[:2] in (b"\xff\xfe", b"\xfe\xff")
    if b"\0" in data[:100] and not wide:
        raise BadFile(f"{name} is neither a kit (JSON) nor a table of cards (CSV).")
    for encoding in ("utf-16",) if wide else ("utf-8-sig", "cp1252"):
        try:
            return clean_text(data.decode(encoding))
        except UnicodeDecodeError:
            continue
    raise BadFile(f"{name} is no text that can be read; save it as UTF-8.")


def _from_table(text: str) -> list[Entry]:
    if sum(map(text.count, ",;	")) > MOST_VALUES:
        raise BadFile(TOO_MUCH)
    entries: list[Entry] = []
    try:
        for line, values in card_table.read(text):
            if len(entries) == MOST_ITEMS:
                raise BadFile(TOO_MANY)
            entries.append(Entry("cards", f"line {line}", values))
    except card_table.BadTable as error:
        raise BadFile(str(error)) from error
    return entries
