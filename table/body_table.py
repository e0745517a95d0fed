"""Every combination of one body: formats and rates against cards and pairs of them."""

import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from itertools import chain, product
from operator import attrgetter
from urllib.parse import parse_qsl

from more_itertools import constrained_batches

from engine.uncertainty.intervals import Confidence, draws_of
from kit.models import Card, FrameRate, RecordingFormat, SlotArrangement
from setups.kit import Kit
from setups.reader import Reading, read_address
from setups.setup import Setup, Side
from table.cells import Cell, Lead, as_good, axis_end_s, cells_of, work_out_ranges

LEAD, RATES, WAYS, ALL = "lead", "rates", "ways", "all"  # keys of its address

WORK_S = 0.4  # of ranges within a request; further rows come in pieces
FRAMES_AT_ONCE = 3_000_000  # in all draws of some rows, whose ranges are worked out together
MOST_COLUMNS = 100  # so that the ranges of a row are worked out within a request
MOST_CELLS = 2_400  # and MOST_FRAMES of all their bursts, so that they are sorted at once
MOST_FRAMES = 5_000_000


@dataclass(frozen=True)
class Column:
    """The card of slot 1, with that of slot 2 where the arrangement uses both."""

    arrangement: SlotArrangement | None
    sides: tuple[Side, ...]

    @property
    def card(self) -> Card:
        """The card in slot 1."""
        return self.sides[0].fitted

    @property
    def usable_mb_s(self) -> float:
        """What the card in slot 1 writes there."""
        return self.sides[0].usable_mb_s(self.card)

    @property
    def is_own(self) -> bool:
        """Whether nothing in it has to be bought: it is all the visitor's."""
        return not any(side.fitted.is_sample for side in self.sides)

    @property
    def whose(self) -> str:
        """The kit that its cards are of; of two kits the one that is not the visitor's."""
        cards = [side.fitted for side in self.sides]
        return min(cards, key=lambda card: not card.is_sample).whose


@dataclass(frozen=True)
class ShownCell:
    """A cell as it stands in its row."""

    cell: Cell | None
    is_current: bool
    is_as_good: bool
    bar: dict[str, float]


@dataclass(frozen=True)
class TableRow:
    """A format at a frame rate, and its cells in the order of the columns."""

    recording: RecordingFormat
    rate: FrameRate
    cells: list[Cell | None]

    @property
    def frames_to_draw(self) -> int:
        """Frames in all draws of the cells whose ranges are not worked out yet."""
        due = [cell.frames_due for cell in self.cells if cell and not cell.has_ranges]
        return sum(one * draws_of(one) for one in due)


