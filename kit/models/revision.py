"""What was there before a change, so that it can be undone."""

from typing import cast

from django.conf import settings
from django.contrib.contenttypes.fields import GenericForeignKey
from django.contrib.contenttypes.models import ContentType
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models

from kit.models.shared import KitItem


class RevisionQuerySet(models.QuerySet["Revision"]):
    """Changes of the kit."""

    def last_of(self, item: KitItem) -> "Revision | None":
        """The newest change of `item`, which can be undone; None when nothing is kept of it."""
        kind = ContentType.objects.get_for_model(item)
        return self.filter(item_type=kind, item_pk=item.pk, version=item.version).first()


class Revision(models.Model):
    """One change of one item of somebody's kit.

    `before` is the item's document before the change; null: the change made the item. `version` is
    the item's after the change: only the newest change can be undone. With it all that are
    `part_of` it are undone.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    item_type = models.ForeignKey(ContentType, models.CASCADE)
    item_pk = models.PositiveBigIntegerField()
    item = GenericForeignKey("item_type", "item_pk")
    before = models.JSONField(null=True, encoder=DjangoJSONEncoder)
    was_archived = models.BooleanField(default=False)
    version = models.PositiveIntegerField()
    words = models.CharField(max_length=200)
    part_of = models.ForeignKey("self", models.CASCADE, null=True, related_name="parts")
    made_at = models.DateTimeField(auto_now_add=True)

    objects = RevisionQuerySet.as_manager()

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["item_type", "item_pk"])]

    def __str__(self) -> str:
        return self.words

    @property
    def model(self) -> type[KitItem]:
        """The kind of item that was changed."""
        return cast("type[KitItem]", self.item_type.model_class())

    @property
    def changed(self) -> KitItem:
        """The item that was changed, as it is now; raises DoesNotExist when it is gone."""
        return self.model.objects.get(pk=self.item_pk)
