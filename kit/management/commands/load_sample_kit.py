"""`manage.py load_sample_kit [--reset]`: the invented bodies and cards to start from."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from kit import sample
from kit.models import Body


class Command(BaseCommand):
    help = "Loads the sample kit into an empty database; with --reset, in place of what is there."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--reset", action="store_true", help="replace what is there")

    def handle(self, *, reset: bool, **options: Any) -> None:
        if not reset and Body.objects.filter(owner=None).exists():
            return
        try:
            counts = sample.load()
        except sample.BadKit as error:
            raise CommandError(str(error)) from error
        listed = ", ".join(f"{count} {kind}" for kind, count in counts.items())
        self.stdout.write(f"Sample kit: {listed}.")
