"""`manage.py load_sample_prices`: a year of made-up prices of the sample kit, and rates."""

from typing import Any

from django.core.management.base import BaseCommand
from django.utils.timezone import localdate

from prices.sample import load


class Command(BaseCommand):
    help = "Puts a year of made-up prices and exchange rates in place of those of the sample."

    def handle(self, **options: Any) -> None:
        lists = load(localdate())
        self.stdout.write(f"Sample prices: {len(lists)} lists.")
