"""Amounts of money: as people type them ("£170", "170 EUR", "1.700,50"), and in words."""

import re
from decimal import Decimal

from engine.formats import money
from engine.quantities import Range
from engine.typed_numbers import NotANumber, number_in

PRICE = Range(0, 10_000_000, "in its currency")  # a million yen are some thousand euros
CENTS = 100
CODE_OF_SYMBOL = {"€": "EUR", "£": "GBP", "$": "USD", "¥": "JPY"}
_MONEY = rf"[A-Za-z]{{3}}|[{''.join(CODE_OF_SYMBOL)}]"
_PRICE = re.compile(rf"({_MONEY})?\s*([^A-Za-z]*?)\s*({_MONEY})?")
CENT = Decimal("0.01")


def amount(cents: float, currency: str) -> str:
    """An amount of so many hundredths in words; cents only where there are some."""
    return money(cents / CENTS, currency)


def price_in(text: str) -> tuple[Decimal, str]:
    """The price in `text` and the currency that it names, or an empty text.

    Raises :class:`NotANumber`, also for what is below zero or beyond any price.
    """
    found = _PRICE.fullmatch(text.strip())
    before, number, after = found.groups() if found else (None, text, None)
    if before and after:
        raise NotANumber(f"“{text[:40]}” names two currencies.")
    price = number_in(number or text)
    if fault := PRICE.fault(float(price)):
        raise NotANumber(f"A price {fault}.")
    said = (before or after or "").upper()
    return price.quantize(CENT), CODE_OF_SYMBOL.get(said, said)