@dataclass(frozen=True)
class BodyTable:
    """The table of the set-up in `reading`, sorted by `lead`.

    Rows are formats at the rate of the set-up, or `with_rates` at each; columns the cards in its
    arrangement, or `with_arrangements` in each.
    """

    reading: Reading
    lead: Lead
    with_rates: bool
    with_arrangements: bool

    @cached_property
    def _ways(self) -> Sequence[SlotArrangement | None]:
        """The arrangements that are shown; None in a body with one slot."""
        body, usual = self.reading.setup.body, self.reading.setup.arrangement
        return list(body.arrangements.all()) if self.with_arrangements and usual else [usual]

    @cached_property
    def _rates(self) -> list[FrameRate]:
        setup = self.reading.setup
        return list(setup.body.rate_of_fps.values()) if self.with_rates else [setup.rate]

    @cached_property
    def _columns(self) -> list[Column]:
        """As many columns as can be sorted at once: what is owned, then the fastest cards."""
        columns = [Column(way, sides) for way in self._ways for sides in self._sides(way)]
        columns.sort(key=lambda column: (not column.is_own, -column.usable_mb_s))
        return columns[: self._most_columns]

    @property
    def _most_columns(self) -> int:
        rows = len(self.reading.setup.body.formats.all()) * len(self._rates)
        due = self.reading.setup.hold_s * max(rate.fps for rate in self._rates)
        return max(1, min(MOST_COLUMNS, MOST_CELLS // rows, int(MOST_FRAMES / due / rows)))

    @cached_property
    def left_out(self) -> int:
        """How many columns are not shown, as there are too many."""
        return sum(1 for way in self._ways for _ in self._sides(way)) - len(self._columns)

    def _sides(self, arrangement: SlotArrangement | None) -> Iterator[tuple[Side, ...]]:
        """Each card in slot 1, with the set-up's card in slot 2 where both are written to."""
        first, *others = self.reading.all_sides
        both = arrangement is not None and arrangement.arrangement.slots_used > 1
        second = [side for side in others if side.card] if both else []
        if both and not second:
            return
        for card in first.cards:
            kept = card == first.card
            yield (first if kept else first.with_card(card), *second)

    @cached_property
    def _unsorted(self) -> list[TableRow]:
        rows = list(product(self.reading.setup.body.formats.all(), self._rates))
        asked = [
            self._setup(recording, rate, column)
            for (recording, rate), column in product(rows, self._columns)
        ]
        found = iter(cells_of(filter(None, asked)))
        cells = [next(found) if setup else None for setup in asked]
        width = len(self._columns)
        return [
            TableRow(recording, rate, cells[number * width :][:width])
            for number, (recording, rate) in enumerate(rows)
        ]

    def _setup(self, recording: RecordingFormat, rate: FrameRate, column: Column) -> Setup | None:
        """None: the arrangement doesn't take the format."""
        if column.arrangement and not column.arrangement.takes(recording):
            return None
        return replace(
            self.reading.setup,
            recording=recording,
            rate=rate,
            sides=column.sides,
            arrangement=column.arrangement,
        )

    def _value(self, cell: Cell | None) -> float:
        return float("-inf") if cell is None else cell.value(self.lead)

    @cached_property
    def _order(self) -> list[int]:
        """The columns, the visitor's own first, then by the lead over all rows."""
        totals = [
            sorted((self._value(row.cells[place]) for row in self._unsorted), reverse=True)
            for place in range(len(self._columns))
        ]
        return sorted(
            range(len(self._columns)),
            key=lambda place: (not self._columns[place].is_own, [-one for one in totals[place]]),
        )

    @property
    def columns(self) -> list[Column]:
        """The columns as they are shown."""
        return [self._columns[place] for place in self._order]

    @cached_property
    def rows(self) -> list[TableRow]:
        """The rows as they are shown: what leads in the best cell first."""
        sorted_rows = sorted(
            self._unsorted,
            key=lambda row: sorted(-self._value(cell) for cell in row.cells),
        )
        return [replace(row, cells=[row.cells[p] for p in self._order]) for row in sorted_rows]

    @property
    def frames_to_draw(self) -> int:
        """Frames in all draws of all cells whose ranges are not worked out yet."""
        return sum(row.frames_to_draw for row in self._unsorted)

    @property
    def ranges(self) -> list[Confidence]:
        """Those of all cells, once they are worked out."""
        return [cell.ranges for cell in self.cells]

    def take_ranges(self, ranges: Sequence[Confidence]) -> None:
        """Has the ranges of all cells, as they were worked out elsewhere."""
        for cell, found in zip(self.cells, ranges, strict=True):
            cell.take_ranges(found)

    @cached_property
    def end_s(self) -> float:
        """The end of the axis that all bars share."""
        return axis_end_s(self.cells)

    @property
    def cells(self) -> Iterator[Cell]:
        """All its cells."""
        return (cell for row in self._unsorted for cell in row.cells if cell)

    def batches(self, start: int = 0) -> Iterator[Sequence[TableRow]]:
        """The rows from `start` on with their ranges, some at a time as they are worked out."""
        rows, frames = self.rows[start:], attrgetter("frames_to_draw")
        for some in constrained_batches(rows, FRAMES_AT_ONCE, get_len=frames, strict=False):
            work_out_ranges(chain.from_iterable(row.cells for row in some))
            yield some

    def pieces(self, start: int) -> Iterator[tuple[TableRow, list[ShownCell]]]:
        """The rows from `start` on that are ready within WORK_S, one at least."""
        until = time.monotonic() + WORK_S
        for rows in self.batches(start):
            for row in rows:
                yield row, [self._shown(row, cell) for cell in row.cells]
            if time.monotonic() > until:
                return

    def _shown(self, row: TableRow, cell: Cell | None) -> ShownCell:
        if cell is None:
            return ShownCell(None, is_current=False, is_as_good=False, bar={})
        best = max(map(self._value, row.cells))
        is_best = as_good(self._value(cell), best, self.lead)
        is_current = cell.setup.address == self.reading.setup.address
        return ShownCell(cell, is_current, is_best, cell.bar(self.end_s))


@lru_cache(maxsize=2)  # the pieces of a table come in requests of their own
def table_of(kit: Kit, query: str) -> BodyTable | None:
    """The table in the query of an address, while nothing of the kit changes; None: no body."""
    asked = dict(parse_qsl(query))
    reading = read_address(asked, kit)
    if reading is None:
        return None
    lead = asked.get(LEAD, "")
    return BodyTable(
        reading,
        Lead(lead) if lead in list(Lead) else Lead.FULL_SPEED,
        with_rates=asked.get(RATES) == ALL,
        with_arrangements=asked.get(WAYS) == ALL,
    )
