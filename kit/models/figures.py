"""How figures of the kit came about: estimated, or learnt from runs and laid over what was entered.

What is learnt holds until its row is deleted: by taking it back, or by editing the figure by hand
(`kit/document.py`). What the owner entered stays as it is beneath.
"""

from functools import cached_property

from django.db import models
from django.db.models import Q, UniqueConstraint

from engine.burst import scenario as limits
from engine.burst.scenario import ARRANGEMENTS, COUPLINGS
from engine.figures.figure import Figure
from engine.figures.key import FigureKey, FigureKind
from engine.figures.uncertainty import EXACT, JointSamples, LogNormal, Skewed, Uncertainty
from engine.formats import day
from engine.quantities import WRITE_MB_S, Range
from kit.constraints import Fact, one_of, within
from kit.models.body import WORDS_OF_COUPLING, Body
from kit.models.card import LONGEST_BODY, Card
from kit.models.shared import number_field

SPREAD = Range(0, 3, "as the logarithm of a ratio")
TAIL = Range(0, 1, "as Tukey's h")
RUNS = Range(1, 1000, "runs")
ODDS = Range(0, 1, "as odds")
LONGEST_SAMPLES = 2_000
SAMPLES = r"^(\d{1,4}\.\d{1,6}( \d{1,4}\.\d{1,6})*)?$"
COUPLING_CHOICES = list(WORDS_OF_COUPLING.items())
KINDS = [
    kind.value
    for kind in (
        FigureKind.MEMORY, FigureKind.SLOT, FigureKind.FRAME_RATE, FigureKind.HELD,
        FigureKind.ENCODER, FigureKind.FILES, FigureKind.SHARE, FigureKind.OVERHEAD,
    )
]  # fmt: skip


def _samples(name: str) -> Fact:
    return Fact(
        condition=Q(samples__regex=SAMPLES),
        name=name,
        violation_error_code="no_ratios",
        violation_error_message="Samples are ratios as 1.02, with blanks between them.",
    )


class BodyFigure(models.Model):
    """What is told of a figure of a body beside its value: how far off it may be.

    `of` is its slot, frame rate or format, `file` the file of a format (`FigureKey`).
    """

    body: "models.ForeignKey[Body, Body]"
    number = number_field()
    kind = models.CharField(max_length=20, choices=[(kind, kind) for kind in KINDS])
    of = models.CharField(max_length=50, blank=True, default="")
    file = models.CharField(max_length=20, blank=True, default="")

    class Meta:
        abstract = True
        ordering = ["number"]

    @property
    def key(self) -> FigureKey:
        """Which figure it is."""
        return FigureKey(FigureKind(self.kind), self.of, self.file)

    @property
    def words(self) -> str:
        """What it is: "Buffer", "lossless RAW: RAW file"."""
        names = {one.slug: one.name for one in self.body.formats.all()}
        name = names.get(self.of, self.of)
        return {
            FigureKind.MEMORY: "Buffer",
            FigureKind.SLOT: f"The most that slot {self.of} writes",
            FigureKind.SHARE: f"What slot {self.of} makes of any card's speed",
            FigureKind.OVERHEAD: f"Slot {self.of}: before each frame",
            FigureKind.FRAME_RATE: f"Frame rate, {self.of} fps",
            FigureKind.ENCODER: f"{name}: processor",
            FigureKind.HELD: f"{name}: held until processed",
            FigureKind.FILES: f"{name}: {self.file.upper()} file",
        }[self.key.kind]

    @property
    def unit(self) -> str:
        """MB, MB/s, fps or s; a share has none."""
        others = {
            FigureKind.SLOT: "MB/s",
            FigureKind.FRAME_RATE: "fps",
            FigureKind.ENCODER: "fps",
            FigureKind.SHARE: "",
            FigureKind.OVERHEAD: "s",
        }
        return others.get(self.key.kind, "MB")


class EstimatedFigure(BodyFigure):
    """How far off an estimated figure may be (`Skewed`), and why it is what it is."""

    body = models.ForeignKey(Body, models.CASCADE, related_name="estimates")
    below = models.FloatField()
    above = models.FloatField()
    tail = models.FloatField(default=0)
    why = models.CharField(max_length=300)

    class Meta(BodyFigure.Meta):
        constraints = [
            UniqueConstraint(
                fields=["body", "kind", "of", "file"], name="figure_is_estimated_once"
            ),
            UniqueConstraint(fields=["body", "number"], name="estimate_has_a_place_of_its_own"),
            one_of("kind", KINDS, name="estimate_is_of_a_known_kind"),
            within("below", SPREAD, name="estimate_below_is_in_range"),
            within("above", SPREAD, name="estimate_above_is_in_range"),
            within("tail", TAIL, name="estimate_tail_is_in_range"),
        ]

    def __str__(self) -> str:
        return f"{self.key}, {self.why}"

    @property
    def uncertainty(self) -> Uncertainty:
        """How sure it is, as the engine takes it."""
        if not (self.below and self.above):
            return EXACT
        return Skewed(self.below, self.above, tail=self.tail)

    @property
    def figure(self) -> Figure | None:
        """The figure; None where the body has none of that key any more."""
        return self.body.assumed.get(self.key)


