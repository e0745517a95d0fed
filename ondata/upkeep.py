"""What the background worker does by itself: takes up jobs of dead workers, and tidies up."""

from datetime import datetime, timedelta

from django.conf import settings
from django.core.management import call_command
from django.db import connection
from django.utils import timezone
from procrastinate import JobContext
from procrastinate.contrib.django import app

from accounts.models import User
from bench import example as bench_example
from choose import example as choose_example
from kit.models import Change, PendingImport, Revision
from pages.background import ALIVE, LONG, UPKEEP, results

EXAMPLES, LOOKED_AFTER_S, TAKES_S = "examples", 3_600, 30
KEPT_DAYS = {"imports": 7, "revisions": 730}


@app.periodic(cron="* * * * * */5")
@app.task(name="rescue", queue=UPKEEP, queueing_lock="rescue", pass_context=True)
async def rescue(context: JobContext, timestamp: int) -> None:
    """Queues again what a worker was doing that is no longer heard of."""
    jobs = context.app.job_manager
    for job in await jobs.get_stalled_jobs(seconds_since_heartbeat=ALIVE.total_seconds()):
        await jobs.retry_job(job)


@app.periodic(cron="* * * * * */20")
@app.task(name="examples", queue=LONG, priority=-TAKES_S, queueing_lock="examples")
def keep_examples_ready(timestamp: int) -> None:
    """Works out one example that a newcomer would wait for, if any is missing."""
    if not results.get(EXAMPLES) and not (bench_example.prepare() or choose_example.prepare()):
        results.set(EXAMPLES, "ready", LOOKED_AFTER_S)


@app.periodic(cron="17 3 * * *")
@app.task(name="prune", queue=UPKEEP, queueing_lock="prune")
def prune(timestamp: int) -> None:
    """Deletes what nobody comes back to."""
    call_command("clearsessions")
    PendingImport.objects.filter(made_at__lt=_days_ago("imports")).delete()
    Revision.objects.filter(made_at__lt=_days_ago("revisions")).delete()
    Change.objects.superseded().delete()
    User.objects.expired_guests().delete()
    kept_in_tables = [cache for cache in settings.CACHES.values() if "LOCATION" in cache]
    for cache in kept_in_tables:
        table = connection.ops.quote_name(str(cache["LOCATION"]))
        with connection.cursor() as cursor:
            cursor.execute(f"DELETE FROM {table} WHERE expires < now()")  # noqa: S608


def _days_ago(what: str) -> datetime:
    return timezone.now() - timedelta(days=KEPT_DAYS[what])
