"""Outings: days that were shot, kept as the moments and sizes of their frames."""

from typing import Any

import numpy as np
from django.conf import settings
from django.db import models
from django.db.models import Q, Sum
from django.db.models.functions import Coalesce

from engine.burst.scenario import HOLD_S
from engine.day.frames_taken import FramesTaken
from engine.day.plan import AN_HOUR, MINUTES
from engine.day.presses import MOST_PRESSES
from engine.formats import figure
from engine.measurement.capture_times import LONGEST_BODY, MOST_DECIMALS
from engine.measurement.picture_table import LATEST_S
from engine.quantities import MB_IN_GB, WRITE_MB_S, Range
from kit.constraints import Fact, at_most, within
from kit.models import Visitor
from kit.models.shared import LONGEST_SLUG
from outings.day import DayReplay
from outings.pictures import PicturesOfDay
from outings.words import clock_words
from setups import keys
from setups.kit import Kit
from setups.reader import Reading, read_query

MOST_OUTINGS = 200  # of one owner
MOST_FRAMES_KEPT = 500_000  # in all of them
MOMENTS = ("times_s", "sizes_mb")  # fetched where they are replayed only
LONGEST_NAME = 80
LONGEST_NUMBER = 9  # digits of the number of a row, in a form
FRAMES = Range(1, MOST_PRESSES, "frames")
DECIMALS = Range(1, MOST_DECIMALS, "digits")
START_S = Range(-LATEST_S, LATEST_S, "s")


# The units of a period's columns are in their names; its ranges are the engine's.
OF_PERIOD = {"minutes": MINUTES, "bursts_an_hour": AN_HOUR, "singles_an_hour": AN_HOUR,
             "hold_s": HOLD_S, "long_hold_s": HOLD_S}  # fmt: skip


class OutingQuerySet(models.QuerySet["Outing"]):
    """Outings of one owner."""

    def made_by(self, visitor: Visitor) -> "OutingQuerySet":
        """The visitor's, the latest first; none without an account or a guest's cookie."""
        return self.filter(owner_id=visitor.pk, owner__isnull=False)

    def planned_by(self, visitor: Visitor) -> "OutingQuerySet":
        """Those of them that have a plan, with it."""
        return self.made_by(visitor).filter(plan__isnull=False).select_related("plan")

    def listed(self, visitor: Visitor) -> "OutingQuerySet":
        """All of them with their days and plans, without frames."""
        moments = [f"day__{name}" for name in MOMENTS]
        return self.made_by(visitor).select_related("day", "plan").defer(*moments)

    def no_room_words(self, frames: int, outings: int = 1) -> str:
        """Why more outings of so many frames can't be kept beside these; empty: they can."""
        kept = self.aggregate(outings=models.Count("pk"), frames=Coalesce(Sum("day__frames"), 0))
        if kept["outings"] + outings > MOST_OUTINGS:
            return f"{figure(MOST_OUTINGS)} outings are as many as are kept: delete some first."
        if kept["frames"] + frames > MOST_FRAMES_KEPT:
            most = figure(MOST_FRAMES_KEPT)
            return f"All outings together may have {most} frames: delete some of the longest first."
        return ""


class OutingDayQuerySet(models.QuerySet["OutingDay"]):
    """Days that are kept."""

    def listed(self, visitor: Visitor) -> "OutingDayQuerySet":
        """The visitor's, without their frames."""
        of_visitor = self.filter(outing__in=Outing.objects.made_by(visitor))
        return (
            of_visitor.select_related("outing").order_by("-outing__made_at", "-pk").defer(*MOMENTS)
        )

    def numbered(self, number: str, visitor: Visitor) -> "OutingDay | None":
        """The visitor's day of that number, as a form sends it; None where there is none."""
        is_number = number.isascii() and number.isdecimal() and len(number) <= LONGEST_NUMBER
        of_visitor = self.listed(visitor).defer(None)
        return of_visitor.filter(pk=int(number)).first() if is_number else None


