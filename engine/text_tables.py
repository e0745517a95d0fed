"""Lines of a table as somebody's program wrote it, with commas, semicolons or tabs."""

import csv
import io
from collections.abc import Iterator


class BadLine(ValueError):
    """A line that is none of a table, in a sentence."""


def lines_of(text: str) -> Iterator[list[str]]:
    """The cells of each line, split where the first one is. Raises :class:`BadLine`."""
    text = text.removeprefix("\ufeff").lstrip("\r\n")
    header = text.partition("\n")[0]
    lines = csv.reader(
        io.StringIO(text, newline=""), delimiter=max(",;\t", key=header.count), strict=True
    )
    try:
        yield from lines
    except csv.Error as error:
        raise BadLine(f"Line {lines.line_num} is no line of a table: {error}.") from error
