"""Bodies: what they shoot, record and take, and where each number came from."""

from collections.abc import Iterator
from functools import cached_property
from typing import Any, Self, cast

from django.db import models
from django.db.models import Prefetch, UniqueConstraint, prefetch_related_objects

from engine.burst import scenario as limits
from engine.burst.arrangement import Arrangement
from engine.burst.scenario import ARRANGEMENTS, COUPLINGS
from engine.cards.compatibility import is_at_least
from engine.cards.standards import Form, Standard, card_forms
from engine.estimates.frame_rate import of_rate
from engine.estimates.memory import Frame
from engine.figures.figure import Figure
from engine.figures.key import FigureKey, FigureKind
from engine.figures.uncertainty import OF_SOURCE
from engine.figures.uncertainty import Source as EngineSource
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

STANDARD_CHOICES = [(standard.value, standard.value) for standard in Standard]
NAMED_BY = ("maker", "name", "firmware")
MEMORY = FigureKey(FigureKind.MEMORY)
SIZE_STEP = Range(0, 0.9, "of the file size")
SLOT_NUMBER = Range(1, 2, "slots")
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
        """Its frame rates, each once: of several shutter modes that have it the first counts."""
        found: dict[float, FrameRate] = {}
        for mode in self.shutter_modes.all():
            for rate in mode.frame_rates.all():
                found.setdefault(rate.fps, rate)
        return found

    @property
    def usual_fps(self) -> float:
        """The rate that is listed first; it has one."""
        return next(iter(self.rate_of_fps))

    @cached_property
    def assumed(self) -> dict[FigureKey, Figure]:
        """Its figures as somebody entered or estimated them; those that nobody knows are left out.

        Kept, as every set-up asks for them; so that a body is fetched again after a change.
        """
        found: dict[FigureKey, Figure] = {}
        for key, value, source in self._entered():
            if key not in found:  # of two shutters at one rate the first counts, as in a set-up
                found[key] = self._assumed(key, value, source)
        return found

    @cached_property
    def learnt(self) -> dict[FigureKey, Figure]:
        """What runs have taught."""
        return {row.key: row.figure for row in self.learnt_figures.all()}

    @cached_property
    def figures(self) -> dict[FigureKey, Figure]:
        """Its figures with what runs have taught laid over them."""
        return self.assumed | self.learnt

    def figure(self, key: FigureKey, value: float, source: str) -> Figure:
        """One of its `figures`, `value` and `source` as entered, without fetching the others."""
        return self.learnt.get(key) or self._assumed(key, value, source)

    def _assumed(self, key: FigureKey, value: float, source: str) -> Figure:
        estimate = self._estimates.get(key) if source == Source.ESTIMATED else None
        known = OF_SOURCE[cast("EngineSource", source)]
        if key.kind is FigureKind.FRAME_RATE:
            known = of_rate(known)
        sure = estimate.uncertainty if estimate else known
        return Figure(value, sure, str(Source(source).label))

    @cached_property
    def _estimates(self) -> dict[FigureKey, Any]:
        return {row.key: row for row in self.estimates.all()}

    def _entered(self) -> Iterator[tuple[FigureKey, float, str]]:
        """The figures in its rows that are not empty, each with its source."""
        yield MEMORY, self.memory_mb, self.memory_source
        for slot in self.slots.all():
            if slot.cap_mb_s is not None:
                yield slot.limit_key, slot.cap_mb_s, slot.cap_source
            if slot.knows_overhead:
                yield slot.overhead_key, slot.overhead_s, slot.overhead_source
        for mode in self.shutter_modes.all():
            for rate in mode.frame_rates.all():
                yield rate.key, rate.fps, rate.source
        for recording in self.formats.all():
            yield recording.held_key, recording.held_mb, recording.held_source
            if recording.process_fps is not None:
                yield recording.processor_key, recording.process_fps, recording.process_source
            for file in recording.all_files:
                yield file.key, file.file_mb, file.source

    @cached_property
    def uncompressed_raw_keys(self) -> list[FigureKey]:
        """Which figures are sizes of RAW files that follow neither ISO nor scene.

        Kept as its figures are.
        """
        return [
            file.key
            for recording in self.formats.all()
            if not recording.iso_step and not recording.detail_step
            for file in recording.all_files
            if file.name == "raw"
        ]

    @property
    def single_arrangement(self) -> "SlotArrangement | None":
        """The arrangement that writes to one slot only, if it offers that."""
        offered = self.arrangements.all()
        return next((one for one in offered if one.arrangement.slots_used == 1), None)

    def is_learnt(self, key: FigureKey) -> bool:
        """Whether runs have taught a figure."""
        return key in self.learnt

    @property
    def memory(self) -> Figure:
        """Its working memory in MB."""
        return self.figure(MEMORY, self.memory_mb, self.memory_source)

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

    @property
    def key(self) -> FigureKey:
        """Which figure of the body it is."""
        return FigureKey.of_frame_rate(self.fps)

    @property
    def figure(self) -> Figure:
        """The frames a second that the body takes when it is set to this rate."""
        return self.mode.body.figure(self.key, self.fps, self.source)


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
    def limit_key(self) -> FigureKey:
        """Which figure of the body the most that it writes is."""
        return FigureKey(FigureKind.SLOT, str(self.number))

    @property
    def share_key(self) -> FigureKey:
        """Which figure of the body the share is that it makes of any card's speed."""
        return FigureKey(FigureKind.SHARE, str(self.number))

    @property
    def overhead_key(self) -> FigureKey:
        """Which figure of the body the time before the bytes of each frame is."""
        return FigureKey(FigureKind.OVERHEAD, str(self.number))

    @property
    def knows_overhead(self) -> bool:
        """Whether somebody has noted that time: 0 may be meant, or not known."""
        return bool(self.overhead_s) or self.overhead_source != Source.ESTIMATED

    @cached_property
    def limit(self) -> Figure | None:
        """The most that it writes in MB/s; None: not known."""
        if self.cap_mb_s is None:
            return self.body.learnt.get(self.limit_key)
        return self.body.figure(self.limit_key, self.cap_mb_s, self.cap_source)

    def forms_taken(self) -> set[str]:
        """The forms that it takes with the body's firmware, as far as that is known."""
        installed = self.body.firmware
        return {
            accepted.form
            for accepted in self.accepted_forms.all()
            if not installed or is_at_least(installed, accepted.from_firmware)
        }

    def card_forms(self) -> list[Form]:
        """The forms of cards that go into it, by themselves or in an adapter."""
        return card_forms(self.forms_taken())


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
    def arrangement(self) -> Arrangement:
        """What it writes where."""
        return Arrangement(self.kind)

    def takes(self, recording: "RecordingFormat") -> bool:
        """Whether a format writes files enough for it."""
        return self.arrangement.needs_files <= len(recording.all_files)

    @property
    def learnt_coupling(self) -> str:
        """How the slots share the work: as runs have taught, or else as it stands here."""
        return self._learnt.coupling if self._learnt else self.coupling

    @property
    def is_noted(self) -> bool:
        """Whether somebody has noted that, not only guessed it."""
        return self.source != Source.ESTIMATED

    @property
    def knows_coupling(self) -> bool:
        """Whether anybody knows it, runs included."""
        return self._learnt is not None or self.is_noted

    @property
    def coupling_words(self) -> str:
        """The same in words."""
        return WORDS_OF_COUPLING[self.learnt_coupling]

    @property
    def source_words(self) -> str:
        """Where its coupling came from."""
        return self._learnt.why if self._learnt else str(Source(self.source).label)

    @cached_property
    def _learnt(self) -> Any:
        return next(
            (one for one in self.body.learnt_couplings.all() if one.kind == self.kind), None
        )


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

    @cached_property
    def all_files(self) -> "list[RecordedFile]":
        """Its files; kept as the figures of its body are."""
        return list(self.files.all())

    @property
    def held_key(self) -> FigureKey:
        """Which figure of the body its held size is."""
        return FigureKey(FigureKind.HELD, self.slug)

    @property
    def processor_key(self) -> FigureKey:
        """Which figure of the body the rate of the processor is."""
        return FigureKey(FigureKind.ENCODER, self.slug)

    @property
    def held(self) -> Figure:
        """The MB that a frame takes until it is processed."""
        return self.body.figures[self.held_key]

    @property
    def processor(self) -> Figure | None:
        """The frames a second that the processor finishes; None: it was never seen to limit."""
        return self.body.figures.get(self.processor_key)

    @property
    def files_mb(self) -> float:
        """The mean size of all files of a frame together."""
        return sum(file.size.value for file in self.all_files)

    @property
    def frame_mb(self) -> float:
        """The buffer that one frame takes."""
        return Frame(self.files_mb, self.held.value).mb

    @property
    def is_raw(self) -> bool:
        """Whether one of its files is a RAW."""
        return any(file.name == "raw" for file in self.all_files)

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
    def key(self) -> FigureKey:
        """Which figure of the body its size is."""
        return FigureKey(FigureKind.FILES, self.format.slug, self.name)

    @property
    def size(self) -> Figure:
        """The mean size of one file in MB."""
        return self.format.body.figures[self.key]

    @property
    def variation_mb(self) -> float:
        """How far files differ from that from frame to frame, which goes with their size."""
        return self.spread_mb * self.size.value / self.file_mb


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
