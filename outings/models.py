"""Outings: days that were shot, kept as the moments and sizes of their frames."""

from datetime import date
from typing import Any

import numpy as np
from django.conf import settings
from django.db import models
from django.db.models import Q, Sum
from django.db.models.functions import Coalesce

from engine.burst.arrangement import Arrangement
from engine.burst.scenario import FRAME_RATE_FPS, HOLD_S
from engine.day.frames_taken import FramesTaken
from engine.day.picture_desk import SEND_MB_S, WANTED, WITHIN_MIN
from engine.day.plan import AN_HOUR, MINUTES
from engine.day.presses import MOST_PRESSES
from engine.formats import day, exact, figure
from engine.measurement.capture_times import LONGEST_BODY, MOST_DECIMALS, moment_of
from engine.measurement.picture_table import LATEST_S
from engine.quantities import MB_IN_GB, WRITE_MB_S, Range
from kit.constraints import Fact, at_most, one_of, within
from kit.models import Visitor
from kit.models.shared import LONGEST_SLUG
from outings.replays.day import DayReplay
from outings.replays.pictures import PicturesOfDay
from outings.words import clock_words
from pages.refusals import Refused
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
EARLIEST, LATEST = date(1900, 1, 1), date(2199, 12, 31)
AHEAD_MIN = Range(-100_000, 100_000, "min")
SLOT_NUMBERS = (1, 2)
MOST_NOTES = 2_000  # of an outing
MANY_NOTES = f"{figure(MOST_NOTES)} notes are as many as an outing has."


# The units of a period's columns are in their names; its ranges are the engine's.
OF_PERIOD = {"minutes": MINUTES, "bursts_an_hour": AN_HOUR, "singles_an_hour": AN_HOUR,
             "hold_s": HOLD_S, "long_hold_s": HOLD_S}  # fmt: skip


def number_of_row(text: str) -> int:
    """The number of a row, as a form sends it; 0, which no row has, where it is none."""
    is_number = text.isascii() and text.isdecimal() and len(text) <= LONGEST_NUMBER
    return int(text) if is_number else 0


# What is known of a picture desk, if there is one.
OF_DESK = {"desk_frames": WANTED, "desk_min": WITHIN_MIN, "send_mb_s": SEND_MB_S}


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

    def without_day(self, visitor: Visitor) -> "OutingQuerySet":
        """Those of them whose pictures have not been replayed."""
        return self.made_by(visitor).filter(day=None)

    def no_room_words(self, frames: int, outings: int = 1) -> str:
        """Why more outings of so many frames can't be kept beside these; empty: they can."""
        kept = self.aggregate(outings=models.Count("pk"), frames=Coalesce(Sum("day__frames"), 0))
        if kept["outings"] + outings > MOST_OUTINGS:
            return f"{figure(MOST_OUTINGS)} outings are as many as are kept: delete some first."
        if kept["frames"] + frames > MOST_FRAMES_KEPT:
            most = figure(MOST_FRAMES_KEPT)
            return f"All outings together may have {most} frames: delete some of the longest first."
        return ""

    def require_room(self, frames: int, outings: int = 1) -> None:
        """Raises Refused where they can't be kept beside these."""
        if words := self.no_room_words(frames, outings):
            raise Refused([words])


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
        return self.listed(visitor).defer(None).filter(pk=number_of_row(number)).first()


