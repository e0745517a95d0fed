"""How figures of the kit came about: estimated, or learnt from runs, with what was assumed before.

A figure of a body is named "memory_mb", "slot 1 cap_mb_s", "rate 20", or by a format's slug and
"held_mb", "process_fps" or the name of a file.
"""

from functools import cached_property

from django.db import models
from django.db.models import Q, UniqueConstraint

from engine.burst import scenario as limits
from engine.burst.scenario import ARRANGEMENTS, COUPLINGS
from engine.figures.figure import Figure
from engine.figures.uncertainty import JointSamples, LogNormal, Uncertainty
from engine.formats import day
from engine.quantities import WRITE_MB_S, Range
from kit.constraints import Fact, both_or_neither, one_of, within
from kit.models.body import MEMORY, RATE, SPREAD, WORDS_OF_COUPLING, Body, slot_of_cap
from kit.models.card import Card
from kit.models.shared import Source, number_field, source_field

RUNS = Range(1, 1000, "runs")
ODDS = Range(0, 1, "as odds")
LONGEST_SAMPLES = 2_000
SAMPLES = r"^(\d{1,4}\.\d{1,6}( \d{1,4}\.\d{1,6})*)?$"
COUPLING_CHOICES = list(WORDS_OF_COUPLING.items())


def _samples(name: str) -> Fact:
    return Fact(
        condition=Q(samples__regex=SAMPLES),
        name=name,
        violation_error_code="no_ratios",
        violation_error_message="Samples are ratios as 1.02, with blanks between them.",
    )


class BodyFigure(models.Model):
    """A figure of a body, and how far off it may be.

    `spread` is the standard deviation of its logarithm.
    """

    body: "models.ForeignKey[Body, Body]"
    number = number_field()
    figure = models.CharField(max_length=80)
    value = models.FloatField()
    spread = models.FloatField()

    class Meta:
        abstract = True
        ordering = ["number"]

    @property
    def words(self) -> str:
        """What it is: "Buffer", "lossless RAW: RAW file"."""
        return _described(self.figure, self.body)[0]

    @property
    def unit(self) -> str:
        """MB, MB/s or fps."""
        return _described(self.figure, self.body)[1]

    @property
    def uncertainty(self) -> Uncertainty:
        """How sure it is, as the engine takes it."""
        return LogNormal(self.spread)

    @property
    def low(self) -> float:
        """The lower end of the 80 % range."""
        return Figure(self.value, self.uncertainty).low

    @property
    def high(self) -> float:
        """The upper end."""
        return Figure(self.value, self.uncertainty).high


class EstimatedFigure(BodyFigure):
    """A figure as it was estimated, and why.

    It holds while the body's figure has that value, and "estimated" as its source.
    """

    body = models.ForeignKey(Body, models.CASCADE, related_name="estimates")
    why = models.CharField(max_length=300)

    class Meta(BodyFigure.Meta):
        constraints = [
            UniqueConstraint(fields=["body", "figure"], name="figure_is_estimated_once"),
            UniqueConstraint(fields=["body", "number"], name="estimate_has_a_place_of_its_own"),
            within("value", limits.MEMORY_MB, name="estimate_is_in_range"),
            within("spread", SPREAD, name="estimate_spread_is_in_range"),
        ]

    def __str__(self) -> str:
        return f"{self.figure}, {self.why}"


class Learnt(models.Model):
    """From how many runs something was learnt, and when."""

    runs = models.PositiveIntegerField()
    learnt_on = models.DateField()

    class Meta:
        abstract = True

    @property
    def why(self) -> str:
        """The same in words."""
        return f"learnt from {self.runs} run{'' if self.runs == 1 else 's'}, {day(self.learnt_on)}"


class LearntNumber(Learnt):
    """A number that was learnt, along with others.

    `samples` are equally likely ratios to its value, with blanks between them, in an order that all
    that was learnt with it share.
    """

    samples = models.CharField(max_length=LONGEST_SAMPLES, blank=True, default="")

    class Meta:
        abstract = True

    @cached_property
    def together(self) -> JointSamples | None:
        """How sure it is, along with the others; None where that was not kept."""
        ratios = tuple(ratio for one in self.samples.split() if (ratio := float(one)) > 0)
        return JointSamples(ratios) if ratios else None


