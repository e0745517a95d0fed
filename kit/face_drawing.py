"""A card's face, drawn: an outline of our own, and the marks placed on it."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from engine.cards.label.parser import LabelMark, LabelReading
from engine.cards.standards import SIZE_MM, Form

MOST_DRAWN = 16  # marks on a face; a shop's line has about ten
MARGIN = 18
GAP = 8
WIDTH_OF_LETTER = 0.58  # of the size of type, about the mean of our typeface in capitals
PADDING = 14
HIGH, WIDE = (270, 340), (360, 270)

# From top to bottom: the kinds of marks in a row of the face, and the size of their type.
_ROWS: tuple[tuple[tuple[str, ...], int], ...] = (
    (("form", "version", "Express", "PCIe", "bus"), 19),
    (("speed", "first", "times"), 15),
    (("class", "guarantee", "application", "adapter", "pack"), 17),
    (("capacity",), 34),
)


@dataclass(frozen=True)
class PlacedMark:
    """A mark on the face: its number in the list beside it, its box and its size of type."""

    number: int
    mark: LabelMark
    x: float
    y: float
    width: float
    height: float
    size: int

    @property
    def baseline(self) -> float:
        return self.y + self.height * 0.74

    @property
    def middle(self) -> float:
        return self.x + self.width / 2


@dataclass(frozen=True)
class FaceDrawing:
    """The face: outline, where the maker and name stand, and the marks."""

    width: int
    height: int
    outline: str
    title: str
    title_y: float
    marks: Sequence[PlacedMark]

    @property
    def margin(self) -> int:
        return MARGIN


def draw_face(reading: LabelReading, title: str) -> FaceDrawing:
    """The face that `reading` tells of, with `title` as the maker would print it."""
    form = reading.face.form
    width, height = _size(form)
    drawn = list(enumerate(reading.marks[:MOST_DRAWN], start=1))
    rows = [list(_lines(_of_kinds(drawn, kinds), size, width)) for kinds, size in _ROWS]
    placed: list[PlacedMark] = []
    y = float(MARGIN)
    title_y = 0.0
    for row, (_, size) in zip(rows, _ROWS, strict=True):
        if size == _ROWS[-1][1]:  # the capacity stands at the foot
            y = max(y, height - MARGIN - len(row) * _height(size) - (len(row) - 1) * GAP)
        for line in row:
            placed += [_place(number, mark, x, y, size) for number, mark, x in line]
            y += _height(size) + GAP
        if not title_y:
            title_y = y + 24
            y += 40
    lowest = max((one.y + one.height for one in placed), default=0.0)
    height = max(height, int(lowest + MARGIN))
    return FaceDrawing(width, height, _outline(form, width, height), title[:28], title_y, placed)


def _size(form: Form | None) -> tuple[int, int]:
    """Upright or lying, as the card of this form is; upright where the form isn't known."""
    wide_mm, high_mm = SIZE_MM[form or Form.SD]
    return WIDE if wide_mm > high_mm else HIGH


_Numbered = tuple[int, LabelMark]


def _of_kinds(marks: Iterable[_Numbered], kinds: Sequence[str]) -> list[_Numbered]:
    return [(number, mark) for number, mark in marks if mark.kind.split()[0] in kinds]


def _lines(
    marks: Iterable[_Numbered], size: int, width: int
) -> Iterator[list[tuple[int, LabelMark, float]]]:
    """The marks, each with its x, in as many lines as they need."""
    line: list[tuple[int, LabelMark, float]] = []
    x = float(MARGIN)
    for number, mark in marks:
        if line and x + _width(mark, size) > width - MARGIN:
            yield line
            line, x = [], float(MARGIN)
        line.append((number, mark, x))
        x += _width(mark, size) + GAP
    if line:
        yield line


def _place(number: int, mark: LabelMark, x: float, y: float, size: int) -> PlacedMark:
    return PlacedMark(number, mark, x, y, _width(mark, size), _height(size), size)


def _width(mark: LabelMark, size: int) -> float:
    return len(mark.text) * size * WIDTH_OF_LETTER + PADDING


def _height(size: int) -> float:
    return size * 1.35


def _outline(form: Form | None, width: int, height: int) -> str:
    """SD cards have a corner cut off, microSD a notch below it; the others are plain."""
    if form is Form.SD:
        return f"M1 1H{width - 40}L{width - 1} 40V{height - 1}H1Z"
    if form is Form.MICRO_SD:
        return (
            f"M1 1H{width - 60}L{width - 30} 40V70H{width - 40}V90H{width - 30}L{width - 1} 120"
            f"V{height - 1}H1Z"
        )
    return f"M1 1H{width - 1}V{height - 1}H1Z"
