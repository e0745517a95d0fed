"""A whole kit as one file, JSON or a zip of CSV tables, and back; see docs/formats.md."""

import io
import json
import math
import re
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder

from kit.csv_tables import TABLE_OF_NAME, TABLES, BadTable, CsvRow, Table, read_table, table_text
from kit.document import KINDS

VERSION = 1
MOST_BYTES = 20_000_000  # of a file, and of all that a zip unpacks to
MOST_ITEMS = 20_000
MOST_ROWS = 200_000  # items and all that belongs to them
MOST_VALUES = 700_000
MOST_FIELDS = 200  # of one entry
LONGEST_TEXT = 50_000  # characters
MOST_MEMBERS = 100  # of a zip
DEEPEST = 8  # a kit, its bodies, their shutter modes, their frame rates: seven levels
TOO_LARGE = "The file is larger than 20 MB, which no kit needs."
TOO_MANY = f"The file has more than {MOST_ITEMS:,} items, which no kit needs."
TOO_DEEP = "The file is nested deeper than any kit."
TOO_MUCH = f"The file has more than {MOST_ROWS:,} rows or {MOST_VALUES:,} values, as no kit has."
_ZIP_MEMBER = b"PK\x01\x02"  # before each member in the directory of a zip

_BROKEN_ZIP = (
    zipfile.BadZipFile,
    zlib.error,
    RuntimeError,
    NotImplementedError,
    EOFError,
    OSError,
    ValueError,
)

_HALF_A_CHARACTER = re.compile("[\ud800-\udfff]")

Documents = Mapping[str, Iterable[dict[str, Any]]]
_RowsOfTable = dict[Table, dict[tuple[str, ...], list[CsvRow]]]


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


def as_zip(documents: Documents) -> Iterator[bytes]:
    """The kit as a zip with one CSV file a table."""
    file = io.BytesIO()
    whole = {kind: list(items) for kind, items in documents.items()}
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as packed:
        for table in TABLES:
            # The mark tells a spreadsheet that the text is UTF-8.
            text = "\ufeff" + table_text(table, whole[table.kind])
            packed.writestr(f"{table.name}.csv", text)
    yield file.getvalue()


def read_kit(name: str, data: bytes) -> list[Entry]:
    """The items in a file of that name. Raises :class:`BadFile`."""
    if len(data) > MOST_BYTES:
        raise BadFile(TOO_LARGE)
    if data[:4] == b"PK\x03\x04":
        entries = _from_tables(_unzipped(data))
    elif data[:100].decode(json.detect_encoding(data), "ignore").lstrip()[:1] == "{":
        entries = _from_json(data)
    else:
        text = _text(name, data)
        entries = _from_tables({_table_name(name, text): text})
    if len(entries) > MOST_ITEMS:
        raise BadFile(TOO_MANY)
    return entries


def _table_name(name: str, text: str) -> str:
    """The table that a file alone is: by its name, or else by the columns of its first line."""
    stem = PurePosixPath(name).stem.lower()
    if stem in TABLE_OF_NAME:
        return stem
    fitting = (table.name for table in TABLES if not table.path and table.has_columns_of(text))
    return next(fitting, stem)


def _from_json(data: bytes) -> list[Entry]:
    # Counted before it is read: a file of brackets alone would take gigabytes.
    if data.count(b"{") > MOST_ROWS or data.count(b",") + data.count(b"[") > MOST_VALUES:
        raise BadFile(TOO_MUCH)
    try:
        kit = json.loads(data, parse_constant=_refuse_constant, parse_float=_finite)
    except ValueError as error:
        raise BadFile(f"The file is no JSON: {error}.") from error
    except RecursionError:
        raise BadFile(TOO_DEEP) from None
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


def _refuse_constant(name: str) -> None:
    raise ValueError(f"{name} is no number")


def _finite(text: str) -> float:
    number = float(text)
    if not math.isfinite(number):
        raise ValueError(f"{text[:20]} is larger than any number of a kit")
    return number


def _check_values(kit: Any) -> None:
    """Refuses what is nested too deep, and texts that the database can't keep."""
    inner: list[Any] = [kit]
    for _ in range(DEEPEST):
        if any(isinstance(one, dict) and len(one) > MOST_FIELDS for one in inner):
            raise BadFile(f"The file has an entry of more than {MOST_FIELDS} fields, as none has.")
        texts = [one for one in inner if isinstance(one, str)]
        texts += [key for one in inner if isinstance(one, dict) for key in one]
        if any(len(text) > LONGEST_TEXT for text in texts):
            raise BadFile(f"The file has a text of more than {LONGEST_TEXT:,} characters.")
        whole = "".join(texts)
        if "\0" in whole:
            raise BadFile("The file has a character 0 in it, which no text has.")
        if not whole.isascii() and _HALF_A_CHARACTER.search(whole):
            raise BadFile("The file has half a character in it, which no text has.")
        inner = [
            one
            for outer in inner
            if isinstance(outer, dict | list)
            for one in (outer.values() if isinstance(outer, dict) else outer)
        ]
    if inner:
        raise BadFile(TOO_DEEP)


