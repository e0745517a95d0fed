"""Prices to test with."""

from datetime import date

from kit.models import Card
from prices.lists import Usual, read_rows, save
from prices.models import Offer
from prices.stand_in import SHOP, usual_prices

NOV = date(2026, 11, 1)


def usual_list(on: date = NOV) -> None:
    """The cards of the sample kit at what they usually cost."""
    names = dict(Card.objects.filter(owner=None).values_list("slug", "pk"))
    cards = Card.objects.in_bulk(names.values())
    rows = [
        ("", {"maker": cards[names[slug]].maker, "name": cards[names[slug]].name, "price": price})
        for slug, price in usual_prices().items()
    ]
    save(read_rows(rows, Usual(SHOP, on, "EUR")), None)


def offer(card: Card, price: str, currency: str = "EUR", on: date = NOV) -> None:
    """One price of one card at a shop."""
    row = {"maker": card.maker, "name": card.name, "price": price}
    save(read_rows([("", row)], Usual("Weir", on, currency)), None)


def no_prices() -> None:
    """Nobody knows what anything costs."""
    Offer.objects.all().delete()
