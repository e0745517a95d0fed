"""Tables as spreadsheets write and read them.

Their habits are survived: semicolons, a byte order mark, the encodings that they save in, days as
people write them. What would be a formula is written as text.
"""

import csv
import io
from collections.abc import Iterable, Iterator
from datetime import date, datetime
from itertools import islice
from typing import Any

from engine import text_tables
from engine.typed_numbers import as_typed
from pages.refusals import Refused

TRUTHS = dict.fromkeys(("yes", "true", "1", "on", "x"), True) | dict.fromkeys(
    ("no", "false", "0", "off"), False
)
ROWS_AT_ONCE = 1_000
_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_TEXT = "'"  # before a cell: what follows is text, whatever it looks like
_DATE_FORMATS = ("%Y-%m-%d", "%d.%m.%Y")


def table_text(rows: Iterable[Iterable[Any]]) -> Iterator[str]:
    """Rows of values as the text of a table, in pieces; the only way by which tables go out."""
    left = iter(rows)
    while some := list(islice(left, ROWS_AT_ONCE)):
        piece = io.StringIO()
        csv.writer(piece).writerows(map(cell, row) for row in some)
        yield piece.getvalue()


def cell(value: Any) -> str:
    """`value` as a cell; what would be a formula is written as text."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return as_typed(value) if isinstance(value, float) else str(value)
    text = str(value)
    return f"{_TEXT}{text}" if text.startswith((*_FORMULA, _TEXT)) else text


def plain_text(cell: str) -> str:
    """`cell` without the mark by which a formula was written as text."""
    return cell[1:] if cell[:1] == _TEXT and cell[1:2] in (*_FORMULA, _TEXT) else cell


class NoTable(Refused):
    """Text that is no table; says why in a sentence."""


def lines_of(text: str) -> Iterator[list[str]]:
    """The lines of a table. Raises :class:`NoTable`."""
    try:
        yield from text_tables.lines_of(text)
    except text_tables.BadLine as error:
        raise NoTable([str(error)]) from error


def as_date(cell: str) -> date | str:
    """The day in `cell`; the cell itself where it is none."""
    for pattern in _DATE_FORMATS:
        try:
            return datetime.strptime(cell, pattern).date()
        except ValueError:
            continue
    return cell
