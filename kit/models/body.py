"""Bodies: what they shoot, record and take, and where each number came from."""

from typing import TYPE_CHECKING, Self

from django.db import models
from django.db.models import Prefetch, UniqueConstraint, prefetch_related_objects

from engine.burst import scenario as limits
from engine.burst.scenario import ARRANGEMENTS, COUPLINGS
from engine.cards.compatibility import is_at_least
from engine.cards.standards import Standard
from engine.estimates.memory import Frame
from engine.formats import exact
from engine.quantities import WRITE_MB_S, Range
from kit.constraints import at_most, both_or_neither, one_of, within
from kit.models.shared import (
    FormOnBus,
    KitItem,
    KitQuerySet,
    Source,
    bus_belongs_to_form,
    listed_once,
    number_field,
    source_field,
)

if TYPE_CHECKING:
    from kit.models.figures import EstimatedFigure, LearntFigure

STANDARD_CHOICES = [(standard.value, standard.value) for standard in Standard]
NAMED_BY = ("maker", "name", "firmware")
# The figure of a body that is neither a slot's nor a format's; those are named at the end.
MEMORY, RATE = "memory_mb", "rate"
SIZE_STEP = Range(0, 0.9, "of the file size")
SLOT_NUMBER = Range(1, 2, "slots")
SPREAD = Range(0, 3, "as the logarithm of a ratio")
FILE_NUMBER = Range(1, limits.MOST_FILES, "files")


# What nearly every body with two slots offers; how its slots share the work only a test tells.
USUAL_ARRANGEMENTS = tuple(
    {"kind": kind, "coupling": "parallel", "source": Source.ESTIMATED.value}
    for kind in ARRANGEMENTS
)


class BodyQuerySet(KitQuerySet):
    def ready_to_shoot(self) -> Self:
        """Bodies with a frame rate, a format that writes a file, and a first slot."""
        return (
            self.filter(pk__in=FrameRate.objects.values("mode__body"))
            .filter(pk__in=RecordedFile.objects.values("format__body"))
            .filter(pk__in=Slot.objects.filter(number=1).values("body"))
        )


class Body(KitItem):
    """A camera body with one firmware: the same body with newer firmware is another row.

    `newest_standard` is the newest capacity standard of the SD family that it takes; empty: not
    known.
    """

    named_by = NAMED_BY

    firmware = models.CharField(max_length=20, blank=True)
    newest_standard = models.CharField(max_length=4, choices=STANDARD_CHOICES, blank=True)
    memory_mb = models.FloatField()
    memory_source = source_field()
    resume_free_frames = models.PositiveIntegerField(
        default=1, help_text="once full, fires again when the buffer has room for so many frames"
    )
    resume_source = source_field(default=Source.ESTIMATED)
    locks_playback = models.BooleanField(default=False, help_text="while the card light is on")
    locks_menus = models.BooleanField(default=False, help_text="while the card light is on")
    locks_drive_mode = models.BooleanField(default=False, help_text="while the card light is on")

    objects = BodyQuerySet.as_manager()  # type: ignore[misc]

    class Meta:
        verbose_name_plural = "bodies"
        ordering = list(NAMED_BY)
        constraints = [
            listed_once(*NAMED_BY, name="body_is_listed_once"),
            listed_once("slug", name="body_has_an_address_of_its_own"),
            one_of("newest_standard", ["", *Standard], name="body_takes_a_known_standard"),
            within("memory_mb", limits.MEMORY_MB, name="body_memory_is_in_range"),
            within("resume_free_frames", limits.RESUME_FREE_FRAMES, name="body_resumes_in_range"),
            one_of("memory_source", Source.values, name="body_memory_has_a_source"),
            one_of("resume_source", Source.values, name="body_resume_has_a_source"),
        ]

    def __str__(self) -> str:
        firmware = f" (firmware {self.firmware})" if self.firmware else ""
        return f"{self.maker_and_name}{firmware}"

    @property
    def rate_of_fps(self) -> "dict[float, FrameRate]":
        """Its frame rates, each once though several shutter modes have it."""
        modes = self.shutter_modes.all()
        return {rate.fps: rate for mode in modes for rate in mode.frame_rates.all()}

    def source_words(self, figure: str, value: float | None, source: str) -> str:
        """Where `value` of a figure came from, in words: from which runs, if it was learnt."""
        is_measured = source == Source.MEASURED_HERE
        record = self.record_of(figure, value, source) if is_measured else None
        return record.why if record else str(Source(source).label)

    @property
    def memory_words(self) -> str:
        """Where its memory came from."""
        return self.source_words(MEMORY, self.memory_mb, self.memory_source)

    def fetch_choices(self) -> None:
        """Fetches all that a set-up chooses from, in a fixed number of queries.

        A format whose files nobody has noted can't be shot, and is none of its `formats` then.
        """
        prefetch_related_objects(
            [self],
            "shutter_modes__frame_rates",
            Prefetch("formats", RecordingFormat.objects.exclude(files=None)),
            "formats__files",
            "slots__accepted_forms",
            "arrangements",
            "tested_cards",
            "estimates",
            "learnt_figures",
            "learnt_couplings",
        )

    def record_of(
        self, figure: str, value: float | None, source: str
    ) -> "EstimatedFigure | LearntFigure | None":
        """How `value` came to a figure, by an estimate or from runs; None once it is another."""
        records: list[EstimatedFigure | LearntFigure] = []
        if source == Source.ESTIMATED:
            records.extend(self.estimates.all())
        elif source == Source.MEASURED_HERE:
            records.extend(self.learnt_figures.all())
        return next((one for one in records if (one.figure, one.value) == (figure, value)), None)


