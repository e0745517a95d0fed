"""The cards of a kit as one table, a row a card, and back: docs/formats.md lists its columns.

Their logs, bodies and readers go into the JSON file alone.
"""

from collections.abc import Iterable, Iterator, Mapping
from functools import cache
from typing import Any

from django.db import models

from kit.csv_cells import TRUTHS, NoTable, lines_of, plain_text, table_text
from kit.document import own_fields
from kit.earlier_documents import GONE
from kit.models import Card

MARK_OF_UTF_8 = "\ufeff"  # by which a spreadsheet knows
_LEFT_OUT = object()  # an empty cell where the usual value is meant


class BadTable(ValueError):
    """A table that can't be read; says why in a sentence."""


def columns() -> list[str]:
    """The columns, in the order in which they are written."""
    return [field.name for field in own_fields(Card)]


def written(cards: Iterable[Mapping[str, Any]]) -> Iterator[bytes]:
    """The table of these documents, in pieces."""
    names = columns()
    yield MARK_OF_UTF_8.encode()
    yield from map(str.encode, table_text([names]))
    yield from map(str.encode, table_text([card[name] for name in names] for card in cards))


def read(text: str) -> Iterator[tuple[int, dict[str, Any]]]:
    """The number of each line, and its card's values; blank lines are passed over.

    Raises :class:`BadTable`; a cell that makes no sense is kept as it is, for the models to refuse.
    """
    lines = lines_of(text)
    fields = {field.name: field for field in own_fields(Card)}
    try:
        names = _known(next(lines, []))
        for number, line in enumerate(lines, start=2):
            cells = {name: text.strip() for name, text in zip(names, line, strict=False) if name}
            if any(cells.values()):
                values = {
                    name: _value(field, cells[name])
                    for name, field in fields.items()
                    if name in cells
                }
                yield number, {name: one for name, one in values.items() if one is not _LEFT_OUT}
    except NoTable as error:
        raise BadTable(str(error)) from error


def _known(header: list[str]) -> list[str]:
    names = [name.strip().lower() for name in header]
    if not any(names):
        raise BadTable("The table is empty.")
    for name in names:
        if name and name not in {*columns(), *GONE.get(Card, ())}:
            raise BadTable(
                f"A table of cards has no column “{name[:40]}”; its columns are "
                f"{', '.join(columns())}."
            )
    return names


def _value(field: "models.Field[Any, Any]", text: str) -> Any:
    """The cell as the field has it; an empty one is left out where it means the usual value."""
    text = plain_text(text)
    if not text:
        return None if field.null else "" if field.blank else _LEFT_OUT
    if isinstance(field, models.BooleanField):
        return TRUTHS.get(text.casefold(), text)
    if field.choices:
        return _choices(field).get(_plain(text), text)
    return text


@cache
def _choices(field: "models.Field[Any, Any]") -> dict[str, Any]:
    """The values that a field may have, by each way to write them."""
    said = {_plain(str(words)): value for value, words in field.flatchoices}
    return said | {_plain(str(value)): value for value, _ in field.flatchoices}


def _plain(words: str) -> str:
    return words.lower().replace("_", " ")
