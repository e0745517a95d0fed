"""What a body does with one card after another: the short answer beside each card of a list."""

from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cached_property

from engine import InvalidScenario, Result
from engine.burst.bottleneck import Bottleneck
from engine.burst.simulate import simulate
from kit.models import Card
from setups.engine_adapter import scenario_of
from setups.kit import Kit
from setups.setup import Setup, Side


@dataclass(frozen=True)
class CardBurst:
    """A burst on one card alone, everything else as the body usually shoots."""

    card: Card
    setup: Setup
    result: Result

    @property
    def slot_alone(self) -> int | None:
        """The slot, if it is not the first: the burst is then with slot 1 left empty."""
        return self.setup.slot_alone

    @property
    def query(self) -> str:
        """Where it opens on the Desk; empty: nowhere."""
        return self.setup.desk_query

    @cached_property
    def sustained_fps(self) -> float | None:
        """Frames a second once the buffer is full; None: as fast as before."""
        return Bottleneck(self.result).sustained_fps


def bursts_with(kit: Kit, setup: Setup, cards: Iterable[Card]) -> dict[int, CardBurst]:
    """The burst of `setup` on each of `cards` that its body takes, by their primary keys."""
    single = setup.body.single_arrangement
    fits_of_slots = [(slot, kit.fits(slot)) for slot in setup.body.slots.all()]
    found = {}
    for card in cards:
        for slot, fits in fits_of_slots:
            if card.pk in fits and fits[card.pk].mounts:
                sides = (Side(slot=slot, card=card, fits=fits),)
                alone = replace(setup, sides=sides, arrangement=single)
                with suppress(InvalidScenario):  # figures of the kit that contradict each other
                    found[card.pk] = CardBurst(card, alone, simulate(scenario_of(alone)))
                break
    return found
