"""Longer work: jobs that the background worker does, one of a kind for each visitor at a time.

A job says what it is by its `key`, so that asking for it twice does it once. One that is only
wanted while somebody waits stops by itself when no page has asked for it for `WAITED_FOR_S`.
"""

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.core.cache import caches
from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpRequest
from django.utils import timezone
from django.utils.connection import ConnectionProxy
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.tasks import Task

WAITED_FOR_S = 3  # after a page has last asked; pages ask more than once a second
ALIVE = timedelta(seconds=8)  # since a worker was last heard of
WANTED = ("todo", "doing")
UPKEEP = "upkeep"  # the queue of what nobody asks for and nobody waits for

results = ConnectionProxy(caches, "results")


def visitor_of(request: HttpRequest) -> str:
    """Whose jobs are done one after the other: an account's, or those from one address."""
    return f"account-{request.user.pk}" if request.user.pk else f"at-{request.META['REMOTE_ADDR']}"


def begin(task: Task[Any, Any, Any], key: str, turn: str, /, **arguments: Any) -> None:
    """Queues a job unless it is queued or worked on; jobs of one `turn` follow each other."""
    if is_begun(key):
        return
    try:
        with transaction.atomic():
            task.configure(lock=turn, queueing_lock=key).defer(**arguments)
    except AlreadyEnqueued:
        pass  # by another request, just now


def is_begun(key: str) -> bool:
    """Whether a job is queued or worked on."""
    return _wanted().filter(queueing_lock=key).exists()


def ahead(key: str) -> int:
    """How many jobs have to end before the queued one begins; 0: it is begun, or about to be."""
    queued = _wanted().filter(queueing_lock=key, status="todo").order_by("pk").first()
    if queued is None:
        return 0
    before = _wanted().filter(pk__lt=queued.pk)
    of_others = before.count() - (settings.JOBS_AT_ONCE - 1)
    return max(before.filter(lock=queued.lock).count(), of_others)


def has_worker() -> bool:
    """Whether any worker has lately been heard of."""
    since = timezone.now() - ALIVE
    return ProcrastinateWorker.objects.filter(last_heartbeat__gte=since).exists()


def wait_for(key: str) -> None:
    """Notes that somebody waits for a job."""
    results.set(f"waited-for:{key}", True, WAITED_FOR_S)


def wait_no_more(key: str) -> None:
    """Lets a job stop."""
    results.delete(f"waited-for:{key}")


def is_waited_for(key: str) -> bool:
    """Whether anybody waits for a job."""
    return bool(results.get(f"waited-for:{key}"))


def _wanted() -> QuerySet[ProcrastinateJob]:
    return ProcrastinateJob.objects.filter(status__in=WANTED).exclude(queue_name=UPKEEP)
