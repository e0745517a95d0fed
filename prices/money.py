"""What cards cost a visitor: the price lists are the only home of a price.

Prices in two currencies are compared and added up through noted rates alone.
"""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from functools import cached_property
from math import inf

from django.utils.timezone import localdate

from kit.models import Card, Visitor
from prices.amounts import CENTS, amount
from prices.models import ExchangeRate, Offer, key_of

USUAL_CURRENCY = "EUR"


@dataclass(frozen=True)
class Rates:
    """The rates that a visitor goes by, in both directions: their own before the sample's."""

    of_pair: Mapping[tuple[str, str], ExchangeRate]

    @classmethod
    def of(cls, visitor: Visitor) -> "Rates":
        """Those of `visitor`."""
        rows = ExchangeRate.objects.offered_to(visitor)
        # What comes later takes the place: the visitor's own, then what was noted last.
        ordered = sorted(rows, key=lambda row: (row.owner_id is not None, row.on, row.pk))
        pairs = {}
        for row in ordered:
            pairs[row.currency, row.against] = pairs[row.against, row.currency] = row
        return cls(pairs)

    def cents(self, price: Decimal, currency: str, wanted: str) -> int | None:
        """`price` in hundredths of `wanted`; None where no rate is noted, either way round."""
        factor = self._factor(currency, wanted)
        if factor is None:
            return None
        return int((price * factor * CENTS).to_integral_value(ROUND_HALF_UP))

    def rate(self, currency: str, wanted: str) -> ExchangeRate | None:
        """The row by which `currency` becomes `wanted`."""
        return self.of_pair.get((currency, wanted))

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
    """One price of a card: what, when, and in which shop; without one, noted by hand."""

    price: Decimal
    currency: str
    on: date
    shop: str

    def __str__(self) -> str:
        return f"{self.amount} {self.where}"

    @property
    def where(self) -> str:
        """In which shop and on which day."""
        where = f"at {self.shop}" if self.shop else "noted by hand"
        return f"{where}, {self.on:%-d %b %Y}"

    @property
    def amount(self) -> str:
        """The price in words."""
        return amount(float(self.price) * CENTS, self.currency)


@dataclass(frozen=True)
class Priced:
    """What a visitor knows of the price of a card, the oldest first; the last one rules."""

    history: Sequence[Quote] = field(default=())

    @property
    def now(self) -> Quote | None:
        """The price that rules."""
        return self.history[-1] if self.history else None

    @property
    def by_shop(self) -> list[Quote]:
        """The newest price of each shop, and of what was noted by hand."""
        newest = {quote.shop: quote for quote in self.history}
        return sorted(newest.values(), key=lambda quote: quote.on, reverse=True)

    @property
    def why(self) -> str:
        """Why this one rules where there are two of the same day; else empty."""
        if len(self.history) < 2 or self.history[-1].on != self.history[-2].on:
            return ""
        of_that_day = "what was noted by hand" if not self.history[-1].shop else "the lower price"
        return f"of two prices of one day, {of_that_day} rules"


def prices_of(cards: Sequence[Card], visitor: Visitor) -> dict[int, Priced]:
    """The prices of `cards` up to today by their primary key."""
    quotes: dict[str, list[Quote]] = defaultdict(list)
    for card_key, *quote in Offer.objects.of(cards, visitor, localdate()).quotes():
        quotes[card_key].append(Quote(*quote))
    return {card.pk: Priced(quotes[key_of(card.maker, card.name)][::-1]) for card in cards}


class Costs:
    """What cards cost a visitor, all in one currency; asked of the database when it is needed.

    What one owns costs nothing; a second piece of it has to be bought.
    """

    def __init__(self, visitor: Visitor, currency: str = USUAL_CURRENCY) -> None:
        self.visitor, self.currency = visitor, currency
        self._quotes: dict[str, Quote | None] = {}

    @cached_property
    def rates(self) -> Rates:
        """What other currencies count."""
        return Rates.of(self.visitor)

    def look_up(self, cards: Iterable[Card]) -> None:
        """Fetches the prices of `cards` at once."""
        unknown = [card for card in cards if key_of(card.maker, card.name) not in self._quotes]
        if not unknown:
            return
        newest = Offer.objects.of(unknown, self.visitor, localdate()).distinct("card_key")
        quotes: dict[str, Quote | None] = {key_of(card.maker, card.name): None for card in unknown}
        quotes |= {card_key: Quote(*quote) for card_key, *quote in newest.quotes()}
        self._quotes |= quotes  # at once, as several requests may ask

    def quote(self, card: Card) -> Quote | None:
        """The price that rules; None: not known."""
        key = key_of(card.maker, card.name)
        if key not in self._quotes:
            self.look_up([card])
        return self._quotes[key]

    def cents(self, card: Card, pieces: int = 1) -> int | None:
        """What has to be paid for so many pieces of `card`; None: not known, or not in a rate."""
        to_buy = self._to_buy(card, pieces)
        if not to_buy:
            return 0
        quote = self.quote(card)
        each = self.rates.cents(quote.price, quote.currency, self.currency) if quote else None
        return None if each is None else to_buy * each

    def rank(self, card: Card, pieces: int = 1) -> float:
        """The same for putting in order: what is not known comes last."""
        cents = self.cents(card, pieces)
        return inf if cents is None else cents

    def words(self, card: Card, pieces: int = 1) -> str:
        """What has to be paid in words, in the currency of the price."""
        to_buy = self._to_buy(card, pieces)
        if not to_buy:
            return "yours"
        quote = self.quote(card)
        if quote is None:
            return "price not known"
        return str(Quote(to_buy * quote.price, quote.currency, quote.on, quote.shop))

    def _to_buy(self, card: Card, pieces: int) -> int:
        return pieces - 1 if card.is_owned else pieces
