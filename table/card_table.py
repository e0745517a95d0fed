"""One card in all the visitor's bodies and formats, beside the best of their other cards."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property

from kit.models import Body, Card, RecordingFormat
from setups import keys
from setups.kit import Kit
from setups.reader import Reading, read_address
from setups.setup import Setup, Side
from table.body_table import MOST_CELLS
from table.cells import Cell, Lead, as_good, axis_end_s, cell_of

LEAD = Lead.FULL_SPEED


@dataclass(frozen=True)
class Pair:
    """A format with the cell of the card, and that of the best other card that is owned, if any."""

    recording: RecordingFormat
    cell: Cell
    other: Cell | None

    @property
    def is_best(self) -> bool:
        """Whether the card does practically as well as the best of both."""
        return self.other is None or as_good(self.cell.value(LEAD), self._best, LEAD)

    @property
    def other_is_best(self) -> bool:
        """Whether the other card does."""
        return self.other is not None and as_good(self.other.value(LEAD), self._best, LEAD)

    @property
    def _best(self) -> float:
        return max(one.value(LEAD) for one in (self.cell, self.other) if one)


@dataclass(frozen=True)
class CardTable:
    """`card` alone in the first slot that takes it, in the visitor's bodies or the sample's."""

    card: Card
    kit: Kit

    @cached_property
    def _readings(self) -> list[Reading]:
        own = [body for body in self.kit.bodies if not body.is_sample]
        asked = (
            {keys.BODY: one.slug, keys.card(1): self.card.slug} for one in own or self.kit.bodies
        )
        readings = filter(None, (read_address(one, self.kit) for one in asked))
        return [one for one in readings if self._side(one)]

    @cached_property
    def groups(self) -> list[tuple[Body, list[Pair]]]:
        """The bodies that take the card, as many as MOST_CELLS allow, and one at least."""
        groups: list[tuple[Body, list[Pair]]] = []
        left = MOST_CELLS
        for reading in self._readings:
            left -= len(reading.setup.body.formats.all()) * (1 + len(self._others(reading)))
            if left < 0 and groups:
                break
            groups.append((reading.setup.body, list(self._pairs(reading))))
        return groups

    @property
    def left_out(self) -> int:
        """How many bodies are not shown, as there are too many."""
        return len(self._readings) - len(self.groups)

    @property
    def rows(self) -> list[tuple[Body, list[tuple[Pair, dict[str, float], dict[str, float]]]]]:
        """The same with the bars of both cells, all on one axis."""
        pairs = [pair for _, pairs in self.groups for pair in pairs]
        cells = [cell for pair in pairs for cell in (pair.cell, pair.other) if cell]
        end_s = axis_end_s(cells)
        return [
            (body, [(one, one.cell.bar(end_s), one.other.bar(end_s) if one.other else {})
                    for one in pairs])
            for body, pairs in self.groups
        ]  # fmt: skip

    def _others(self, reading: Reading) -> list[Card]:
        side = self._side(reading)
        cards = side.cards if side else ()
        return [one for one in cards if one != self.card and not one.is_sample]

    def _side(self, reading: Reading) -> Side | None:
        """The first slot that takes the card."""
        return next((one for one in reading.all_sides if self.card in one.cards), None)

    def _pairs(self, reading: Reading) -> Iterator[Pair]:
        sides = tuple(filter(None, [self._side(reading)]))
        usual = replace(
            reading.setup, sides=sides, arrangement=reading.setup.body.single_arrangement
        )
        for recording in usual.body.formats.all():
            setup = replace(usual, recording=recording)
            cell = _on_card(setup, self.card)
            found = [made for one in self._others(reading) if (made := _on_card(setup, one))]
            best = max(found, key=lambda made: made.value(LEAD), default=None)
            if cell:
                yield Pair(recording, cell, best)


def _on_card(setup: Setup, card: Card) -> Cell | None:
    """The cell of `setup` with `card` in its slot."""
    return cell_of(replace(setup, sides=(setup.sides[0].with_card(card),)))
