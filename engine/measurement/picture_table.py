"""A table of pictures as text: name, time and size of each file, a line each.

Times are moments ("2026-05-01 06:30:12.34") or seconds from any start. A fourth column may name the
body. It is what the browser makes of a folder of files; with headings, the columns may be those
that programs write which read metadata of pictures, in any order.
"""

import csv
import io
import re
from collections.abc import Iterable, Sequence
from datetime import datetime
from itertools import chain, islice

from engine.measurement.capture_times import MANY, Picture, body_named, second_digits, seconds_of
from engine.measurement.picture_columns import (
    NoColumn,
    PictureColumns,
    are_headings,
    is_wanted,
)
from engine.measurement.picture_files import LARGEST_MB
from engine.quantities import BYTES_IN_MB, Range
from engine.text_tables import BadLine, lines_of
from engine.typed_numbers import NotANumber, quantity_in

HEADINGS = ("name", "time", "mb", "body")  # of a table without any
MB = Range(0.001, LARGEST_MB, "MB")
LATEST_S = 10_000_000_000  # from any start: further than any clock counts
MOST_FAULTS = 5
LONGEST_NAME = 200
MOST_KEYS = 1_000  # of pictures in JSON
NOTHING = "There is no line with a name, a time and a size."
_MOMENT = re.compile(
    r"(\d{4})[-:](\d\d)[-:](\d\d)[ T](\d\d):(\d\d):(\d\d)(?:[.,](\d{1,6})\d*)?"
    r"(?: ?(?:Z|[+-]\d\d:?\d\d))?"  # the zone, which is that of the camera's clock
)
_SECONDS = re.compile(r"-?\d{1,12}(?:\.(\d{1,6}))?")


class BadPictureTable(ValueError):
    """A table that can't be read; `sentences` has one for each line, the first few of them."""

    def __init__(self, sentences: list[str]) -> None:
        self.sentences = sentences
        super().__init__(" ".join(sentences))


def read_pictures(text: str) -> list[Picture]:
    """The pictures of a table, with or without headings. Raises :class:`BadPictureTable`."""
    lines = (
        (f"Line {number}", cells)
        for number, cells in enumerate(lines_of(text.replace("\0", "")), 1)
        if any(cells)
    )
    try:
        first = next(lines, None)
        if first is None:
            raise BadPictureTable([NOTHING])
        if are_headings(first[1]):
            return _pictures(*first, lines)
        return _pictures("", HEADINGS, chain([first], lines))
    except BadLine as error:
        raise BadPictureTable([str(error)]) from error


def pictures_of(objects: Sequence[object]) -> list[Picture]:
    """The pictures of a list of JSON objects, whose keys are as headings are.

    Raises :class:`BadPictureTable`.
    """
    rows = [_flat(one) for one in objects[: MANY + 1]]
    headings = list(islice(dict.fromkeys(chain.from_iterable(rows)), MOST_KEYS))
    wanted = [heading for heading in headings if is_wanted(heading)]
    columns = [_texts([row.get(heading, "") for row in rows]) for heading in wanted]
    cells_of_rows = enumerate(zip(*columns, strict=True), 1)
    lines = ((f"Picture {number}", cells) for number, cells in cells_of_rows)
    return _pictures("In the list of pictures", wanted, lines)


def as_line(picture: Picture) -> str:
    """A picture as a line of such a table."""
    line = io.StringIO()
    time_s = f"{picture.taken_s:.{picture.decimals}f}"
    csv.writer(line).writerow([picture.name, time_s, f"{picture.mb:.6f}", picture.body])
    return line.getvalue()


def _flat(found: object) -> dict[str, str | int | float]:
    """An object's own values and those of the groups in it."""
    values = found if isinstance(found, dict) else {}
    groups = [one for one in values.values() if isinstance(one, dict)]
    return {
        str(key): value
        for part in (values, *groups)
        for key, value in part.items()
        if isinstance(value, str | int | float)
    }


def _texts(values: Sequence[str | int | float]) -> list[str]:
    """A column as text; numbers, which lose zeros at their end, with the digits of the longest."""
    digits = max(
        (len(repr(one).partition(".")[2]) for one in values if isinstance(one, float)), default=0
    )
    return [one if isinstance(one, str) else f"{one:.{digits}f}" for one in values]


def _pictures(
    place: str, headings: Sequence[str], lines: Iterable[tuple[str, Sequence[str]]]
) -> list[Picture]:
    """Those of lines, each with its place, as the headings say that stand at a `place`."""
    try:
        columns = PictureColumns.of(headings)
    except NoColumn as error:
        raise BadPictureTable([f"{place}: {error}."]) from None
    pictures, faults = [], []
    for place_of_line, cells in lines:
        try:
            pictures.append(_picture(columns, cells))
        except ValueError as error:
            faults.append(f"{place_of_line}: {error}.")
        if len(faults) >= MOST_FAULTS or len(pictures) > MANY:
            break
    if faults:
        raise BadPictureTable(faults)
    if not pictures:
        raise BadPictureTable([NOTHING])
    return pictures


def _picture(columns: PictureColumns, cells: Sequence[str]) -> Picture:
    name, time, fraction, size, body, maker = columns.values_of(cells)
    if not time or not size:
        raise ValueError("a name, a time and a size are needed, with commas between them")
    taken_s, decimals = _taken(time, fraction)
    return Picture(
        name=name.replace("\\", "/").rpartition("/")[2][:LONGEST_NAME],
        mb=_mb(size, columns.counts_bytes),
        taken_s=taken_s,
        decimals=decimals,
        body=body_named(maker, body),
    )


def _mb(text: str, counts_bytes: bool) -> float:
    try:
        number = float(text)
        mb = number / BYTES_IN_MB if counts_bytes else number
    except ValueError:
        try:
            mb = quantity_in(text, "MB", MB)
        except NotANumber:
            raise ValueError(f"“{text[:20]}” is no size in MB") from None
    if fault := MB.fault(mb):
        raise ValueError(f"the size {fault}")
    return mb


def _taken(text: str, fraction: str) -> tuple[float, int]:
    """The moment in seconds, and how many digits it has after the second."""
    found = _SECONDS.fullmatch(text)
    if found and abs(float(text)) <= LATEST_S:
        return float(text), len(found[1] or "")
    found = _MOMENT.fullmatch(text)
    if found is None:
        raise ValueError(f"“{text[:30]}” is no time, as in 2026-05-01 06:30:12.34")
    *parts, written = found.groups()
    try:
        moment = datetime.fromisoformat("{}-{}-{} {}:{}:{}".format(*parts))
    except ValueError:
        raise ValueError(f"“{text[:30]}” is no day or time that there is") from None
    digits = written or second_digits(fraction)
    return seconds_of(moment, digits), len(digits)
