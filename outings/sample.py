"""The outings of the sample account: the made-up day of the example, and the slalom to come."""

from datetime import date, datetime
from typing import Any
from uuid import uuid4

from django.contrib.auth.base_user import AbstractBaseUser
from django.dispatch import receiver

from accounts.sample_account import made
from engine.measurement.capture_times import seconds_of
from engine.measurement.picture_table import read_pictures
from outings.models import FieldNote, FieldNoteKind, Outing, OutingDay, OutingPeriod, OutingPlan
from outings.plans.against_plan import predicted_of
from outings.plans.in_view import PlanInView
from outings.plans.presets import PRESETS, Preset
from outings.replays.day import DayReplay
from outings.replays.example import example_table
from outings.replays.pictures import BodyPictures
from setups.kit import Kit
from setups.pins import Pins
from setups.reader import read_query

SETUP = "body=varnholt-vx-3&format=lossless-raw&fps=20&to=single&card1=gravelock-tide-512-a"

SLALOM_ON = date(2026, 9, 12)
NOTED = (
    (datetime(2026, 5, 1, 6, 24), {"kind": FieldNoteKind.NOTE, "words": "first dives, north side"}),
    (datetime(2026, 5, 1, 6, 46), {"kind": FieldNoteKind.SWAP, "card": "gravelock-tide-512-b"}),
    (datetime(2026, 5, 1, 7, 5), {"kind": FieldNoteKind.NOTE, "words": "spray on the front lens"}),
)


@receiver(made)
def keep_outings(user: AbstractBaseUser, **_: Any) -> None:
    """Keeps them; nothing where the sample kit has no body to shoot it with."""
    kit = Kit.of(user)
    reading = read_query(SETUP, kit)
    if reading is None or not reading.setup.complete:
        return
    pictures = BodyPictures.of(read_pictures(example_table(reading.setup))).of_day
    day = DayReplay(reading, pictures, Pins.of([], kit))
    gannets = Outing.objects.create(
        owner_id=user.pk,
        name="Gannet cliffs, from the boat",
        notes="swell, light wind from the west",
        on=day.on,
    )
    _keep_plan(gannets, PRESETS["gannets"], day.setup_query)  # before its day, as it predicts
    OutingDay.of(day, gannets).save()
    FieldNote.objects.bulk_create(
        FieldNote(outing=gannets, key=uuid4(), at_s=seconds_of(at, ""), **told)
        for at, told in NOTED
    )
    slalom = Outing.objects.create(
        owner_id=user.pk, name=PRESETS["slalom"].name, notes="two heats and finals", on=SLALOM_ON
    )
    second = {"card": "1/gravelock-tide-512-b", "count": 1}
    _keep_plan(slalom, PRESETS["slalom"], day.setup_query, further=[second])


def _keep_plan(outing: Outing, preset: Preset, setup: str, **cards: Any) -> None:
    plan = OutingPlan.objects.create(
        outing=outing, setup=setup, start=preset.start, cards={"cards1": 1, **cards}
    )
    OutingPeriod.objects.bulk_create(
        OutingPeriod(plan=plan, number=number, **period)
        for number, period in enumerate(preset.periods, 1)
    )
    planned = PlanInView.of_kept(plan, outing.owner).planned
    if planned:
        plan.predicted = predicted_of(planned.day)
        plan.save(update_fields=["predicted"])