class LearntFigure(LearntNumber, BodyFigure):
    """A figure that was learnt from runs, and what was assumed of it before.

    It holds while the body's figure has that value, and "measured here" as its source. Null as
    `assumed_value`: nobody had noted one.
    """

    body = models.ForeignKey(Body, models.CASCADE, related_name="learnt_figures")
    assumed_value = models.FloatField(null=True, blank=True)
    assumed_source = source_field(blank=True, default="")

    class Meta(BodyFigure.Meta):
        constraints = [
            UniqueConstraint(fields=["body", "figure"], name="figure_is_learnt_once"),
            UniqueConstraint(fields=["body", "number"], name="learnt_has_a_place_of_its_own"),
            within("runs", RUNS, name="figure_comes_from_some_runs"),
            _samples("figure_samples_are_ratios"),
            within("value", limits.HELD_MB, name="learnt_figure_is_in_range"),
            within("spread", SPREAD, name="learnt_spread_is_in_range"),
            within("assumed_value", limits.HELD_MB, name="assumed_figure_is_in_range"),
            both_or_neither(
                "assumed_value", "assumed_source", name="assumed_figure_comes_with_its_source"
            ),
            one_of("assumed_source", ["", *Source.values], name="assumed_source_is_a_known_one"),
        ]

    def __str__(self) -> str:
        return f"{self.figure}, {self.why}"

    @property
    def uncertainty(self) -> Uncertainty:
        return self.together or super().uncertainty


class LearntCoupling(Learnt):
    """How the slots of a body share the work in an arrangement, and what was assumed before.

    `odds` are those of the coupling. It holds while the arrangement has it, "measured here".
    """

    body = models.ForeignKey(Body, models.CASCADE, related_name="learnt_couplings")
    number = number_field()
    kind = models.CharField(max_length=10, choices=[(kind, kind) for kind in ARRANGEMENTS])
    coupling = models.CharField(max_length=10, choices=COUPLING_CHOICES)
    odds = models.FloatField()
    assumed_coupling = models.CharField(max_length=10, choices=COUPLING_CHOICES)

    class Meta:
        ordering = ["number"]
        constraints = [
            UniqueConstraint(fields=["body", "kind"], name="coupling_is_learnt_once"),
            UniqueConstraint(
                fields=["body", "number"], name="learnt_coupling_has_a_place_of_its_own"
            ),
            within("runs", RUNS, name="coupling_comes_from_some_runs"),
            within("odds", ODDS, name="coupling_odds_are_in_range"),
            one_of("kind", list(ARRANGEMENTS), name="learnt_arrangement_is_a_known_one"),
            one_of("coupling", list(COUPLINGS), name="learnt_coupling_is_a_known_one"),
            one_of("assumed_coupling", list(COUPLINGS), name="assumed_coupling_is_a_known_one"),
        ]

    def __str__(self) -> str:
        return f"{self.kind}, {self.coupling}, {self.why}"

    @property
    def words(self) -> str:
        """What it is: "Slots, mirror: write independently"."""
        return f"Slots, {self.kind}: {self.get_coupling_display()}"


class LearntSpeed(LearntNumber):
    """What a card sustains in the body that it was measured in, and what was assumed before.

    It holds while the card's sustained write has that value, and "measured here" as its source.
    """

    card = models.ForeignKey(Card, models.CASCADE, related_name="learnt_speeds")
    value = models.FloatField()
    spread = models.FloatField()
    assumed_value = models.FloatField()
    assumed_source = source_field()
    assumed_spread = models.FloatField(null=True, blank=True)
    assumed_in = models.CharField(max_length=110, blank=True, default="")

    class Meta:
        constraints = [
            UniqueConstraint(fields=["card"], name="speed_is_learnt_once"),
            within("runs", RUNS, name="speed_comes_from_some_runs"),
            _samples("speed_samples_are_ratios"),
            within("value", WRITE_MB_S, name="learnt_speed_is_in_range"),
            within("spread", SPREAD, name="learnt_speed_spread_is_in_range"),
            within("assumed_value", WRITE_MB_S, name="assumed_speed_is_in_range"),
            within("assumed_spread", SPREAD, name="assumed_spread_is_in_range"),
            one_of("assumed_source", Source.values, name="assumed_speed_has_a_known_source"),
        ]

    def __str__(self) -> str:
        return f"{self.value:g} MB/s, {self.why}"


def _described(figure: str, body: Body) -> tuple[str, str]:
    """A figure in words, and its unit."""
    if figure == MEMORY:
        return "Buffer", "MB"
    if slot := slot_of_cap(figure):
        return f"The most that slot {slot} writes", "MB/s"
    first, _, part = figure.partition(" ")
    if first == RATE:
        return f"Frame rate, {part} fps", "fps"
    names = {one.slug: one.name for one in body.formats.all()}
    name = names.get(first, first)
    if part == "process_fps":
        return f"{name}: processor", "fps"
    held = "held until processed" if part == "held_mb" else f"{part.upper()} file"
    return f"{name}: {held}", "MB"