class ShutterMode(models.Model):
    """One way the shutter works ("mechanical", "electronic") with frame rates of its own.

    `lens_limit` says in words which lenses slow it, and to what.
    """

    body = models.ForeignKey(Body, models.CASCADE, related_name="shutter_modes")
    number = number_field()
    name = models.CharField(max_length=40)
    lens_limit = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            UniqueConstraint(fields=["body", "name"], name="shutter_mode_is_listed_once"),
            UniqueConstraint(fields=["body", "number"], name="shutter_mode_has_a_place_of_its_own"),
        ]

    def __str__(self) -> str:
        return self.name


class FrameRate(models.Model):
    """Frames a second that a body takes in one shutter mode while memory has room."""

    mode = models.ForeignKey(ShutterMode, models.CASCADE, related_name="frame_rates")
    number = number_field()
    fps = models.FloatField()
    source = source_field()

    class Meta:
        ordering = ["number"]
        constraints = [
            UniqueConstraint(fields=["mode", "fps"], name="frame_rate_is_listed_once"),
            UniqueConstraint(fields=["mode", "number"], name="frame_rate_has_a_place_of_its_own"),
            within("fps", limits.FRAME_RATE_FPS, name="frame_rate_is_in_range"),
            one_of("source", Source.values, name="frame_rate_has_a_source"),
        ]

    def __str__(self) -> str:
        return f"{exact(self.fps)} fps"


class Slot(models.Model):
    """A card slot of a body.

    `cap_mb_s` is the most it has ever been seen to write, whatever the card; null: not known.
    """

    body = models.ForeignKey(Body, models.CASCADE, related_name="slots")
    number = number_field()
    cap_mb_s = models.FloatField(null=True, blank=True)
    cap_source = source_field(blank=True, default="")
    overhead_s = models.FloatField(default=0)
    overhead_source = source_field(default=Source.ESTIMATED)

    class Meta:
        ordering = ["number"]
        constraints = [
            UniqueConstraint(fields=["body", "number"], name="slot_is_listed_once"),
            within("number", SLOT_NUMBER, name="slot_is_the_first_or_second"),
            within("cap_mb_s", WRITE_MB_S, name="slot_cap_is_in_range"),
            within("overhead_s", limits.OVERHEAD_S, name="slot_overhead_is_in_range"),
            both_or_neither("cap_mb_s", "cap_source", name="slot_cap_comes_with_its_source"),
            one_of("cap_source", ["", *Source.values], name="slot_cap_has_a_known_source"),
            one_of("overhead_source", Source.values, name="slot_overhead_has_a_source"),
        ]

    def __str__(self) -> str:
        return f"slot {self.number}"

    @property
    def cap_words(self) -> str:
        """Where its cap, which somebody must have noted, came from."""
        return self.body.source_words(figure_of_cap(self.number), self.cap_mb_s, self.cap_source)

    def forms_taken(self) -> set[str]:
        """The forms that it takes with the body's firmware, as far as that is known."""
        installed = self.body.firmware
        return {
            accepted.form
            for accepted in self.accepted_forms.all()
            if not installed or is_at_least(installed, accepted.from_firmware)
        }


