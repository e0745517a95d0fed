"""A table of pictures as text: name, time and size of each file, a line each.

Times are moments ("2026-05-01 06:30:12.34") or seconds from any start. A fourth column may name the
body. It is what the browser makes of a folder of files, and what other programs export.
"""

import csv
import io
import re
from datetime import datetime

from engine.measurement.capture_times import MANY, Picture, seconds_of
from engine.measurement.picture_files import LARGEST_MB
from engine.quantities import Range

HEADER = ("name", "time", "mb", "body")
MB = Range(0.001, LARGEST_MB, "MB")
LATEST_S = 10_000_000_000  # from any start: further than any clock counts
MOST_FAULTS = 5
LONGEST_NAME = 200
_MOMENT = re.compile(r"(\d{4})[-:](\d\d)[-:](\d\d)[ T](\d\d):(\d\d):(\d\d)(?:[.,](\d{1,6}))?")
_SECONDS = re.compile(r"-?\d{1,12}(?:\.(\d{1,6}))?")


class BadPictureTable(ValueError):
    """A table that can't be read; `sentences` has one for each line, the first few of them."""

    def __init__(self, sentences: list[str]) -> None:
        self.sentences = sentences
        super().__init__(" ".join(sentences))


def read_pictures(text: str) -> list[Picture]:
    """The pictures of a table, with or without a header. Raises :class:`BadPictureTable`."""
    pictures, faults = [], []
    lines = csv.reader(io.StringIO(text.replace("\0", "")), strict=True)
    try:
        for number, cells in enumerate(lines, 1):
            if not any(cells) or (number == 1 and cells[0].strip().casefold() == HEADER[0]):
                continue
            try:
                pictures.append(_picture([cell.strip() for cell in cells]))
            except ValueError as error:
                faults.append(f"Line {number}: {error}.")
            if len(faults) >= MOST_FAULTS or len(pictures) > MANY:
                break
    except csv.Error as error:
        faults.append(f"Line {lines.line_num} is no line of a table: {error}.")
    if faults:
        raise BadPictureTable(faults)
    if not pictures:
        raise BadPictureTable(["There is no line with a name, a time and a size."])
    return pictures


def as_line(picture: Picture) -> str:
    """A picture as a line of such a table."""
    line = io.StringIO()
    time_s = f"{picture.taken_s:.{picture.decimals}f}"
    csv.writer(line).writerow([picture.name, time_s, f"{picture.mb:.6f}", picture.body])
    return line.getvalue()


def _picture(cells: list[str]) -> Picture:
    if len(cells) < len(HEADER) - 1:
        raise ValueError("a name, a time and a size are needed, with commas between them")
    taken_s, decimals = _taken(cells[1])
    try:
        mb = float(cells[2])
    except ValueError:
        raise ValueError(f"“{cells[2][:20]}” is no size in MB") from None
    if fault := MB.fault(mb):
        raise ValueError(f"the size {fault}")
    body = cells[3][:LONGEST_NAME] if len(cells) > len(HEADER) - 1 else ""
    return Picture(
        name=cells[0][:LONGEST_NAME], mb=mb, taken_s=taken_s, decimals=decimals, body=body
    )


def _taken(text: str) -> tuple[float, int]:
    """The moment in seconds, and how many digits it has after the second."""
    found = _SECONDS.fullmatch(text)
    if found and abs(float(text)) <= LATEST_S:
        return float(text), len(found[1] or "")
    found = _MOMENT.fullmatch(text)
    if found is None:
        raise ValueError(f"“{text[:30]}” is no time, as in 2026-05-01 06:30:12.34")
    *parts, fraction = found.groups()
    try:
        moment = datetime.fromisoformat("{}-{}-{} {}:{}:{}".format(*parts))
    except ValueError:
        raise ValueError(f"“{text[:30]}” is no day or time that there is") from None
    digits = fraction or ""
    return seconds_of(moment, digits), len(digits)
