"""The prices of the sample: a year of the made-up list, once a month, and made-up rates."""

from datetime import date, timedelta

from django.db import transaction

from kit.models import Card
from prices.lists import Usual, read_rows, save
from prices.models import ExchangeRate, PriceList
from prices.stand_in import SHOP, made_up_list

MONTHS = 12
DAYS_IN_MONTH = 30
RATES = {("GBP", "EUR"): 1.2, ("USD", "EUR"): 0.9}


@transaction.atomic
def load(today: date) -> list[PriceList]:
    """Replaces the lists and rates of the sample by those of the year up to `today`."""
    PriceList.objects.filter(owner=None).delete()
    ExchangeRate.objects.filter(owner=None).delete()
    cards = list(Card.objects.of_sample_kit())
    lists = []
    for months in range(MONTHS, -1, -1):
        on = today - timedelta(days=months * DAYS_IN_MONTH)
        rows = [("", row) for row in made_up_list(cards, on)["prices"]]
        lists += save(read_rows(rows, Usual(SHOP, on, "EUR")), None) if rows else []
    ExchangeRate.objects.bulk_create(
        ExchangeRate(currency=currency, against=against, rate=rate, on=today)
        for (currency, against), rate in RATES.items()
    )
    return lists
