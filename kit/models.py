"""Bodies and cards: what a burst depends on, and where each number came from."""

from typing import Any, Self

from django.db import models
from django.db.models import CheckConstraint, Q, UniqueConstraint, prefetch_related_objects

from engine import scenario as limits
from engine.scenario import ARRANGEMENTS, COUPLINGS, Range
from engine.standards import BUSES_OF_FORM, CAPACITY_GB, Bus, Form, slot_form
from kit.constraints import at_most, both_or_neither, one_of, within

CACHE_GB = Range(0, 100_000, "GB")
PRICE = Range(0, 100_000, "in its currency")
SIZE_STEP = Range(0, 0.9, "of the file size")
SLOT_NUMBER = Range(1, 2, "slots")
FILE_NUMBER = Range(1, limits.MOST_FILES, "files")

FORM_CHOICES = [(form.value, form.value) for form in Form]
BUS_CHOICES = [(bus.value, bus.value) for bus in Bus]


class Source(models.TextChoices):
    """Where a number came from, the surest first; its spread follows from this."""

    MEASURED_HERE = "measured_here", "measured in this body"
    MEASURED_ELSEWHERE = "measured_elsewhere", "measured in another body"
    PRINTED = "printed", "printed by the maker"
    ESTIMATED = "estimated", "estimated from its class"


def source_field(**options: Any) -> "models.CharField[str, str]":
    """Where the number beside it came from."""
    return models.CharField(max_length=20, choices=Source, **options)


def number_field() -> "models.PositiveSmallIntegerField[int, int]":
    """The place of a row in its parent's list, from 1; the usual choice comes first."""
    return models.PositiveSmallIntegerField()


class BodyQuerySet(models.QuerySet["Body"]):
    def ready_to_shoot(self) -> Self:
        """Bodies with a frame rate, a recording format and a first slot."""
        return (
            self.filter(
                pk__in=FrameRate.objects.values("mode__body"),
            )
            .filter(
                pk__in=RecordingFormat.objects.values("body"),
            )
            .filter(
                pk__in=Slot.objects.filter(number=1).values("body"),
            )
        )


class Body(models.Model):
    """A camera body with one firmware: the same body with newer firmware is another row."""

    slug = models.SlugField(unique=True)
    maker = models.CharField(max_length=40)
    name = models.CharField(max_length=40)
    firmware = models.CharField(max_length=20, blank=True)
    memory_mb = models.FloatField()
    memory_source = source_field()
    resume_free_frames = models.PositiveIntegerField(
        default=1, help_text="once full, fires again when memory has room for so many frames"
    )
    resume_source = source_field(default=Source.ESTIMATED)
    locks_playback = models.BooleanField(default=False, help_text="while the card light is on")
    locks_menus = models.BooleanField(default=False, help_text="while the card light is on")
    locks_drive_mode = models.BooleanField(default=False, help_text="while the card light is on")

    objects = BodyQuerySet.as_manager()

    class Meta:
        verbose_name_plural = "bodies"
        ordering = ["maker", "name", "firmware"]
        constraints = [
            UniqueConstraint("maker", "name", "firmware", name="body_is_listed_once"),
            within("memory_mb", limits.MEMORY_MB, name="body_memory_is_in_range"),
            within("resume_free_frames", limits.RESUME_FREE_FRAMES, name="body_resumes_in_range"),
            one_of("memory_source", Source.values, name="body_memory_has_a_source"),
            one_of("resume_source", Source.values, name="body_resume_has_a_source"),
        ]

    def __str__(self) -> str:
        firmware = f" (firmware {self.firmware})" if self.firmware else ""
        return f"{self.maker} {self.name}{firmware}"

    def fetch_choices(self) -> None:
        """Fetches all that a set-up chooses from, in a fixed number of queries."""
        prefetch_related_objects(
            [self],
            "shutter_modes__frame_rates",
            "formats__files",
            "slots__accepted_forms",
            "arrangements",
        )


