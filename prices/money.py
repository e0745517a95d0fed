"""What cards cost a visitor, in one currency: never added up where a rate is missing."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import ROUND_HALF_UP, Decimal

from kit.models import Card, Visitor
from prices.models import ExchangeRate, Offer, key_of

CENTS = 100
LONG_AGO = date.min


@dataclass(frozen=True)
class Rates:
    """The rates that a visitor goes by: their own before those of the sample."""

    of_pair: Mapping[tuple[str, str], ExchangeRate]

    @classmethod
    def of(cls, visitor: Visitor) -> "Rates":
        """Those of `visitor`."""
        rows = ExchangeRate.objects.visible_to(visitor)
        # The visitor's own come last and take the place of the sample's.
        ordered = sorted(rows, key=lambda row: row.owner_id is not None)
        return cls({(row.currency, row.against): row for row in ordered})

    def cents(self, price: Decimal, currency: str, wanted: str) -> int | None:
        """`price` in hundredths of `wanted`; None where no rate is noted, either way round."""
        factor = self._factor(currency, wanted)
        if factor is None:
            return None
        return int((price * factor * CENTS).to_integral_value(ROUND_HALF_UP))

    def rate(self, currency: str, wanted: str) -> ExchangeRate | None:
        """The row by which `currency` becomes `wanted`."""
        return self.of_pair.get((currency, wanted)) or self.of_pair.get((wanted, currency))

    def _factor(self, currency: str, wanted: str) -> Decimal | None:
        if currency == wanted:
            return Decimal(1)
        row = self.rate(currency, wanted)
        if row is None:
            return None
        rate = Decimal(str(row.rate))
        return rate if row.currency == currency else 1 / rate


@dataclass(frozen=True)
class Quote:
    """One price of a card: what, when, and whose it is."""

    price: Decimal
    currency: str
    on: date | None
    shop: str
    own: bool = False


@dataclass(frozen=True)
class Priced:
    """What a visitor knows of the price of a card, the oldest first; the last one holds."""

    history: Sequence[Quote] = field(default=())

    @property
    def now(self) -> Quote | None:
        """The price that holds."""
        return self.history[-1] if self.history else None


def prices_of(cards: Sequence[Card], visitor: Visitor) -> dict[int, Priced]:
    """The prices of `cards` by their primary key.

    Of two of one day the one noted by hand holds, or else the lower. What is written on the card
    itself counts as of the day that it was seen on, and without a day as the oldest.
    """
    offers: dict[str, list[Quote]] = defaultdict(list)
    for offer in Offer.objects.of(list(cards), visitor):
        of_list = offer.price_list
        offers[offer.card_key].append(
            Quote(offer.price, offer.currency, of_list.on, of_list.shop, bool(of_list.owner_id))
        )
    return {card.pk: _priced(card, offers[key_of(card.maker, card.name)]) for card in cards}


def _priced(card: Card, offers: Iterable[Quote]) -> Priced:
    quotes = list(offers)
    if card.price is not None:
        quotes.append(Quote(card.price, card.currency, card.priced_on, ""))
    return Priced(
        sorted(quotes, key=lambda one: (one.on or LONG_AGO, one.own and not one.shop, -one.price))
    )
