"""What cards cost, for the screens of the kit, which know nothing of price lists otherwise."""

from collections.abc import Callable

from kit.models import Card
from kit.models.shared import Visitor
from prices.money import Priced, prices_of


def price_of(card: Card, visitor: Visitor) -> Priced:
    """What `visitor` knows of the price of `card`."""
    return prices_of([card], visitor)[card.pk]


FUNCTIONS = {"prices_of": prices_of, "price_of": price_of}
FILTERS: dict[str, Callable[..., str]] = {}