WORDS_OF_ARRANGEMENT: dict[str, str] = {
    "single": "to slot 1 only",
    "overflow": "to slot 1, spilling over to slot 2",
    "mirror": "the same to both slots",
    "split": "RAW to slot 1, JPEG to slot 2",
}
WORDS_OF_COUPLING: dict[str, str] = {
    "parallel": "write independently",
    "serial": "take turns at one writer",
    "slowest": "wait for the slower of the two",
}


class SlotArrangement(models.Model):
    """What a body with two slots can write where, and how its slots share the work."""

    body = models.ForeignKey(Body, models.CASCADE, related_name="arrangements")
    number = number_field()
    kind = models.CharField(max_length=10, choices=list(WORDS_OF_ARRANGEMENT.items()))
    coupling = models.CharField(max_length=10, choices=list(WORDS_OF_COUPLING.items()))
    source = source_field()

    class Meta:
        ordering = ["number"]
        constraints = [
            UniqueConstraint(fields=["body", "kind"], name="arrangement_is_listed_once"),
            UniqueConstraint(fields=["body", "number"], name="arrangement_has_a_place_of_its_own"),
            one_of("kind", list(ARRANGEMENTS), name="arrangement_is_a_known_one"),
            one_of("coupling", list(COUPLINGS), name="arrangement_has_a_known_coupling"),
            one_of("source", Source.values, name="arrangement_has_a_source"),
        ]

    def __str__(self) -> str:
        return f"{self.kind}, {self.coupling}"

    @property
    def source_words(self) -> str:
        """Where its coupling came from."""
        learnt = self.body.learnt_couplings.all() if self.source == Source.MEASURED_HERE else ()
        here = (self.kind, self.coupling)
        same = next((one for one in learnt if (one.kind, one.coupling) == here), None)
        return same.why if same else str(Source(self.source).label)


class AcceptedForm(FormOnBus):
    """A form that a slot takes, the bus on which it runs it, and from which firmware on."""

    slot = models.ForeignKey(Slot, models.CASCADE, related_name="accepted_forms")
    from_firmware = models.CharField(max_length=20, blank=True)

    class Meta(FormOnBus.Meta):
        constraints = [
            UniqueConstraint(fields=["slot", "form"], name="form_is_accepted_once"),
            bus_belongs_to_form("slot_bus_belongs_to_its_form"),
        ]

    def __str__(self) -> str:
        firmware = f" from firmware {self.from_firmware}" if self.from_firmware else ""
        return f"{super().__str__()}{firmware}"


