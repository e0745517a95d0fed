"""Which column of a table of pictures is which, by the names that programs give it.

They name columns after the EXIF standard's tags; of what else is in such a table, places and serial
numbers among it, nothing is looked at.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache


class PictureColumn(StrEnum):
    """What is wanted of a picture."""

    NAME = "name"
    TIME = "time"
    FRACTION = "digits after the second"
    SIZE = "size"
    BODY = "body"
    MAKER = "maker"


# Of several the first that is there.
NAMES_OF_COLUMN: Mapping[PictureColumn, Sequence[str]] = {
    PictureColumn.NAME: ("name", "filename", "file", "sourcefile", "path"),
    PictureColumn.TIME: (
        "time", "takens", "subsecdatetimeoriginal", "datetimeoriginal", "capturetime",
        "subseccreatedate", "createdate", "datetimedigitized",
    ),
    PictureColumn.FRACTION: ("subsectimeoriginal", "subsectime", "subsectimedigitized"),
    PictureColumn.SIZE: ("mb", "sizemb", "filesizemb", "filesize", "size", "bytes", "sizebytes"),
    PictureColumn.BODY: ("body", "model", "camera", "cameramodel", "cameramodelname"),
    PictureColumn.MAKER: ("make", "maker"),
}  # fmt: skip
NEEDED = {PictureColumn.TIME: "a time", PictureColumn.SIZE: "a size"}
LONGEST_HEADING = 100
_GROUP = re.compile(r"\[[^\]]*\]|.*:")  # before the name of a tag, as in "EXIF:Model"


class NoColumn(ValueError):
    """Headings that lack a column, in words."""


@dataclass(frozen=True)
class PictureColumns:
    """The place of each column, -1 where it isn't there.

    `counts_bytes` tells that sizes without a unit are bytes, not MB.
    """

    places: Sequence[int]
    counts_bytes: bool

    @classmethod
    def of(cls, headings: Sequence[str]) -> "PictureColumns":
        """Those that a table has by its headings. Raises :class:`NoColumn`."""
        plain = [plain_heading(heading) for heading in headings]
        found = {
            column: next((plain.index(name) for name in names if name in plain), -1)
            for column, names in NAMES_OF_COLUMN.items()
        }
        lacking = [words for column, words in NEEDED.items() if found[column] < 0]
        if lacking:
            raise NoColumn(f"no column has {' or '.join(lacking)} by its heading")
        counts_bytes = not plain[found[PictureColumn.SIZE]].endswith("mb")
        return cls([found[column] for column in PictureColumn], counts_bytes)

    def values_of(self, cells: Sequence[str]) -> list[str]:
        """What a line has of each column, in their order; nothing where the cell isn't there."""
        return [cells[place].strip() if 0 <= place < len(cells) else "" for place in self.places]


def are_headings(cells: Sequence[str]) -> bool:
    """Whether a line names columns: one of them is that of times."""
    return any(plain_heading(cell) in NAMES_OF_COLUMN[PictureColumn.TIME] for cell in cells)


def is_wanted(heading: str) -> bool:
    """Whether it is that of a column that is read."""
    return any(plain_heading(heading) in names for names in NAMES_OF_COLUMN.values())


@lru_cache(maxsize=1_000)
def plain_heading(heading: str) -> str:
    """A heading as it is compared: without the group of a tag, in small letters."""
    bare = _GROUP.sub("", heading[:LONGEST_HEADING])
    return re.sub(r"[\W_]", "", bare).casefold()
