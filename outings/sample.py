"""The outing of the sample account: the made-up day of the example, shot with its own cards."""

from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser
from django.dispatch import receiver

from accounts.sample_account import made
from engine.measurement.picture_table import read_pictures
from outings.day import BodyPictures, DayReplay
from outings.example import example_table
from outings.models import Outing, ReplayedDay
from setups.kit import Kit
from setups.pins import Pins
from setups.reader import read_query

SETUP = "body=varnholt-vx-3&format=lossless-raw&fps=20&to=single&card1=gravelock-tide-512-a"


@receiver(made)
def keep_example(user: AbstractBaseUser, **_: Any) -> None:
    """Keeps it; nothing where the sample kit has no body to shoot it with."""
    kit = Kit.of(user)
    reading = read_query(SETUP, kit)
    if reading is None or not reading.setup.complete:
        return
    pictures = BodyPictures.of(read_pictures(example_table(reading.setup))).of_day
    outing = Outing.objects.create(
        owner_id=user.pk,
        name="Gannet cliffs, from the boat",
        notes="swell, light wind from the west",
    )
    ReplayedDay.of(DayReplay(reading, pictures, Pins.of([], kit)), outing).save()
