"""The outings of the sample account: the made-up day of the example, and the slalom to come."""

from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser
from django.dispatch import receiver

from accounts.sample_account import made
from engine.measurement.picture_table import read_pictures
from outings.day import DayReplay
from outings.example import example_table
from outings.models import Outing, OutingDay, OutingPeriod, OutingPlan
from outings.pictures import BodyPictures
from outings.presets import PRESETS
from setups.kit import Kit
from setups.pins import Pins
from setups.reader import read_query

SETUP = "body=varnholt-vx-3&format=lossless-raw&fps=20&to=single&card1=gravelock-tide-512-a"


@receiver(made)
def keep_outings(user: AbstractBaseUser, **_: Any) -> None:
    """Keeps them; nothing where the sample kit has no body to shoot it with."""
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
    day = DayReplay(reading, pictures, Pins.of([], kit))
    OutingDay.of(day, outing).save()
    slalom = PRESETS["slalom"]
    planned = Outing.objects.create(
        owner_id=user.pk, name=slalom.name, notes="two heats and finals"
    )
    plan = OutingPlan.objects.create(
        outing=planned, setup=day.setup_query, start=slalom.start, cards={"cards1": 2}
    )
    OutingPeriod.objects.bulk_create(
        OutingPeriod(plan=plan, number=number, **period)
        for number, period in enumerate(slalom.periods, 1)
    )
