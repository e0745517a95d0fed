"""What cards cost, for the screens of the kit, which know nothing of price lists otherwise."""

from collections.abc import Mapping, Sequence

from kit.models import Card
from kit.models.shared import Visitor
from prices.money import Priced, prices_of


def prices_of_cards(cards: Sequence[Card], visitor: Visitor) -> dict[int, Priced]:
    """What `visitor` knows of the prices of `cards`, by their primary keys."""
    return prices_of(list(cards), visitor)


def price_of(card: Card, visitor: Visitor) -> Priced:
    """What `visitor` knows of the price of `card`."""
    return prices_of([card], visitor)[card.pk]


def of(prices: Mapping[int, Priced], pk: int) -> Priced | None:
    """The prices of the card with that primary key."""
    return prices.get(pk)


FUNCTIONS = {"prices_of": prices_of_cards, "price_of": price_of}
FILTERS = {"of": of}
