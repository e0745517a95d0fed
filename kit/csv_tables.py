"""The kit as flat tables, one for each kind of row, and back: docs/formats.md lists them.

A row that belongs to another says to which in its first columns: an accepted form names its body
and the number of its slot. A spreadsheet's habits are survived: semicolons, a byte order mark,
decimal commas, units in cells, blank lines. What would be a formula is written as text.
"""

import csv
import io
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from functools import cache, cached_property
from typing import Any

from django.db import models

from engine.typed_numbers import as_typed
from kit.document import KINDS, own_fields, part_model
from kit.earlier_documents import GONE

_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_TEXT = "'"  # before a cell: what follows is text, whatever it looks like
TRUTHS = dict.fromkeys(("yes", "true", "1", "on", "x"), True) | dict.fromkeys(
    ("no", "false", "0", "off"), False
)
_DATE_FORMATS = ("%Y-%m-%d", "%d.%m.%Y")
# The columns by which rows say what they belong to.
_KEY_OF_KIND = {"bodies": "body", "cards": "card", "readers": "reader"}
_KEY_OF_PART = {
    "shutter_modes": ("shutter", "name"),
    "formats": ("format", "slug"),
    "slots": ("slot", ""),  # its number, a column of its own
}


class BadTable(ValueError):
    """A table that can't be read; says why in a sentence."""


@dataclass(frozen=True)
class Table:
    """One table: its file's name, and where its rows lie in the documents of `kind`."""

    name: str
    kind: str
    path: tuple[str, ...] = ()

    @cached_property
    def model(self) -> type[models.Model]:
        """The model of its rows."""
        model: type[models.Model] = KINDS[self.kind]
        for part in self.path:
            model = part_model(model, part)
        return model

    @cached_property
    def keys(self) -> list[str]:
        """The columns that say what a row belongs to, the item first."""
        if not self.path:
            return []
        return [_KEY_OF_KIND[self.kind], *(_KEY_OF_PART[part][0] for part in self.path[:-1])]

    @cached_property
    def columns(self) -> list[str]:
        """All its columns."""
        number = ["slot"] if self.path == ("slots",) else []
        return [*self.keys, *number, *(field.name for field in own_fields(self.model))]

    def has_columns_of(self, text: str) -> bool:
        """Whether the first line of `text` names columns of this table only."""
        names = {name.strip().lower() for name in next(lines_of(text[:10_000]), []) if name.strip()}
        return bool(names) and names <= {*self.columns, *GONE.get(self.model, ())}


TABLES = (
    Table("bodies", "bodies"),
    Table("shutter_modes", "bodies", ("shutter_modes",)),
    Table("frame_rates", "bodies", ("shutter_modes", "frame_rates")),
    Table("slots", "bodies", ("slots",)),
    Table("slot_forms", "bodies", ("slots", "accepted_forms")),
    Table("arrangements", "bodies", ("arrangements",)),
    Table("formats", "bodies", ("formats",)),
    Table("files", "bodies", ("formats", "files")),
    Table("tested_cards", "bodies", ("tested_cards",)),
    Table("estimates", "bodies", ("estimates",)),
    Table("learnt_figures", "bodies", ("learnt_figures",)),
    Table("learnt_couplings", "bodies", ("learnt_couplings",)),
    Table("cards", "cards"),
    Table("card_log", "cards", ("log",)),
    Table("learnt_speeds", "cards", ("learnt_speeds",)),
    Table("readers", "readers"),
    Table("reader_forms", "readers", ("accepted_forms",)),
)
TABLE_OF_NAME = {table.name: table for table in TABLES}


def table_text(table: Table, documents: Iterable[Mapping[str, Any]]) -> str:
    """The rows of `table` in `documents`, as CSV with a header."""
    file = io.StringIO()
    writer = csv.writer(file)
    writer.writerow(table.columns)
    for document in documents:
        for row in _rows(document, table.path, [document["slug"]] if table.path else []):
            writer.writerow(map(cell, row))
    return file.getvalue()


