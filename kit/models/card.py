"""Cards: their marks, what they go on writing, and how they fare over the years."""

from functools import cached_property
from typing import Any, Self

from django.db import models
from django.db.models import F, Q

from engine.burst import scenario as limits
from engine.cards.standards import CAPACITY_GB, Bus, Form, card_forms, kind_of_card, slot_forms
from engine.quantities import WRITE_MB_S, Range
from kit.constraints import Fact, at_most, one_of, within
from kit.models.body import Body, Slot
from kit.models.reader import Reader
from kit.models.shared import (
    BUS_CHOICES,
    FORM_CHOICES,
    KitItem,
    KitQuerySet,
    Source,
    Visitor,
    bus_belongs_to_form,
    listed_once,
    sample_is_shown,
    source_field,
)

NAMED_BY = ("maker", "name", "label")
LONGEST_BODY = 110  # its maker, name and firmware
CACHE_GB = Range(0, 100_000, "GB")


class CardQuerySet(KitQuerySet):
    def fitting(self, slot: Slot) -> Self:
        """Cards that go into `slot`, by themselves or in an adapter."""
        return self.filter(form__in=slot.card_forms())

    def taken_by(self, reader: Reader) -> Self:
        """Cards that `reader` takes, by themselves or in an adapter."""
        taken = {accepted.form for accepted in reader.accepted_forms.all()}
        return self.filter(form__in=card_forms(taken))

    def visible_to(self, visitor: Visitor) -> Self:
        """The visitor's own, cards of each class, then the sample kit's; archived ones included."""
        own_first = F("owner").asc(nulls_last=True)
        return super().visible_to(visitor).order_by(own_first, "-of_class", *NAMED_BY)

    def offered_to(self, visitor: Visitor) -> Self:
        """What lists and choices offer; beside one's own cards, where the sample kit is left out,
        cards of each class.
        """
        seen = self.visible_to(visitor)
        if sample_is_shown(visitor):
            return seen.filter(of_class=False)
        return seen.filter(Q(owner=visitor.pk) | Q(of_class=True))

    def of_sample_kit(self) -> Self:
        """Those of the sample kit."""
        return super().of_sample_kit().filter(of_class=False)

    def available(self) -> Self:
        """Cards that can be chosen: neither archived nor retired."""
        return self.current().exclude(state=CardState.RETIRED)


class CardManager(models.Manager.from_queryset(CardQuerySet)):  # type: ignore[misc]
    def get_queryset(self) -> CardQuerySet:
        """Cards with what runs have taught of them: each one's write speed asks for that."""
        cards: CardQuerySet = super().get_queryset()
        return cards.prefetch_related("learnt_speeds")


class CardState(models.TextChoices):
    """What a card is good for at present."""

    IN_USE = "in_use", "in use"
    SPARE = "spare", "spare"
    SUSPECT = "suspect", "suspect"
    RETIRED = "retired", "retired"
    WANTED = "wanted", "not bought yet"