def _unzipped(data: bytes) -> dict[str, str]:
    """The texts in a zip by the names of their tables; never more than MOST_BYTES of them."""
    if data.count(_ZIP_MEMBER) > MOST_MEMBERS:
        raise BadFile(f"The zip has more than {MOST_MEMBERS} files in it, as no kit has.")
    texts: dict[str, str] = {}
    left = MOST_BYTES
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            for info in packed.infolist():
                path = PurePosixPath(info.filename)
                if info.is_dir() or path.suffix.lower() != ".csv" or path.name.startswith("."):
                    continue
                if info.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
                    raise BadFile(f"{path.name[:40]} is packed in a way that is not read here.")
                with packed.open(info) as file:
                    # What the zip says of its sizes may be a lie.
                    content = file.read(left + 1)
                left -= len(content)
                if left < 0:
                    raise BadFile("The zip unpacks to more than 20 MB, which no kit needs.")
                texts[path.stem.lower()] = _text(path.name, content)
    except _BROKEN_ZIP as error:
        raise BadFile(f"The zip can't be opened: {error}.") from error
    if not texts:
        raise BadFile("The zip has no file of a kit in it, such as cards.csv.")
    return texts


def _text(name: str, data: bytes) -> str:
    """The text of a table as spreadsheets save it: UTF-8, UTF-16, or the code of Windows."""
    wide = data[:2] in (b"\xff\xfe", b"\xfe\xff")
    if b"\0" in data[:100] and not wide:
        raise BadFile(f"{name} is no text.")
    for encoding in ("utf-16",) if wide else ("utf-8-sig", "cp1252"):
        try:
            return data.decode(encoding).replace("\0", "")
        except UnicodeDecodeError:
            continue
    raise BadFile(f"{name} is no text that can be read; save it as UTF-8.")


def _from_tables(texts: Mapping[str, str]) -> list[Entry]:
    unknown = texts.keys() - TABLE_OF_NAME.keys()
    if unknown:
        known = ", ".join(f"{table.name}.csv" for table in TABLES)
        raise BadFile(f"“{min(unknown)[:40]}” is no table of a kit; they are {known}.")
    if sum(text.count(mark) for text in texts.values() for mark in ",;\t") > MOST_VALUES:
        raise BadFile(TOO_MUCH)
    rows = _rows_by_table(texts)
    entries = []
    for table in [table for table in rows if not table.path]:
        for row in rows[table].pop((), []):
            _nest(row, table, (row.values.get("slug", ""),), rows)
            entries.append(Entry(table.kind, f"{table.name}.csv, line {row.line}", row.values))
    for table, by_owner in rows.items():
        for owner, lost in by_owner.items():
            raise BadFile(
                f"Line {lost[0].line} of {table.name} belongs to “{' '.join(owner)[:60]}”, which "
                "is not in the table above it."
            )
    return entries


def _rows_by_table(texts: Mapping[str, str]) -> _RowsOfTable:
    """The rows of each table by what they belong to, MOST_ROWS at most."""
    rows: _RowsOfTable = {}
    left = MOST_ROWS
    try:
        for table in TABLES:
            if table.name in texts:
                by_owner = rows.setdefault(table, {})
                for number, row in enumerate(read_table(table, texts[table.name])):
                    left -= 1
                    if left < 0:
                        raise BadFile(TOO_MUCH)
                    if number == MOST_ITEMS and not table.path:
                        raise BadFile(TOO_MANY)
                    by_owner.setdefault(row.owner, []).append(row)
    except BadTable as error:
        raise BadFile(str(error)) from error
    return rows


def _nest(row: CsvRow, table: Table, owner: tuple[str, ...], rows: _RowsOfTable) -> None:
    """Puts into the values of `row` what belongs to it; none, where a table has none for it."""
    for inner in rows:
        if inner.kind == table.kind and inner.path and inner.path[:-1] == table.path:
            own = rows[inner].pop(owner, [])
            if inner.path == ("slots",) and [one.key for one in own] != ["1", "2"][: len(own)]:
                raise BadFile(f"The slots of “{owner[0]}” must be 1, or 1 and 2, in that order.")
            row.values[inner.path[-1]] = [one.values for one in own]
            for one in own:
                _nest(one, inner, (*owner, one.key), rows)