class Outing(models.Model):
    """A day out, by its name; `on` is the day by the calendar, where that is known.

    `version` counts the changes of it and its plan, so that of two open tabs the second is told.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="outings")
    name = models.CharField(max_length=LONGEST_NAME)
    notes = models.CharField(max_length=300, blank=True)
    on = models.DateField(null=True, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)
    version = models.PositiveIntegerField(default=1, editable=False)

    objects = OutingQuerySet.as_manager()

    class Meta:
        ordering = [models.F("on").desc(nulls_first=True), "-made_at", "-pk"]
        constraints = [
            Fact(
                condition=~Q(name=""),
                name="outing_has_a_name",
                violation_error_code="required",
                violation_error_message="An outing needs a name.",
            ),
            Fact(
                condition=Q(on__gte=EARLIEST, on__lte=LATEST),
                name="outing_is_of_these_times",
                violation_error_code="out_of_range",
                violation_error_message=(
                    f"The date must be from {day(EARLIEST)} to {day(LATEST)}."
                ),
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def rows(self) -> list[models.Model]:
        """The rows that go with it."""
        plans = OutingPlan.objects.filter(outing=self)
        periods = OutingPeriod.objects.filter(plan__outing=self)
        field_notes = self.field_notes.all()
        return [*OutingDay.objects.filter(outing=self), *plans, *periods, *field_notes]

    def shown(self, kit: Kit) -> dict[str, Any]:
        """What a list shows of it: its day and plan, None without, and its set-up in words."""
        reading = self.reading(kit)
        setup = reading.setup.name_for_any_hold if reading else ""
        its_day, plan = getattr(self, "day", None), getattr(self, "plan", None)
        return {"outing": self, "day": its_day, "plan": plan, "setup": setup}

    @property
    def setup(self) -> str:
        """The query of the set-up that it was shot with, or else is planned with."""
        shot_or_planned = getattr(self, "day", None) or getattr(self, "plan", None)
        return str(shot_or_planned.setup) if shot_or_planned else ""

    def reading(self, kit: Kit) -> Reading | None:
        """The set-up that it was shot with, or else is planned with, as a kit has it now.

        None where there is none, or its body is gone.
        """
        reading = read_query(self.setup, kit) if self.setup else None
        return reading if reading and keys.BODY not in reading.notes else None


class OutingDay(models.Model):
    """The frames that one body took on an outing, and the set-up that they were shot with.

    `body` and `endings` are what the files say of it, `notes` what was odd about them. The moment
    of each frame is `times_s` after `start_s`, with so many `decimals`; `sizes_mb` are all files of
    it. There is nothing else of a picture. The camera's clock was `ahead_min` of the phone's.
    `holds` are pairs of seconds: from the first frame to that of a burst, and how long that was
    held, where the photographer has told it.
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
    ahead_min = models.FloatField(default=0)
    holds = models.JSONField(default=list, blank=True)

    objects = OutingDayQuerySet.as_manager()

    class Meta:
        ordering = ["pk"]
        constraints = [
            within("frames", FRAMES, name="replayed_day_has_some_frames"),
            within("decimals", DECIMALS, name="replayed_day_tells_frames_apart"),
            within("start_s", START_S, name="replayed_day_has_a_start", words="The start"),
            within("ahead_min", AHEAD_MIN, name="replayed_day_has_a_clock", words="This"),
        ]

    def __str__(self) -> str:
        return f"{self.outing}, {self.body}"

    @classmethod
    def of(cls, day: DayReplay, outing: Outing) -> "OutingDay":
        """A day to be kept."""
        pictures, taken = day.pictures, day.pictures.taken
        times_s = np.round(taken.times_s - taken.times_s[0], pictures.decimals)
        sizes_mb = np.round(taken.mb, 3)
        return cls(
            outing=outing, setup=day.setup_query, body=pictures.body,
            endings=pictures.endings[:LONGEST_BODY],
            notes=list(pictures.notes), start_s=float(taken.times_s[0]), decimals=pictures.decimals,
            frames=len(times_s), mb=float(sizes_mb.sum()),
            times_s=times_s.tolist(), sizes_mb=sizes_mb.tolist(),
            holds=list(day.told_s.items()),
        )  # fmt: skip

    @property
    def told_s(self) -> dict[float, float]:
        """The holds that are told, as a replay takes them."""
        return dict(self.holds)

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