class Outing(models.Model):
    """A day out, by its name."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="outings")
    name = models.CharField(max_length=LONGEST_NAME)
    notes = models.CharField(max_length=300, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    objects = OutingQuerySet.as_manager()

    class Meta:
        ordering = ["-made_at", "-pk"]
        constraints = [
            Fact(
                condition=~Q(name=""),
                name="outing_has_a_name",
                violation_error_code="required",
                violation_error_message="An outing needs a name.",
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def rows(self) -> list[models.Model]:
        """The rows that go with it."""
        plans = OutingPlan.objects.filter(outing=self)
        periods = OutingPeriod.objects.filter(plan__outing=self)
        return [*OutingDay.objects.filter(outing=self), *plans, *periods]

    def shown(self, kit: Kit) -> dict[str, Any]:
        """What a list shows of it: its day and plan, None without, and its set-up in words."""
        day, plan = getattr(self, "day", None), getattr(self, "plan", None)
        query = next((row.setup for row in (day, plan) if row), "")
        reading = read_query(query, kit)
        is_there = reading is not None and keys.BODY not in reading.notes
        setup = reading.setup.name_for_any_hold if reading and is_there else ""
        return {"outing": self, "day": day, "plan": plan, "setup": setup}


class OutingDay(models.Model):
    """The frames that one body took on an outing, and the set-up that they were shot with.

    `body` and `endings` are what the files say of it, `notes` what was odd about them. The moment
    of each frame is `times_s` after `start_s`, with so many `decimals`; `sizes_mb` are all files of
    it. There is nothing else of a picture.
    """

    outing = models.OneToOneField(Outing, models.CASCADE, related_name="day")
    setup = models.CharField(max_length=keys.LONGEST_SETUP)
    body = models.CharField(max_length=LONGEST_BODY, blank=True)
    endings = models.CharField(max_length=LONGEST_BODY, blank=True)
    notes = models.JSONField(default=list, blank=True)
    start_s = models.FloatField()
    decimals = models.PositiveSmallIntegerField()
    frames = models.PositiveIntegerField()
    mb = models.FloatField()
    times_s = models.JSONField()
    sizes_mb = models.JSONField()

    objects = OutingDayQuerySet.as_manager()

    class Meta:
        ordering = ["pk"]
        constraints = [
            within("frames", FRAMES, name="replayed_day_has_some_frames"),
            within("decimals", DECIMALS, name="replayed_day_tells_frames_apart"),
            within("start_s", START_S, name="replayed_day_has_a_start", words="The start"),
        ]

    def __str__(self) -> str:
        return f"{self.outing}, {self.body}"

    @classmethod
    def of(cls, day: DayReplay, outing: Outing) -> "OutingDay":
        """A day to be kept."""
        pictures, taken = day.pictures, day.pictures.taken
        times_s = np.round(taken.times_s - taken.times_s[0], pictures.decimals)
        return cls(
            outing=outing, setup=day.setup_query, body=pictures.body,
            endings=pictures.endings[:LONGEST_BODY],
            notes=list(pictures.notes), start_s=float(taken.times_s[0]), decimals=pictures.decimals,
            frames=len(times_s), mb=float(taken.mb.sum()),
            times_s=times_s.tolist(), sizes_mb=np.round(taken.mb, 3).tolist(),
        )  # fmt: skip

    @property
    def gb(self) -> float:
        """GB of all files."""
        return self.mb / MB_IN_GB

    @property
    def began(self) -> str:
        """When the first of its frames was taken."""
        return clock_words(self.start_s, "%H:%M")

    @property
    def pictures(self) -> PicturesOfDay:
        """Its frames, as they were sent."""
        taken = FramesTaken(
            np.array(self.times_s, dtype=np.float64) + self.start_s,
            np.array(self.sizes_mb, dtype=np.float64),
            10.0**-self.decimals,
        )
        return PicturesOfDay(taken, self.decimals, self.body, self.endings, self.notes)

    def reading(self, kit: Kit) -> Reading | None:
        """Its set-up as a kit with its past has it now; None where its body is gone."""
        reading = read_query(self.setup, kit)
        return reading if reading and keys.BODY not in reading.notes else None


class OutingPlan(models.Model):
    """A day to come: when it begins, the set-up that it is shot with, and what is taken along.

    `cards` has how many there are for each slot, by the number of the slot; they are copied with
    `reader`, a slug (empty: the fastest that takes them), or at `copy_mb_s` where that is known.
    `ticked` has what is done of the checklist, by the keys of its items.
    """

    outing = models.OneToOneField(Outing, models.CASCADE, related_name="plan")
    setup = models.CharField(max_length=keys.LONGEST_SETUP)
    start = models.TimeField()
    cards = models.JSONField(default=dict)
    reader = models.CharField(max_length=LONGEST_SLUG, blank=True)
    copy_mb_s = models.FloatField(null=True, blank=True)
    ticked = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            within("copy_mb_s", WRITE_MB_S, name="planned_copying_has_a_speed", words="Copying")
        ]

    def __str__(self) -> str:
        return str(self.outing)


class OutingPeriod(models.Model):
    """A period of a planned day, as `engine.day.plan.Period` has it; `number` is its place.

    `recording` is the slug of the format that it is shot in (empty: that of the set-up).
    """

    plan = models.ForeignKey(OutingPlan, models.CASCADE, related_name="periods")
    number = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=LONGEST_NAME)
    minutes = models.FloatField()
    bursts_an_hour = models.FloatField(default=0)
    hold_s = models.FloatField(default=1)
    long_hold_s = models.FloatField(default=3)
    singles_an_hour = models.FloatField(default=0)
    copies = models.BooleanField(default=False)
    recording = models.CharField(max_length=LONGEST_SLUG, blank=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(
                fields=["plan", "number"], name="period_has_a_place_of_its_own"
            ),
            *(within(field, allowed, name=f"period_has_{field}_in_range")
              for field, allowed in OF_PERIOD.items()),
            at_most("hold_s", "long_hold_s", name="half_of_the_holds_are_the_shorter_ones"),
        ]  # fmt: skip

    def __str__(self) -> str:
        return self.name
