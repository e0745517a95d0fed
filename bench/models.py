"""Runs: bursts that somebody shot to learn what a body really does."""

import re
from collections.abc import Iterable
from urllib.parse import parse_qsl

from django.conf import settings
from django.db import models
from django.db.models import Count, F, Func, IntegerField, Q, Sum
from django.db.models.functions import Coalesce
from django.utils.timezone import localdate

from engine.burst.scenario import FRAME_RATE_FPS
from engine.formats import figure
from engine.measurement.runs import CLEAR_S, FILES_MB, FRAMES, Method
from engine.quantities import Range
from kit.constraints import Fact, at_most, one_of, within
from kit.models import Body, Visitor
from setups import keys
from setups.kit import Kit
from setups.reader import Reading, read_query

MOST_RUNS = 60  # of one body, that are learnt from
MOST_KEPT = 10 * MOST_RUNS  # runs of one owner
MOST_STROKES = 20_000  # of a run
MOST_STROKES_KEPT = 500_000  # of all runs of an owner
MOMENTS = ("taps_s", "strokes_s")  # fetched where they are drawn only
BATTERY_PERCENT = Range(0, 100, "%")
WORDS_OF_METHOD = {
    Method.TAP: "tapped by hand",
    Method.FILES: "from the files",
    Method.SOUND: "from the sound",
    Method.TYPED: "from somebody else's table",
    Method.CLAIM: "printed by the maker",
}


class RunQuerySet(models.QuerySet["Run"]):
    """Runs of one owner."""

    def made_by(self, visitor: Visitor) -> "RunQuerySet":
        """The visitor's, without their moments; none without an account or a guest's cookie."""
        return self.filter(owner_id=visitor.pk, owner__isnull=False).defer(*MOMENTS)

    def with_moments(self) -> "RunQuerySet":
        """The same with the moments of their taps and strokes, which may be many."""
        return self.defer(None)

    def no_room_words(self, runs: int, strokes: int) -> str:
        """Why so many more runs and strokes can't be kept beside these; empty: they can."""
        length = Func(F("strokes_s"), function="jsonb_array_length", output_field=IntegerField())
        kept = self.aggregate(runs=Count("pk"), strokes=Coalesce(Sum(length), 0))
        if kept["runs"] + runs > MOST_KEPT:
            return f"{figure(MOST_KEPT)} runs are as many as are kept: delete some first."
        if kept["strokes"] + strokes > MOST_STROKES_KEPT:
            most = figure(MOST_STROKES_KEPT)
            return f"All runs together may have {most} strokes: delete some of the longest first."
        return ""

    def on_card(self, slug: str) -> "RunQuerySet":
        """Those with a certain card in one of the slots."""
        return self.filter(setup__regex=rf"(^|&)({'|'.join(keys.CARDS)})={re.escape(slug)}(&|$)")

    def not_taught(self) -> "RunQuerySet":
        """Those that predictions don't use yet."""
        return self.filter(taught=False, left_out=False)

    def counted(self) -> "RunQuerySet":
        """Those that are learnt from: the newest, without what was left out by hand."""
        return self.filter(left_out=False)[:MOST_RUNS]


