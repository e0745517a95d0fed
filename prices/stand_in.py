"""A made-up price list that changes from day to day: what a price service would answer.

Prices follow those of the sample kit on waves of a year's length, one for each card, and fall a
little over time; in the last week of November some are a sixth lower. All of it is invented.
"""

import math
import tomllib
from collections.abc import Sequence
from datetime import date
from functools import cache
from pathlib import Path
from typing import Any
from zlib import crc32

from kit.models import Card

SHOP = "Skerry Head Photo"
BEGAN = date(2025, 1, 1)
WAVE = 0.09  # of the price, up and down in a year
DECLINE = 0.08  # a year
SALE = 1 / 6
DAYS_IN_YEAR = 365.25
ROUNDED_ABOVE = 20  # prices above this end in whole units
SAMPLE_FILE = Path(__file__).parent / "sample.toml"
CURRENCY = "EUR"


@cache
def usual_prices() -> dict[str, float]:
    """What the cards of the sample kit usually cost, by their slugs."""
    prices: dict[str, float] = tomllib.loads(SAMPLE_FILE.read_text(encoding="utf-8"))["prices"]
    return prices


def made_up_list(cards: Sequence[Card], on: date) -> dict[str, Any]:
    """The list of that day, of those of `cards` that the sample has a price for."""
    prices = usual_prices()
    return {
        "shop": SHOP,
        "on": on.isoformat(),
        "prices": [
            {
                "maker": card.maker,
                "name": card.name,
                "price": made_up_price(card.slug, prices[card.slug], on),
                "currency": CURRENCY,
            }
            for card in cards
            if card.slug in prices
        ],
    }


def made_up_price(slug: str, usual: float, on: date) -> float:
    """What a card that usually costs `usual` costs on that day; the same whenever it is asked."""
    years = (on - BEGAN).days / DAYS_IN_YEAR
    own = crc32(slug.encode()) / 2**32
    price = usual * (1 + WAVE * math.sin(2 * math.pi * (years + own)))
    price *= math.pow(1 - DECLINE, years - 1)
    if on.month == 11 and on.day >= 23 and own < 1 / 3:
        price *= 1 - SALE
    return round(price, 0 if price > ROUNDED_ABOVE else 1)
