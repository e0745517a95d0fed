"""When what set-ups choose from has changed, so that what is kept of it in memory is dropped."""

from typing import Self

from django.db import models
from django.db.models import Count, Max, Q, Sum

from kit.models.shared import Visitor


class ChangeQuerySet(models.QuerySet["Change"]):
    """Changes of kits."""

    def superseded(self) -> Self:
        """All but the last change of each owner.

        Without them every version is still another one than any before: of as many changes, those
        to come have higher numbers.
        """
        owners = self.order_by().values("owner_pk")
        return self.exclude(pk__in=owners.annotate(last=Max("pk")).values("last"))


class Change(models.Model):
    """One change of somebody's bodies, cards or prices; without an owner, of the sample's.

    Triggers of the database write these rows, in the transaction of the change itself: no code can
    forget to, and nothing is locked that two changes would wait for.
    """

    owner_pk = models.BigIntegerField(null=True, db_index=True)

    objects = ChangeQuerySet.as_manager()

    def __str__(self) -> str:
        return f"change {self.pk}"

    @classmethod
    def version_for(cls, visitor: Visitor) -> tuple[int, int]:
        """What is another one after each change of what `visitor` sees, and never comes again.

        How many changes there were, and the sum of their numbers: a change may be written with a
        lower number than one that was there before it.
        """
        seen = cls.objects.filter(Q(owner_pk=None) | Q(owner_pk=visitor.pk))
        told = seen.aggregate(count=Count("pk"), total=Sum("pk"))
        return told["count"], told["total"] or 0