class ShutterMode(models.Model):
    """One way the shutter works ("mechanical", "electronic") with frame rates of its own."""

    body = models.ForeignKey(Body, models.CASCADE, related_name="shutter_modes")
    number = number_field()
    name = models.CharField(max_length=40)

    class Meta:
        ordering = ["number"]
        constraints = [
            UniqueConstraint("body", "name", name="shutter_mode_is_listed_once"),
            UniqueConstraint("body", "number", name="shutter_mode_has_a_place_of_its_own"),
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
            UniqueConstraint("mode", "fps", name="frame_rate_is_listed_once"),
            UniqueConstraint("mode", "number", name="frame_rate_has_a_place_of_its_own"),
            within("fps", limits.FRAME_RATE_FPS, name="frame_rate_is_in_range"),
            one_of("source", Source.values, name="frame_rate_has_a_source"),
        ]

    def __str__(self) -> str:
        return f"{self.fps:g} frames a second"


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
            UniqueConstraint("body", "number", name="slot_is_listed_once"),
            within("number", SLOT_NUMBER, name="slot_is_the_first_or_second"),
            within("cap_mb_s", limits.WRITE_MB_S, name="slot_cap_is_in_range"),
            within("overhead_s", limits.OVERHEAD_S, name="slot_overhead_is_in_range"),
            both_or_neither("cap_mb_s", "cap_source", name="slot_cap_comes_with_its_source"),
            one_of("cap_source", ["", *Source.values], name="slot_cap_has_a_known_source"),
            one_of("overhead_source", Source.values, name="slot_overhead_has_a_source"),
        ]

    def __str__(self) -> str:
        return f"slot {self.number}"


class SlotArrangement(models.Model):
    """What a body with two slots can write where, and how its slots share the work."""

    body = models.ForeignKey(Body, models.CASCADE, related_name="arrangements")
    number = number_field()
    kind = models.CharField(max_length=10, choices=[(kind, kind) for kind in ARRANGEMENTS])
    coupling = models.CharField(max_length=10, choices=[(name, name) for name in COUPLINGS])
    source = source_field()

    class Meta:
        ordering = ["number"]
        constraints = [
            UniqueConstraint("body", "kind", name="arrangement_is_listed_once"),
            UniqueConstraint("body", "number", name="arrangement_has_a_place_of_its_own"),
            one_of("kind", list(ARRANGEMENTS), name="arrangement_is_a_known_one"),
            one_of("coupling", list(COUPLINGS), name="arrangement_has_a_known_coupling"),
            one_of("source", Source.values, name="arrangement_has_a_source"),
        ]

    def __str__(self) -> str:
        return f"{self.kind}, {self.coupling}"


def _bus_belongs_to_form(name: str) -> CheckConstraint:
    pairs = Q()
    for form, buses in BUSES_OF_FORM.items():
        pairs |= Q(form=form, bus__in=buses)
    return CheckConstraint(
        condition=pairs,
        name=name,
        violation_error_code="wrong_bus",
        violation_error_message="This form has no such bus.",
    )


class AcceptedForm(models.Model):
    """A form that a slot takes, and the bus on which it runs it."""

    slot = models.ForeignKey(Slot, models.CASCADE, related_name="accepted_forms")
    form = models.CharField(max_length=20, choices=FORM_CHOICES)
    bus = models.CharField(max_length=20, choices=BUS_CHOICES)

    class Meta:
        ordering = ["pk"]
        constraints = [
            UniqueConstraint("slot", "form", name="form_is_accepted_once"),
            _bus_belongs_to_form("slot_bus_belongs_to_its_form"),
        ]

    def __str__(self) -> str:
        return f"{self.form} on {self.bus}"


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
            UniqueConstraint("body", "slug", name="format_is_listed_once"),
            UniqueConstraint("body", "number", name="format_has_a_place_of_its_own"),
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
            UniqueConstraint("format", "number", name="file_is_listed_once"),
            within("number", FILE_NUMBER, name="file_is_the_first_or_second"),
            within("file_mb", limits.FILE_MB, name="file_size_is_in_range"),
            within("spread_mb", limits.HELD_MB, name="file_spread_is_in_range"),
            at_most("spread_mb", "file_mb", name="file_spread_is_below_its_size"),
            one_of("source", Source.values, name="file_size_has_a_source"),
        ]

    def __str__(self) -> str:
        return f"{self.name} of {self.file_mb:g} MB"


