"""`manage.py load_sample_kit`: the invented bodies and cards to start from."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from kit import sample


class Command(BaseCommand):
    help = "Makes the sample kit what its file says; links to its items and all own items stay."

    def handle(self, **options: Any) -> None:
        try:
            counts = sample.load()
        except sample.BadKit as error:
            raise CommandError(str(error)) from error
        listed = ", ".join(f"{count} {kind}" for kind, count in counts.items())
        self.stdout.write(f"Sample kit: {listed}.")
