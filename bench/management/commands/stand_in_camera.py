"""A made-up camera's burst as files: pictures true to size, the sound, and what it hides."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.contrib.auth.models import AnonymousUser
from django.core.management.base import BaseCommand, CommandError

from bench.stand_in import StandIn, TooMuch
from engine import InvalidScenario
from engine.formats import figure
from engine.measurement.synthetic_camera import jpeg_of, shots
from setups.kit import Kit
from setups.reader import read_query


class Command(BaseCommand):
    """Shoots a set-up of the sample kit with a hidden body."""

    help = (
        "Shoots a set-up of the sample kit with a made-up body whose figures are hidden, and "
        "writes pictures (their padding takes no room on most disks) and the sound to a folder."
    )

    def add_arguments(self, parser: ArgumentParser) -> None:
        """The set-up as the Desk's address has it, the body's seed, and the folder."""
        parser.add_argument("setup", help="as in the Desk's address: body=pellow-wren-10&hold=8")
        parser.add_argument("folder", type=Path)
        parser.add_argument("--seed", type=int, default=1)
        parser.add_argument("--reveal", action="store_true", help="say what the body hides")

    def handle(self, *args: Any, **options: Any) -> None:
        """Writes them."""
        reading = read_query(options["setup"], Kit.of(AnonymousUser()))
        if reading is None or not reading.setup.complete:
            raise CommandError("The sample kit has no such set-up.")
        camera, folder = StandIn(reading.setup, options["seed"]), options["folder"]
        try:
            burst = camera.result
            folder.mkdir(parents=True, exist_ok=True)
            for shot in shots(burst, camera.seed):
                with (folder / shot.name).open("wb") as file:
                    file.write(jpeg_of(shot.moment, 0))
                    file.truncate(shot.size_bytes)
            (folder / "shutter.wav").write_bytes(camera.sound())
        except InvalidScenario as error:
            raise CommandError(f"The body can't shoot this: {error}.") from error
        except (TooMuch, OSError) as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{reading.setup.name}: {burst.frames} frames in {folder}.")
        if options["reveal"]:
            for one in camera.figures:
                self.stdout.write(f"{one.name}: {figure(one.value, one.unit)}")
