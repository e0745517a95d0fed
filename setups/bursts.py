"""What a body does with one card after another: the short answer beside each card of a list."""

from collections.abc import Iterable
from dataclasses import replace

from kit.models import Card
from setups.kit import Kit
from setups.prediction import Prediction, predict
from setups.setup import Setup, Side


def bursts_with(kit: Kit, setup: Setup, cards: Iterable[Card]) -> dict[int, Prediction]:
    """The burst of `setup` on each of `cards` alone that its body takes, by their primary keys.

    A card that doesn't go into slot 1 is alone in slot 2.
    """
    fits_of_slots = [(slot, kit.fits(slot)) for slot in setup.body.slots.all()]
    found = {}
    for card in cards:
        for slot, fits in fits_of_slots:
            if card.pk in fits and fits[card.pk].mounts:
                sides = (Side(slot=slot, card=card, fits=fits),)
                alone = replace(setup, sides=sides, arrangement=setup.body.single_arrangement)
                prediction = predict(alone)
                if prediction.result:  # else figures of the kit contradict each other
                    found[card.pk] = prediction
                break
    return found
