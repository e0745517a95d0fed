"""What shops ask for cards on which day, and what currencies are worth."""

from collections.abc import Iterable
from datetime import date
from typing import Any, Self

from django.db import models
from django.db.models import CheckConstraint, F, Q, UniqueConstraint

from engine.quantities import Range
from kit.constraints import iso_currency, within
from kit.models import Card, Owned, Visitor
from kit.models.shared import OwnedQuerySet, listed_once
from prices.amounts import CENTS, PRICE, amount

RATE = Range(0.000_001, 1_000_000, "of the other currency")


def key_of(maker: str, name: str) -> str:
    """By what an offer finds its cards, whatever their labels and capitals."""
    return f"{maker.strip()} {name.strip()}".casefold()


class PriceList(Owned):
    """What one shop asked on one day; without a shop, what somebody noted by hand."""

    shop = models.CharField(max_length=60, blank=True)
    on = models.DateField()

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["-on", "shop"]
        constraints = [
            listed_once("shop", "on", name="shop_has_one_list_a_day"),
        ]

    def __str__(self) -> str:
        return f"{self.shop or 'noted by hand'}, {self.on:%-d %b %Y}"


class OfferQuerySet(models.QuerySet["Offer"]):
    """Prices of cards."""

    def of(self, cards: Iterable[Card], visitor: Visitor, today: date) -> Self:
        """What the visitor knows of the prices of `cards` up to `today`, card by card.

        The price that rules comes first: the newest; of one day what the visitor noted by hand, and
        then the lowest.
        """
        lists = PriceList.objects.offered_to(visitor).filter(on__lte=today)
        offers = self.filter(
            card_key__in={key_of(card.maker, card.name) for card in cards}, price_list__in=lists
        )
        noted = Q(price_list__shop="") & ~Q(price_list__owner=None)
        return offers.annotate(noted=noted).order_by(
            "card_key", "-price_list__on", "-noted", "price", "pk"
        )

    def quotes(self) -> "models.QuerySet[Offer, tuple[Any, ...]]":
        """The key of the card, the price, its currency, day and shop."""
        return self.values_list(
            "card_key", "price", "currency", "price_list__on", "price_list__shop"
        )


class Offer(models.Model):
    """The price of a kind of card on a list; the card needs not be in anybody's kit.

    `card_key` is `key_of` of both names; `prices.lists.save`, which every price goes through, sets
    it.
    """

    price_list = models.ForeignKey(PriceList, models.CASCADE, related_name="offers")
    maker = models.CharField(max_length=40)
    name = models.CharField(max_length=40)
    card_key = models.CharField(max_length=81, editable=False, db_index=True)
    price = models.DecimalField(max_digits=10, decimal_places=2)
    currency = models.CharField(max_length=3)

    objects = OfferQuerySet.as_manager()

    class Meta:
        ordering = ["maker", "name"]
        constraints = [
            UniqueConstraint(fields=["price_list", "card_key"], name="card_has_one_price_a_list"),
            within("price", PRICE, name="offer_price_is_in_range"),
            iso_currency("currency", name="offer_currency_is_an_iso_code"),
        ]

    def __str__(self) -> str:
        return f"{self.maker} {self.name}: {amount(float(self.price) * CENTS, self.currency)}"


class ExchangeRate(Owned):
    """What 1 `currency` is worth in another one, on a day."""

    currency = models.CharField(max_length=3)
    against = models.CharField("in", max_length=3)
    rate = models.FloatField()
    on = models.DateField()

    objects = OwnedQuerySet.as_manager()

    class Meta:
        ordering = ["against", "currency"]
        constraints = [
            listed_once("currency", "against", name="rate_is_listed_once"),
            CheckConstraint(
                condition=~Q(currency=F("against")),
                name="rate_is_of_two_currencies",
                violation_error_code="same_currency",
                violation_error_message="A rate is between two currencies.",
            ),
            within("rate", RATE, name="rate_is_in_range"),
            iso_currency("currency", name="rate_currency_is_an_iso_code"),
            iso_currency("against", name="rate_against_is_an_iso_code"),
        ]

    def __str__(self) -> str:
        return f"1 {self.currency} = {self.rate:g} {self.against}"
