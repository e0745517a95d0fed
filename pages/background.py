"""Longer work: jobs that the background workers do, one for each visitor at a time.

A job says what it is by its `key`, so that asking for it twice does it once. Of all that wait the
shortest comes first, and one worker is left to short jobs. One that is only wanted while somebody
waits stops by itself when no page has asked for it for `WAITED_FOR_S`.
"""

import hashlib
import math
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.base_user import AbstractBaseUser
from django.contrib.auth.models import AnonymousUser
from django.core.cache import caches
from django.db import InterfaceError, OperationalError, transaction
from django.db.models import Q, QuerySet
from django.http import HttpRequest
from django.utils import timezone
from django.utils.connection import ConnectionProxy
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.tasks import Task

from engine.formats import figure
from pages.limits import is_over

# After a page has last asked; pages ask more than once a second, and tests on a slow machine once.
WAITED_FOR_S = 600 if settings.TESTS else 3
ALIVE = timedelta(seconds=8)  # since a worker was last heard of
WANTED = ("todo", "doing")
SHORT, LONG = "short", "long"  # queues; the worker of short jobs does no long ones
UPKEEP = "upkeep"  # the queue of what nobody asks for and nobody waits for
SHORT_S = 5.0  # what is longer may make short jobs wait no more than that
LONGEST_S = 3_600.0
AN_HOUR = 240  # jobs of one kind for one visitor
FAILED_FOR_S = 3_600  # until what can't be worked out is tried again

results = ConnectionProxy(caches, "results")


def visitor_of(request: HttpRequest) -> str:
    """Whose jobs are done one after the other: an account's, or those from one address."""
    return account(request.user.pk) if request.user.pk else f"at-{request.META['REMOTE_ADDR']}"


def visitor_numbered(pk: int | None) -> AbstractBaseUser | AnonymousUser | None:
    """Who a job is for: an account or a guest, None where it is gone; nobody without a number."""
    return AnonymousUser() if pk is None else get_user_model().objects.filter(pk=pk).first()


def job_key(kind: str, *told: object) -> str:
    """The key of a job of some kind, and of what comes of it, by all that it depends on."""
    return f"{kind}:{hashlib.sha256(repr(told).encode()).hexdigest()}"


def account(pk: int) -> str:
    """The turn of an account, or of a guest."""
    return f"account-{pk}"


@dataclass(frozen=True)
class Waiting:
    """What a page says of a job that it waits for.

    So many jobs are `ahead`, and it is done in `about_s`; `stopped` by the visitor, `refused` after
    too many, `failed` by a fault of ours; or nobody works.
    """

    ahead: int = 0
    about_s: float = 0.0
    stopped: bool = False
    refused: bool = False
    failed: bool = False
    nobody_works: bool = False

    @property
    def is_over(self) -> bool:
        """Whether it does not go on by itself."""
        return self.stopped or self.refused or self.failed

    @property
    def sentence(self) -> str:
        """What is said beside the progress; empty where there is nothing to say."""
        if self.failed:
            return "This can't be worked out, by a fault of Ondata's. It is tried again in an hour."
        if self.refused:
            return "You have asked for very much longer work within the hour. Go on in a while."
        if self.nobody_works:
            return "Longer work waits, as nothing works on it just now. It goes on by itself."
        if self.ahead:
            come = "1 job comes" if self.ahead == 1 else f"{figure(self.ahead)} jobs come"
            return f"Busy: {come} first, so that it takes about {figure(self.about_s, 's')}."
        return ""


def wait_for_job(
    request: HttpRequest, task: Task[Any, Any, Any], key: str, about_s: float, /, **arguments: Any
) -> Waiting:
    """Has a job done that takes about so long, while the page waits for it."""
    if results.get(f"failed:{key}"):
        return Waiting(failed=True)
    wait_for(key)
    if not is_begun(key):
        if is_over(request, task.name, AN_HOUR):
            return Waiting(refused=True)
        begin(task, key, visitor_of(request), about_s, **arguments)
    ahead, done_s = place_of(key)
    return Waiting(ahead, done_s, nobody_works=not has_worker())


def begin(
    task: Task[Any, Any, Any], key: str, visitor: str, about_s: float, /, **arguments: Any
) -> None:
    """Queues a job of about that length unless it is queued or worked on."""
    if is_begun(key):
        return
    length_s = math.ceil(min(about_s, LONGEST_S))
    queue = SHORT if length_s <= SHORT_S else LONG
    try:
        with transaction.atomic():
            task.configure(queue=queue, priority=-length_s, lock=visitor, queueing_lock=key).defer(
                **arguments
            )
    except AlreadyEnqueued:
        pass  # by another request, just now


@contextmanager
def noted_where_it_fails(note: Callable[[], object]) -> Iterator[None]:
    """Has it noted that a job can't be done, so that it is not tried for ever.

    A database that does not answer is no fault of the job's.
    """
    try:
        yield
    except (OperationalError, InterfaceError):
        raise
    except Exception:
        note()
        raise


def told_where_it_fails(key: str) -> AbstractContextManager[None]:
    """The same of a job that pages wait for, which say so."""
    return noted_where_it_fails(lambda: results.set(f"failed:{key}", True, FAILED_FOR_S))


def is_begun(key: str) -> bool:
    """Whether a job is queued or worked on."""
    return _wanted().filter(queueing_lock=key).exists()


def place_of(key: str) -> tuple[int, float]:
    """How many jobs have to end before the queued one begins, and in how many seconds it is done.

    0 jobs: it is begun, or about to be. Of jobs that are worked on half is taken to be left.
    """
    queued = _wanted().filter(queueing_lock=key, status="todo").order_by("pk").first()
    if queued is None:
        return 0, 0.0
    sooner = Q(priority__gt=queued.priority) | Q(priority=queued.priority, pk__lt=queued.pk)
    before = list(_wanted().filter(Q(status="doing") | (Q(status="todo") & sooner)))
    mine = [one for one in before if one.lock == queued.lock]
    at_once = settings.WORKERS_OF_QUEUE.get(queued.queue_name, 1)
    lengths_s = [-one.priority / (2 if one.status == "doing" else 1) for one in before]
    of_mine_s = sum(-one.priority for one in mine)
    wait_s = max(sum(lengths_s) / at_once, of_mine_s)
    return max(len(mine), len(before) - at_once + 1, 0), wait_s - queued.priority


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
