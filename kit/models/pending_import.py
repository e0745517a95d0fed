"""A file that somebody has sent, checked piece by piece before any of it is saved."""

from django.conf import settings
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models


class PendingImport(models.Model):
    """What a file holds, and what saving it would do; nothing of it is in the kit yet.

    `entries` are [kind, place, document]; `plan` has for each entry that was checked so far its
    action, its item's name, why, and the version of the item that it would change.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    file_name = models.CharField(max_length=100)
    entries = models.JSONField(encoder=DjangoJSONEncoder)
    plan = models.JSONField(default=list)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.file_name

    @property
    def checked(self) -> bool:
        """Whether every entry has been checked."""
        return len(self.plan) == len(self.entries)
