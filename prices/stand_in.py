"""A made-up price list that changes from day to day: what a price service would answer.

Prices follow those of the sample kit on waves of a year's length, one for each card, and fall a
little over time; in the last week of November some are a sixth lower. All of it is invented.
"""

import math
from collections.abc import Sequence
from datetime import date
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


def made_up_list(cards: Sequence[Card], on: date) -> dict[str, Any]:
    """The list of that day, of `cards` that have a price."""
    return {
        "shop": SHOP,
        "on": on.isoformat(),
        "prices": [
            {
                "maker": card.maker,
                "name": card.name,
                "price": made_up_price(card, on),
                "currency": card.currency,
            }
            for card in cards
            if card.price is not None
        ],
    }


def made_up_price(card: Card, on: date) -> float:
    """What the card costs on that day; the same whenever it is asked."""
    years = (on - BEGAN).days / DAYS_IN_YEAR
    own = crc32(card.slug.encode()) / 2**32
    price = float(card.price or 0) * (1 + WAVE * math.sin(2 * math.pi * (years + own)))
    price *= math.pow(1 - DECLINE, years - 1)
    if on.month == 11 and on.day >= 23 and own < 1 / 3:
        price *= 1 - SALE
    return round(price, 0 if price > ROUNDED_ABOVE else 1)