class Run(models.Model):
    """One hold on one set-up, and what was seen of it; all of it is optional but for one figure.

    `setup` is the set-up's query, its hold as it was measured. `clear_s` runs from finger up to
    light out; `frame_rate_fps` and `files_mb`, the rate at full speed and the mean size of all
    files of a frame, are known where there are files. `depth_is_tapped` tells that the frames at
    full speed follow from the tap when it slowed. `taps_s` are the moments of the taps as they
    came, from the press on. Nothing is learnt from a run that is `left_out`, nor from one that
    doesn't fit the others until it `is_confirmed` to be right; from one that `taught` figures were
    learnt that are written to the kit. `strokes_s` are the moments of the frames, from
    the first one on, where files or a sound told them. `predicted` has what was predicted before
    the run, by the names of the figures: middle and ends of the 80 % range, null as "no wall".
    `version` counts its corrections.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="runs")
    body = models.ForeignKey(Body, models.RESTRICT, related_name="runs")
    setup = models.CharField(max_length=keys.LONGEST_SETUP)
    method = models.CharField(max_length=10, choices=list(WORDS_OF_METHOD.items()))
    covered = models.BooleanField(default=False)
    frames_at_full_speed = models.PositiveIntegerField(null=True, blank=True)
    depth_is_tapped = models.BooleanField(default=False)
    did_not_slow = models.BooleanField(default=False)
    frames = models.PositiveIntegerField(null=True, blank=True)
    clear_s = models.FloatField(null=True, blank=True)
    frame_rate_fps = models.FloatField(null=True, blank=True)
    files_mb = models.FloatField(null=True, blank=True)
    taps_s = models.JSONField(default=list, blank=True)
    strokes_s = models.JSONField(default=list, blank=True)
    predicted = models.JSONField(default=dict, blank=True)
    shot_on = models.DateField(default=localdate, blank=True)
    battery_percent = models.PositiveSmallIntegerField(null=True, blank=True)
    settings_checked = models.BooleanField(default=False)
    notes = models.CharField(max_length=300, blank=True)
    left_out = models.BooleanField(default=False)
    is_confirmed = models.BooleanField(default=False)
    taught = models.BooleanField(default=False)
    made_at = models.DateTimeField(auto_now_add=True)
    version = models.PositiveIntegerField(default=1)

    objects = RunQuerySet.as_manager()

    class Meta:
        ordering = ["-shot_on", "-made_at", "-pk"]
        constraints = [
            one_of("method", list(WORDS_OF_METHOD), name="run_was_measured_in_a_known_way"),
            within("frames_at_full_speed", FRAMES, name="run_depth_is_in_range"),
            within("frames", FRAMES, name="run_frames_are_in_range"),
            within(
                "clear_s", CLEAR_S, name="run_clear_time_is_in_range", words="The time to light out"
            ),
            within("frame_rate_fps", FRAME_RATE_FPS, name="run_frame_rate_is_in_range"),
            within(
                "files_mb", FILES_MB, name="run_file_size_is_in_range", words="Files of a frame"
            ),
            within(
                "battery_percent", BATTERY_PERCENT, name="run_battery_is_in_range", words="Battery"
            ),
            at_most("frames_at_full_speed", "frames", name="run_depth_is_within_its_frames"),
            Fact(
                condition=Q(did_not_slow=False) | Q(frames_at_full_speed=None),
                name="run_slowed_or_did_not",
                violation_error_code="both",
                violation_error_message="It can't have slowed and not slowed.",
            ),
            Fact(
                condition=Q(did_not_slow=True)
                | Q(frames_at_full_speed__isnull=False)
                | Q(frames__isnull=False)
                | Q(clear_s__isnull=False),
                name="run_saw_something",
                violation_error_code="nothing",
                violation_error_message="Give one figure at least.",
            ),
        ]
        indexes = [models.Index(F("owner"), F("body"), name="runs_of_a_body")]

    def __str__(self) -> str:
        [(_, reading)] = readings_of([self], self.owner)
        return reading.setup.name if reading else str(self.body)

    @property
    def address(self) -> dict[str, str]:
        """The keys and values of its set-up."""
        return dict(parse_qsl(self.setup))

    def reading(self, kit: Kit) -> Reading | None:
        """Its set-up as a kit with its past has it now; None where a part of it is gone."""
        reading = read_query(self.setup, kit)
        is_same = reading is not None and reading.setup.body.pk == self.body_id
        return reading if reading and is_same and not reading.notes else None


def readings_of(runs: Iterable[Run], visitor: Visitor) -> list[tuple[Run, Reading | None]]:
    """Runs, each with its set-up as the visitor's kit has it now."""
    kit = Kit.of(visitor, with_past=True)
    return [(run, run.reading(kit)) for run in runs]
