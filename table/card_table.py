"""One card in all the visitor's bodies and formats, beside the best of their other cards."""

import time
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import islice

from kit.models import Body, Card, RecordingFormat
from setups import keys
from setups.kit import Kit
from setups.reader import Reading, read_address
from setups.setup import Side
from table.cells import Cell, Lead, as_good, axis_end_s, cells_of

LEAD = Lead.FULL_SPEED
WORK_S = 1.0  # of bodies within a request; the rest are left out, and said to be
MOST_OTHERS = 100  # cards of one slot, the fastest, that the best one is looked for among


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
    def _bodies(self) -> list[Body]:
        own = [body for body in self.kit.bodies if not body.is_sample]
        return own or self.kit.bodies

    @cached_property
    def _shown(self) -> tuple[list[tuple[Body, list[Pair]]], int]:
        """The bodies that take the card, as many as are ready within WORK_S, and how many are left.

        One at least.
        """
        groups: list[tuple[Body, list[Pair]]] = []
        until = time.monotonic() + WORK_S
        for place, body in enumerate(self._bodies):
            if groups and time.monotonic() > until:
                return groups, len(self._bodies) - place
            reading = read_address({keys.BODY: body.slug, keys.card(1): self.card.slug}, self.kit)
            if reading and self._side(reading):
                groups.append((body, list(self._pairs(reading))))
        return groups, 0

    @property
    def groups(self) -> list[tuple[Body, list[Pair]]]:
        """The bodies that are shown, each with its formats."""
        return self._shown[0]

    @property
    def left_out(self) -> int:
        """How many bodies are not shown, as there are too many."""
        return self._shown[1]

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

    def _others(self, side: Side) -> list[Card]:
        """The visitor's other cards for the slot; of very many the fastest ones."""
        cards = [one for one in side.cards if one != self.card and not one.is_sample]
        return sorted(cards, key=side.usable_mb_s, reverse=True)[:MOST_OTHERS]

    def _side(self, reading: Reading) -> Side | None:
        """The first slot that takes the card."""
        return next((one for one in reading.all_sides if self.card in one.cards), None)

    def _pairs(self, reading: Reading) -> Iterator[Pair]:
        side = self._side(reading)
        if side is None:
            return
        cards = [self.card, *self._others(side)]
        sides = [(side.with_card(card),) for card in cards]
        alone, recordings = reading.setup.body.single_arrangement, reading.setup.body.formats.all()
        found = iter(
            cells_of(
                replace(reading.setup, sides=one, arrangement=alone, recording=recording)
                for recording in recordings
                for one in sides
            )
        )
        for recording in recordings:
            cell, *others = islice(found, len(cards))
            best = max(filter(None, others), key=lambda made: made.value(LEAD), default=None)
            if cell:
                yield Pair(recording, cell, best)
