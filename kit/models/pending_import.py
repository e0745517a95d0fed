"""A file that somebody has sent, checked piece by piece before any of it is saved."""

from django.conf import settings
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models

from kit.constraints import at_most, one_of


class ImportState(models.TextChoices):
    """What becomes of a file."""

    RECEIVED = "received"
    SAVING = "saving"
    SAVED = "saved"
    FAILED = "failed"


class PendingImport(models.Model):
    """What a file holds, and what saving it would do.

    `entries` are [kind, place, document]; `plan` has for each entry that was checked so far its
    action, its item's name, why, and the version of the item that it would change. Both are empty
    once all is in the kit. `words` say what came of the last try to save it.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    file_name = models.CharField(max_length=100)
    entries = models.JSONField(encoder=DjangoJSONEncoder)
    plan = models.JSONField(default=list)
    entry_count = models.PositiveIntegerField()
    checked_count = models.PositiveIntegerField(default=0)
    row_count = models.PositiveIntegerField()
    state = models.CharField(max_length=10, choices=ImportState, default=ImportState.RECEIVED)
    words = models.CharField(max_length=200, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
        constraints = [
            one_of("state", ImportState.values, name="import_is_in_a_known_state"),
            at_most("checked_count", "entry_count", name="import_has_what_is_checked"),
        ]

    def __str__(self) -> str:
        return self.file_name

    @property
    def checked(self) -> bool:
        """Whether every entry has been checked."""
        return self.checked_count == self.entry_count

    @property
    def is_worked_on(self) -> bool:
        """Whether it is still to be checked, or saved."""
        return self.state == ImportState.SAVING or (
            self.state == ImportState.RECEIVED and not self.checked
        )