def _rows(document: Mapping[str, Any], path: Sequence[str], keys: list[Any]) -> Iterator[list[Any]]:
    if not path:
        yield keys + [value for value in document.values() if not isinstance(value, list)]
        return
    part, *deeper = path
    for number, inner in enumerate(document[part], start=1):
        key = [number] if part == "slots" else [inner[_KEY_OF_PART[part][1]]] if deeper else []
        yield from _rows(inner, deeper, keys + key)


def cell(value: Any) -> str:
    """`value` as a cell; what would be a formula is written as text."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return as_typed(value)
    text = str(value)
    return f"{_TEXT}{text}" if text.startswith((*_FORMULA, _TEXT)) else text


def plain_text(cell: str) -> str:
    """`cell` without the mark by which a formula was written as text."""
    return cell[1:] if cell[:1] == _TEXT and cell[1:2] in (*_FORMULA, _TEXT) else cell


def lines_of(text: str) -> Iterator[list[str]]:
    """The lines of a table, split where its first one is: by commas, semicolons or tabs."""
    text = text.removeprefix("\ufeff").lstrip("\r\n")
    header = text.partition("\n")[0]
    return csv.reader(io.StringIO(text, newline=""), delimiter=max(",;\t", key=header.count))


@dataclass(frozen=True)
class CsvRow:
    """One row of a table: its line, what it belongs to, its values, and the key of its own rows."""

    line: int
    owner: tuple[str, ...]
    values: dict[str, Any]
    key: str


def read_table(table: Table, text: str) -> Iterator[CsvRow]:
    """The rows of `text`, without the blank ones.

    Raises :class:`BadTable`; a cell that makes no sense is kept as it is, for the models to refuse.
    """
    lines = lines_of(text)
    fields = {field.name: field for field in own_fields(table.model)}
    try:
        columns = _columns(table, next(lines, []))
        for number, line in enumerate(lines, start=2):
            cells = {name: cell.strip() for name, cell in zip(columns, line, strict=False) if name}
            if any(cells.values()):
                values = {
                    name: _value(field, cells[name])
                    for name, field in fields.items()
                    if name in cells
                }
                values = {name: value for name, value in values.items() if value is not _LEFT_OUT}
                owner = tuple(cells.get(key, "") for key in table.keys)
                yield CsvRow(number, owner, values, _key(table, cells))
    except csv.Error as error:
        raise BadTable(f"{table.name} is no table: {error}.") from error


def _columns(table: Table, header: list[str]) -> list[str]:
    columns = [name.strip().lower() for name in header]
    said = [f"has no column “{name}”" for name in table.keys if name not in columns]
    known = {*table.columns, *GONE.get(table.model, ())}
    unknown = (name for name in columns if name and name not in known)
    said += [f"has a column “{name[:40]}” that is not known" for name in unknown]
    if said or not any(columns):
        what = " and ".join(said[:3]) or "is empty"
        raise BadTable(f"{table.name} {what}; its columns are {', '.join(table.columns)}.")
    return columns


def _key(table: Table, cells: Mapping[str, str]) -> str:
    if not table.path:
        return cells.get("slug", "")
    column, field = _KEY_OF_PART.get(table.path[-1], ("", ""))
    return cells.get(field or column, "")


_LEFT_OUT = object()  # an empty cell where the usual value is meant


def _value(field: "models.Field[Any, Any]", cell: str) -> Any:
    """The cell as the field has it; an empty one is left out where it means the usual value."""
    cell = plain_text(cell)
    if not cell:
        return None if field.null else "" if field.blank else _LEFT_OUT
    if isinstance(field, models.BooleanField):
        return TRUTHS.get(cell.casefold(), cell)
    if isinstance(field, models.DateField):
        return as_date(cell)
    if field.choices:
        return _choices(field).get(_plain(cell), cell)
    return cell


@cache
def _choices(field: "models.Field[Any, Any]") -> dict[str, Any]:
    """The values that a field may have, by each way to write them."""
    said = {_plain(str(words)): value for value, words in field.flatchoices}
    return said | {_plain(str(value)): value for value, _ in field.flatchoices}


def _plain(words: str) -> str:
    return words.lower().replace("_", " ")


def as_date(cell: str) -> date | str:
    """The day in `cell`; the cell itself where it is none."""
    for pattern in _DATE_FORMATS:
        try:
            return datetime.strptime(cell, pattern).date()
        except ValueError:
            continue
    return cell