class Card(KitItem):
    """A memory card: what is printed on it, its sustained write, and its state.

    `label` tells several of one kind apart. `sustained_write_mb_s` is what a camera keeps writing
    to it. `measured_in` is the body, as it is called, in which that was measured: it holds for that
    body of the same owner, and in all others counts as measured in another body.
    """

    named_by = NAMED_BY

    label = models.CharField(max_length=20, blank=True)
    state = models.CharField(max_length=10, choices=CardState, default=CardState.IN_USE)
    form = models.CharField(max_length=20, choices=FORM_CHOICES)
    bus = models.CharField(max_length=20, choices=BUS_CHOICES)
    capacity_gb = models.FloatField(help_text="as printed, in 10^9 bytes")
    marks = models.CharField(max_length=80, blank=True, help_text="as printed on its label")
    printed_read_mb_s = models.FloatField(null=True, blank=True)
    printed_write_mb_s = models.FloatField(null=True, blank=True)
    sustained_write_mb_s = models.FloatField()
    sustained_source = source_field()
    measured_in = models.CharField(
        max_length=LONGEST_BODY,
        blank=True,
        default="",
        help_text="the body that it was measured in",
    )
    cache_gb = models.FloatField(default=0, help_text="written at cache speed, then slower")
    cache_write_mb_s = models.FloatField(null=True, blank=True)
    slow_below_free_gb = models.FloatField(default=0, help_text="nearly full, hence slow")
    slow_factor = models.FloatField(default=1, help_text="share of its speed when nearly full")
    adapter = models.BooleanField(default=False, help_text="came with an adapter")
    of_class = models.BooleanField(
        default=False, editable=False, help_text="stands for all cards of a class"
    )

    objects = CardManager()  # type: ignore[misc]

    class Meta:
        ordering = list(NAMED_BY)
        constraints = [
            listed_once(*NAMED_BY, name="card_is_listed_once"),
            listed_once("slug", name="card_has_an_address_of_its_own"),
            one_of("state", CardState.values, name="card_is_in_a_known_state"),
            bus_belongs_to_form("card_bus_belongs_to_its_form"),
            within("capacity_gb", CAPACITY_GB, name="card_capacity_is_in_range"),
            within("printed_read_mb_s", WRITE_MB_S, name="card_read_is_in_range"),
            within("printed_write_mb_s", WRITE_MB_S, name="card_write_is_in_range"),
            within("sustained_write_mb_s", WRITE_MB_S, name="card_sustained_is_in_range"),
            one_of("sustained_source", Source.values, name="card_sustained_has_a_source"),
            Fact(
                condition=~Q(sustained_source=Source.MEASURED_HERE) | ~Q(measured_in=""),
                name="card_is_measured_in_a_body",
                violation_error_code="no_body",
                violation_error_message="Say in which body it was measured.",
            ),
            within("cache_gb", CACHE_GB, name="card_cache_is_in_range"),
            within("cache_write_mb_s", WRITE_MB_S, name="card_cache_speed_is_in_range"),
            within("slow_below_free_gb", CACHE_GB, name="card_slow_below_is_in_range"),
            within("slow_factor", limits.SLOW_FACTOR, name="card_slow_factor_is_in_range"),
            Fact(
                condition=Q(cache_gb=0, cache_write_mb_s=None)
                | Q(cache_gb__gt=0, cache_write_mb_s__isnull=False),
                name="card_cache_comes_with_its_speed",
                violation_error_code="half_given",
                violation_error_message="Cache size and cache speed go together.",
            ),
            Fact(
                condition=Q(of_class=False) | Q(owner=None),
                name="card_of_a_class_is_nobodys",
                violation_error_code="owned_class",
                violation_error_message="A card that stands for a class is nobody's.",
            ),
            at_most(
                "sustained_write_mb_s",
                "cache_write_mb_s",
                name="card_cache_is_no_slower_than_the_card",
            ),
            at_most(
                "sustained_write_mb_s",
                "printed_write_mb_s",
                name="card_sustains_no_more_than_printed",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.maker_and_name} {self.label}".rstrip()

    @cached_property
    def learnt(self) -> Any:
        """What runs have taught of its sustained write; a card is fetched again after a change."""
        return next(iter(self.learnt_speeds.all()), None) if self.pk else None

    @property
    def write_mb_s(self) -> float:
        """Its sustained write in MB/s: as runs have taught, or else as somebody noted."""
        return self.learnt.value if self.learnt else self.sustained_write_mb_s

    def source_in(self, body: Body) -> Source:
        """Where its sustained write came from, seen from `body`."""
        if self.learnt:
            return self._measured(self.learnt.learnt_in, body)
        return self.noted_source_in(body)

    def noted_source_in(self, body: Body) -> Source:
        """Where the sustained write that somebody has noted came from, seen from `body`."""
        source = Source(self.sustained_source)
        return self._measured(self.measured_in, body) if source == Source.MEASURED_HERE else source

    def _measured(self, name: str, body: Body) -> Source:
        """What was measured in the owner's body of that name, seen from `body`."""
        same = self.owner_id == body.owner_id and name == str(body)
        return Source.MEASURED_HERE if same else Source.MEASURED_ELSEWHERE

    @property
    def source_words(self) -> str:
        """Where its sustained write came from, with the name of the body."""
        source = Source(self.sustained_source)
        if learnt := self.learnt:
            return f"{learnt.why}, in the {learnt.learnt_in}"
        if source == Source.MEASURED_HERE:
            return f"measured in the {self.measured_in}"
        if source == Source.MEASURED_ELSEWHERE and self.measured_in:
            return f"{source.label} ({self.measured_in})"
        return str(source.label)

    @property
    def whose(self) -> str:
        return "class of cards" if self.of_class else super().whose

    @property
    def is_available(self) -> bool:
        """Whether it can be chosen: it is neither archived nor retired."""
        return self.archived_at is None and self.state != CardState.RETIRED

    @property
    def kind(self) -> str:
        """Its form and bus, as they are called."""
        return kind_of_card(Form(self.form), Bus(self.bus))

    @property
    def is_owned(self) -> bool:
        """Whether somebody has it: what one owns has not to be bought."""
        return not self.is_sample and self.state != CardState.WANTED

    @property
    def slot_forms(self) -> tuple[Form, ...]:
        """The forms of slot that take it, one without an adapter first."""
        return slot_forms(Form(self.form))


class CardEvent(models.TextChoices):
    """What happens to a card that is worth a line in its log."""

    BOUGHT = "bought", "bought"
    FORMATTED = "formatted", "formatted"
    FAILURE = "failure", "failure"
    FOUND = "found", "found"
    CHECKED = "checked", "checked"
    RETIRED = "retired", "retired"


class CardLogEntry(models.Model):
    """One dated line of a card's log."""

    card = models.ForeignKey(Card, models.CASCADE, related_name="log")
    on = models.DateField()
    event = models.CharField(max_length=10, choices=CardEvent)
    words = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["on", "pk"]
        constraints = [one_of("event", CardEvent.values, name="card_event_is_a_known_one")]

    def __str__(self) -> str:
        return f"{self.on}: {self.get_event_display()}"