class CardQuerySet(models.QuerySet["Card"]):
    def fitting(self, slot: Slot) -> Self:
        """Cards that go into `slot`, by themselves or in an adapter."""
        accepted = {accepted.form for accepted in slot.accepted_forms.all()}
        return self.filter(form__in=[form for form in Form if slot_form(form) in accepted])


class Card(models.Model):
    """A memory card: what is printed on it, and what it goes on writing."""

    slug = models.SlugField(unique=True)
    maker = models.CharField(max_length=40)
    name = models.CharField(max_length=40)
    form = models.CharField(max_length=20, choices=FORM_CHOICES)
    bus = models.CharField(max_length=20, choices=BUS_CHOICES)
    capacity_gb = models.FloatField(help_text="as printed, in 10^9 bytes")
    marks = models.CharField(max_length=80, blank=True, help_text="as printed on its face")
    printed_read_mb_s = models.FloatField(null=True, blank=True)
    printed_write_mb_s = models.FloatField(null=True, blank=True)
    sustained_write_mb_s = models.FloatField()
    sustained_source = source_field()
    cache_gb = models.FloatField(default=0, help_text="written at cache speed, then slower")
    cache_write_mb_s = models.FloatField(null=True, blank=True)
    slow_below_free_gb = models.FloatField(default=0, help_text="nearly full, hence slow")
    slow_factor = models.FloatField(default=1, help_text="share of its speed when nearly full")
    price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True)
    currency = models.CharField(max_length=3, blank=True, default="")

    objects = CardQuerySet.as_manager()

    class Meta:
        ordering = ["maker", "name"]
        constraints = [
            UniqueConstraint("maker", "name", name="card_is_listed_once"),
            _bus_belongs_to_form("card_bus_belongs_to_its_form"),
            within("capacity_gb", CAPACITY_GB, name="card_capacity_is_in_range"),
            within("printed_read_mb_s", limits.WRITE_MB_S, name="card_read_is_in_range"),
            within("printed_write_mb_s", limits.WRITE_MB_S, name="card_write_is_in_range"),
            within("sustained_write_mb_s", limits.WRITE_MB_S, name="card_sustained_is_in_range"),
            one_of("sustained_source", Source.values, name="card_sustained_has_a_source"),
            within("cache_gb", CACHE_GB, name="card_cache_is_in_range"),
            within("cache_write_mb_s", limits.WRITE_MB_S, name="card_cache_speed_is_in_range"),
            within("slow_below_free_gb", CACHE_GB, name="card_slow_below_is_in_range"),
            within("slow_factor", limits.SLOW_FACTOR, name="card_slow_factor_is_in_range"),
            CheckConstraint(
                condition=Q(cache_gb=0, cache_write_mb_s=None)
                | Q(cache_gb__gt=0, cache_write_mb_s__isnull=False),
                name="card_cache_comes_with_its_speed",
                violation_error_code="half_given",
                violation_error_message="Cache size and cache speed go together.",
            ),
            at_most(
                "sustained_write_mb_s",
                "printed_write_mb_s",
                name="card_sustains_no_more_than_printed",
            ),
            within("price", PRICE, name="card_price_is_in_range"),
            both_or_neither("price", "currency", name="card_price_comes_with_its_currency"),
            CheckConstraint(
                condition=Q(currency="") | Q(currency__regex="^[A-Z]{3}$"),
                name="card_currency_is_an_iso_code",
                violation_error_code="unknown_currency",
                violation_error_message="A currency is three capital letters, as in EUR.",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.maker} {self.name}"