class FromRuns(models.Model):
    """From how many runs something was learnt, and when."""

    runs = models.PositiveIntegerField()
    learnt_on = models.DateField()

    class Meta:
        abstract = True

    @property
    def why(self) -> str:
        """The same in words."""
        return f"learnt from {self.runs} run{'' if self.runs == 1 else 's'}, {day(self.learnt_on)}"


class LearntNumber(FromRuns):
    """A number that was learnt, along with others.

    `spread` is the standard deviation of its logarithm, `samples` are equally likely ratios to its
    value, with blanks between them, in an order that all that was learnt with it share.
    """

    value = models.FloatField()
    spread = models.FloatField()
    samples = models.CharField(max_length=LONGEST_SAMPLES, blank=True, default="")

    class Meta:
        abstract = True

    @cached_property
    def uncertainty(self) -> Uncertainty:
        """How sure it is: along with the others, where that was kept."""
        ratios = tuple(ratio for one in self.samples.split() if (ratio := float(one)) > 0)
        return JointSamples(ratios) if ratios else LogNormal(self.spread)


class LearntFigure(LearntNumber, BodyFigure):
    """A figure that was learnt from runs, laid over what the owner entered."""

    body = models.ForeignKey(Body, models.CASCADE, related_name="learnt_figures")

    class Meta(BodyFigure.Meta):
        constraints = [
            UniqueConstraint(fields=["body", "kind", "of", "file"], name="figure_is_learnt_once"),
            UniqueConstraint(fields=["body", "number"], name="learnt_has_a_place_of_its_own"),
            one_of("kind", KINDS, name="learnt_figure_is_of_a_known_kind"),
            within("runs", RUNS, name="figure_comes_from_some_runs"),
            _samples("figure_samples_are_ratios"),
            within("value", limits.HELD_MB, name="learnt_figure_is_in_range"),
            within("spread", SPREAD, name="learnt_spread_is_in_range"),
        ]

    def __str__(self) -> str:
        return f"{self.key}, {self.why}"

    @property
    def figure(self) -> Figure:
        """The figure."""
        return Figure(self.value, self.uncertainty, self.why)


class LearntCoupling(FromRuns):
    """How the slots of a body share the work in an arrangement, with the odds of that."""

    body = models.ForeignKey(Body, models.CASCADE, related_name="learnt_couplings")
    number = number_field()
    kind = models.CharField(max_length=10, choices=[(kind, kind) for kind in ARRANGEMENTS])
    coupling = models.CharField(max_length=10, choices=COUPLING_CHOICES)
    odds = models.FloatField()

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
        ]

    def __str__(self) -> str:
        return f"{self.kind}, {self.coupling}, {self.why}"

    @property
    def words(self) -> str:
        """What it is: "Slots, mirror: write independently"."""
        return f"Slots, {self.kind}: {self.get_coupling_display()}"


class LearntSpeed(LearntNumber):
    """What a card sustains, as runs in a body have taught, laid over what the owner entered.

    `value` is what that body keeps writing to it, `own_mb_s` the card's own speed, of which its
    slot makes a share; null: learnt before these were told apart. `spread` and `samples` are of
    the own speed where there is one.
    """

    card = models.ForeignKey(Card, models.CASCADE, related_name="learnt_speeds")
    own_mb_s = models.FloatField(null=True, blank=True)
    learnt_in = models.CharField(max_length=LONGEST_BODY)

    class Meta:
        constraints = [
            UniqueConstraint(fields=["card"], name="speed_is_learnt_once"),
            within("runs", RUNS, name="speed_comes_from_some_runs"),
            _samples("speed_samples_are_ratios"),
            within("value", WRITE_MB_S, name="learnt_speed_is_in_range"),
            within("own_mb_s", WRITE_MB_S, name="learnt_own_speed_is_in_range"),
            within("spread", SPREAD, name="learnt_speed_spread_is_in_range"),
        ]

    def __str__(self) -> str:
        return f"{self.value:g} MB/s, {self.why}"