class RecordingFormat(models.Model):
    """What a body records for each frame.

    `held_mb` is the memory that one frame takes until it is encoded, `process_fps` the frames a
    second that the encoder finishes; null: it has never been seen to limit.
    """

    body = models.ForeignKey(Body, models.CASCADE, related_name="formats")
    number = number_field()
    slug = models.SlugField()
    name = models.CharField(max_length=40)
    held_mb = models.FloatField(default=0)
    held_source = source_field(default=Source.ESTIMATED)
    process_fps = models.FloatField(null=True, blank=True)
    process_source = source_field(blank=True, default="")
    iso_step = models.FloatField(default=0, help_text="growth of files a stop above base ISO")
    detail_step = models.FloatField(default=0, help_text="growth of files a step of scene detail")

    class Meta:
        ordering = ["number"]
        constraints = [
            UniqueConstraint(fields=["body", "slug"], name="format_is_listed_once"),
            UniqueConstraint(fields=["body", "number"], name="format_has_a_place_of_its_own"),
            within("held_mb", limits.HELD_MB, name="format_held_size_is_in_range"),
            within("process_fps", limits.PROCESS_FPS, name="format_process_rate_is_in_range"),
            within("iso_step", SIZE_STEP, name="format_iso_step_is_in_range"),
            within("detail_step", SIZE_STEP, name="format_detail_step_is_in_range"),
            both_or_neither(
                "process_fps", "process_source", name="format_process_rate_comes_with_its_source"
            ),
            one_of("held_source", Source.values, name="format_held_size_has_a_source"),
            one_of(
                "process_source", ["", *Source.values], name="format_process_has_a_known_source"
            ),
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def process_words(self) -> str:
        """Where its processor's rate, which somebody must have noted, came from."""
        figure = figure_of_processor(self.slug)
        return self.body.source_words(figure, self.process_fps, self.process_source)

    @property
    def frame_mb(self) -> float:
        """The buffer that one frame takes."""
        return Frame(sum(file.file_mb for file in self.files.all()), self.held_mb).mb

    @property
    def is_raw(self) -> bool:
        """Whether one of its files is a RAW."""
        return any(file.name == "raw" for file in self.files.all())

    def frames_in(self, memory_mb: float) -> float:
        """How many frames `memory_mb` holds; none are counted that a card takes meanwhile."""
        return memory_mb / self.frame_mb

    @property
    def iso_percent(self) -> float:
        """Growth of its files in per cent a stop above base ISO."""
        return 100 * self.iso_step

    @property
    def detail_percent(self) -> float:
        """Growth of its files in per cent a step of scene detail."""
        return 100 * self.detail_step


class RecordedFile(models.Model):
    """One file that a format writes a frame; RAW+JPEG writes two."""

    format = models.ForeignKey(RecordingFormat, models.CASCADE, related_name="files")
    number = number_field()
    name = models.CharField(max_length=20)
    file_mb = models.FloatField(help_text="mean size of one file")
    spread_mb = models.FloatField(help_text="standard deviation from frame to frame")
    source = source_field()

    class Meta:
        ordering = ["number"]
        constraints = [
            UniqueConstraint(fields=["format", "number"], name="file_is_listed_once"),
            within("number", FILE_NUMBER, name="file_is_the_first_or_second"),
            within("file_mb", limits.FILE_MB, name="file_size_is_in_range"),
            within("spread_mb", limits.HELD_MB, name="file_spread_is_in_range"),
            at_most("spread_mb", "file_mb", name="file_spread_is_below_its_size"),
            one_of("source", Source.values, name="file_size_has_a_source"),
        ]

    def __str__(self) -> str:
        return f"{self.name} of {self.file_mb:g} MB"

    @property
    def source_words(self) -> str:
        """Where its size came from."""
        figure = figure_of_file(self.format.slug, self.name)
        return self.format.body.source_words(figure, self.file_mb, self.source)


class TestedCard(models.Model):
    """A card on the maker's list of those that it tested in this body."""

    body = models.ForeignKey(Body, models.CASCADE, related_name="tested_cards")
    number = number_field()
    maker = models.CharField(max_length=40)
    name = models.CharField(max_length=40)

    class Meta:
        ordering = ["number"]
        constraints = [
            UniqueConstraint(fields=["body", "maker", "name"], name="tested_card_is_listed_once"),
            UniqueConstraint(fields=["body", "number"], name="tested_card_has_a_place_of_its_own"),
        ]

    def __str__(self) -> str:
        return f"{self.maker} {self.name}"


def figure_of_cap(slot: int) -> str:
    """The name of a figure: the most that a slot, 1 or 2, passes."""
    return f"slot {slot} cap_mb_s"


def slot_of_cap(figure: str) -> int | None:
    """The slot whose most a figure is; None for another figure."""
    return next((slot for slot in (1, 2) if figure == figure_of_cap(slot)), None)


def figure_of_rate(fps: float) -> str:
    """That of a frame rate; its value stays what the camera calls it."""
    return f"{RATE} {exact(fps)}"


def figure_of_held(format_slug: str) -> str:
    """That of what a frame takes until it is processed."""
    return f"{format_slug} held_mb"


def figure_of_processor(format_slug: str) -> str:
    """That of the frames a second that the processor finishes."""
    return f"{format_slug} process_fps"


def figure_of_file(format_slug: str, file: str) -> str:
    """That of the mean size of a file."""
    return f"{format_slug} {file}"
