"""What every item of the kit has: an owner, a place in addresses, a state, sources of numbers."""

from typing import Any, ClassVar, Self

from django.conf import settings
from django.contrib.auth.base_user import AbstractBaseUser
from django.contrib.auth.models import AnonymousUser
from django.db import models
from django.db.models import F, Q, UniqueConstraint

from engine.cards.standards import BUSES_OF_FORM, Bus, Form, kind_on_bus
from kit.constraints import Fact

FORM_CHOICES = [(form.value, form.value) for form in Form]
BUS_CHOICES = [(bus.value, bus.value) for bus in Bus]

LONGEST_SLUG = 80

Visitor = AbstractBaseUser | AnonymousUser


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


class OwnedQuerySet(models.QuerySet[Any]):
    """Rows of the sample kit have no owner and are everybody's to use, nobody's to change."""

    def visible_to(self, visitor: Visitor) -> Self:
        """The visitor's own rows, then those of the sample kit; archived ones included."""
        seen = self.filter(Q(owner=None) | Q(owner=visitor.pk))
        return seen.order_by(F("owner").asc(nulls_last=True), *self.model._meta.ordering)

    def owned_by(self, visitor: Visitor) -> Self:
        """The visitor's own rows; none without an account."""
        return self.filter(owner=visitor.pk, owner__isnull=False)

    def offered_to(self, visitor: Visitor) -> Self:
        """What lists and choices offer: the visitor's own, and the sample kit's where it is shown.

        A link to a row of the sample kit still opens: that is `visible_to`.
        """
        seen = self.visible_to(visitor)
        return seen if sample_is_shown(visitor) else seen.exclude(owner=None)


class KitQuerySet(OwnedQuerySet):
    """Items of the kit, which can be archived."""

    def current(self) -> Self:
        """Rows that are not archived."""
        return self.filter(archived_at=None)

    def of_sample_kit(self) -> Self:
        """Those of the sample kit."""
        return self.filter(owner=None)

    def archived(self) -> Self:
        """Rows that are."""
        return self.exclude(archived_at=None)


class Owned(models.Model):
    """A row of somebody's; without an owner, of the sample kit."""

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.CASCADE, null=True, blank=True, related_name="+"
    )

    class Meta:
        abstract = True

    @property
    def is_sample(self) -> bool:
        """Whether it is everybody's: of the sample kit."""
        return self.owner_id is None

    @property
    def whose(self) -> str:
        """The group that a list puts it into."""
        return "sample kit" if self.is_sample else "yours"


class KitItem(Owned):
    """A body, card or reader of somebody's kit; without an owner, of the sample kit.

    `version` counts the changes, so that of two open forms the second is told. `named_by` are the
    fields that no two items of one owner share, the one that tells several of a kind apart last.
    """

    named_by: ClassVar[tuple[str, ...]] = ("maker", "name")

    slug = models.SlugField(max_length=LONGEST_SLUG)
    maker = models.CharField(max_length=40)
    name = models.CharField(max_length=40)
    remarks = models.TextField(blank=True, max_length=2_000)
    version = models.PositiveIntegerField(default=1, editable=False)
    archived_at = models.DateTimeField(null=True, blank=True, editable=False)

    objects = KitQuerySet.as_manager()

    class Meta:
        abstract = True

    def __str__(self) -> str:
        return self.maker_and_name

    @property
    def maker_and_name(self) -> str:
        """What it is called; once, where only one word was given."""
        return self.name if self.maker == self.name else f"{self.maker} {self.name}"


def owns_anything(visitor: Visitor) -> bool:
    """Whether the visitor's kit has an item that is not archived."""
    if visitor.pk is None:
        return False
    kinds = (model for model in KitItem.__subclasses__() if not model._meta.abstract)
    own = [model.objects.filter(owner=visitor.pk, archived_at=None).values("pk") for model in kinds]
    return own[0].union(*own[1:]).exists()


def sample_is_shown(visitor: Visitor) -> bool:
    """Whether the sample kit is offered: it goes once there is anything of one's own, unless
    asked for.
    """
    return getattr(visitor, "shows_sample", False) or not owns_anything(visitor)


def listed_once(*fields: str, name: str) -> UniqueConstraint:
    """No two rows of one owner agree in all of `fields`."""
    return UniqueConstraint(fields=["owner", *fields], nulls_distinct=False, name=name)


def bus_belongs_to_form(name: str) -> Fact:
    pairs = Q()
    for form, buses in BUSES_OF_FORM.items():
        pairs |= Q(form=form, bus__in=buses)
    return Fact(
        condition=pairs,
        name=name,
        violation_error_code="wrong_bus",
        violation_error_message="This form has no such bus.",
    )


class FormOnBus(models.Model):
    """A form that something takes, and the bus on which it runs it."""

    form = models.CharField(max_length=20, choices=FORM_CHOICES)
    bus = models.CharField(max_length=20, choices=BUS_CHOICES)

    class Meta:
        abstract = True
        ordering = ["pk"]

    def __str__(self) -> str:
        return kind_on_bus(Form(self.form), Bus(self.bus))
