"""Rows that were deleted, or changed, can be brought back for a day, as they were."""

import secrets
from collections.abc import Iterable, Sequence

from django.core.cache import caches
from django.core.serializers import deserialize, serialize
from django.db import transaction
from django.db.models import Model
from django.utils.connection import ConnectionProxy

KEPT_S = 24 * 3600

deleted = ConnectionProxy(caches, "deleted")


def keep_deleted(row: Model, parts: Iterable[Model] = ()) -> None:
    """Keeps a row that is to be deleted, and those that go with it."""
    deleted.set(_key(type(row), row.pk), serialize("json", [row, *parts]), KEPT_S)


def deleted_rows(model: type[Model], pk: int) -> list[Model]:
    """The row and those that went with it, not saved; none once they can't be brought back."""
    return [one.object for one in deserialize("json", deleted.get(_key(model, pk), "[]"))]


def bring_back(rows: Sequence[Model]) -> None:
    """Saves them as they were, all or none: the row that was deleted first, then its parts."""
    with transaction.atomic():
        for row in rows:
            row.save(force_insert=True)
    deleted.delete(_key(type(rows[0]), rows[0].pk))


def keep_before(row: Model, parts: Iterable[Model] = ()) -> str:
    """Keeps a row that is to be changed, and those that go with it; gives an undo its token."""
    token = secrets.token_urlsafe()
    deleted.set(f"before:{token}", serialize("json", [row, *parts]), KEPT_S)
    deleted.set(f"latest:{_key(type(row), row.pk)}", token, KEPT_S)
    return token


def take_back(row: Model, token: str) -> list[Model]:
    """The rows as they were before a change, not saved; none after another change, or too late."""
    latest = f"latest:{_key(type(row), row.pk)}"
    if deleted.get(latest) != token:
        return []
    deleted.delete(latest)
    return [one.object for one in deserialize("json", deleted.get(f"before:{token}", "[]"))]


def _key(model: type[Model], pk: int) -> str:
    return f"deleted:{model._meta.label_lower}:{pk}"
