"""What cards cost, for the screens of the kit, which know nothing of price lists otherwise."""

from collections.abc import Mapping, Sequence
from typing import Any

from django import template

from kit.models import Card
from prices.money import Priced, prices_of

register = template.Library()


@register.simple_tag(takes_context=True, name="prices_of")
def prices_of_cards(context: Mapping[str, Any], cards: Sequence[Card]) -> dict[int, Priced]:
    """What the visitor knows of the prices of `cards`, by their primary keys."""
    return prices_of(list(cards), context["user"])


@register.simple_tag(takes_context=True)
def price_of(context: Mapping[str, Any], card: Card) -> Priced:
    """What the visitor, or who shares the card with them, knows of the price of `card`."""
    return prices_of([card], context.get("priced_for") or context["user"])[card.pk]


@register.filter
def of(prices: Mapping[int, Priced], pk: int) -> Priced | None:
    """The prices of the card with that primary key."""
    return prices.get(pk)