class OutingPlan(models.Model):
    """A day to come: when it begins, the set-up that it is shot with, and what is taken along.

    `cards` has how many there are for each slot, or the room on each, by the names that the form
    has for that; they are copied with `reader`, a slug (empty: the fastest that takes them), or at
    `copy_mb_s` where that is known. A picture desk may want so many frames of a burst.
    `ticked` has what is done of the checklist, by the keys of its items. `predicted` has what was
    predicted when it was kept, before the day: the low end, the middle and the high end of ranges,
    by their names.
    """

    outing = models.OneToOneField(Outing, models.CASCADE, related_name="plan")
    setup = models.CharField(max_length=keys.LONGEST_SETUP)
    start = models.TimeField()
    cards = models.JSONField(default=dict)
    reader = models.CharField(max_length=LONGEST_SLUG, blank=True)
    copy_mb_s = models.FloatField(null=True, blank=True)
    desk_frames = models.PositiveSmallIntegerField(null=True, blank=True)
    desk_min = models.FloatField(null=True, blank=True)
    send_mb_s = models.FloatField(null=True, blank=True)
    ticked = models.JSONField(default=list, blank=True)
    predicted = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            within("copy_mb_s", WRITE_MB_S, name="planned_copying_has_a_speed", words="Copying"),
            *(within(field, allowed, name=f"planned_{field}_is_in_range")
              for field, allowed in OF_DESK.items()),
        ]  # fmt: skip

    def __str__(self) -> str:
        return str(self.outing)


class OutingPeriod(models.Model):
    """A period of a planned day, as `engine.day.plan.Period` has it; `number` is its place.

    It is shot with the set-up of the plan, but for the format (`recording`, its slug), the rate and
    the arrangement of the slots that are told. `listed_s` are the holds of its bursts, if they are
    listed.
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
    frame_rate_fps = models.FloatField(null=True, blank=True)
    arrangement = models.CharField(max_length=10, blank=True)
    listed_s = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(
                fields=["plan", "number"], name="period_has_a_place_of_its_own"
            ),
            *(within(field, allowed, name=f"period_has_{field}_in_range")
              for field, allowed in OF_PERIOD.items()),
            at_most("hold_s", "long_hold_s", name="half_of_the_holds_are_the_shorter_ones"),
            within("frame_rate_fps", FRAME_RATE_FPS, name="period_has_frame_rate_in_range"),
            one_of("arrangement", ["", *Arrangement], name="period_has_a_known_arrangement"),
        ]  # fmt: skip

    def __str__(self) -> str:
        return self.name

    @property
    def told(self) -> dict[str, str]:
        """What its row of the form has beyond its quantities."""
        rate = "" if self.frame_rate_fps is None else exact(self.frame_rate_fps)
        told = {"name": self.name, "recording": self.recording, "frame_rate": rate,
                "arrangement": self.arrangement}  # fmt: skip
        if self.listed_s:
            told["hold_s"] = " ".join(map(exact, self.listed_s))
        return told | ({"copies": "on"} if self.copies else {})


class FieldNoteKind(models.TextChoices):
    """What is noted in the field."""

    BURST = "burst", "burst"
    SWAP = "swap", "swap"
    FAILURE = "failure", "card failed"
    NOTE = "note", "note"


class FieldNote(models.Model):
    """What was tapped on the phone during an outing, at a moment by the phone's clock.

    `key` is given by the phone, so that what is sent twice is kept once. `card` is the slug of the
    card that goes into the slot, or that failed; empty: it was not told.
    """

    outing = models.ForeignKey(Outing, models.CASCADE, related_name="field_notes")
    key = models.UUIDField()
    kind = models.CharField(max_length=10, choices=FieldNoteKind)
    at_s = models.FloatField()
    slot = models.PositiveSmallIntegerField(default=1)
    card = models.CharField(max_length=LONGEST_SLUG, blank=True)
    words = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["at_s", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["outing", "key"], name="field_note_is_kept_once"),
            one_of("kind", FieldNoteKind.values, name="field_note_is_of_a_known_kind"),
            within("at_s", START_S, name="field_note_has_a_moment", words="The moment"),
            one_of("slot", list(SLOT_NUMBERS), name="field_note_names_a_slot"),
            Fact(
                condition=~Q(words="") | ~Q(kind=FieldNoteKind.NOTE),
                name="field_note_says_something",
                violation_error_code="no_words",
                violation_error_message="Write what you want to note.",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.clock} {self.get_kind_display()}"

    @property
    def moment(self) -> str:
        """When that was, by the clock of the phone."""
        return moment_of(self.at_s).isoformat(" ", "seconds")

    @property
    def clock(self) -> str:
        """The same in hours and minutes."""
        return f"{moment_of(self.at_s):%H:%M}"
