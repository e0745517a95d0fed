"""The background worker in tests: what is queued is done here and now."""

from typing import Any
from unittest import mock

from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from pages import background

PATIENCE_S = 600  # a busy machine may take as long for the longest job


def work_off() -> int:
    """Does all queued jobs in their order, once each; returns how many there were."""
    jobs = list(ProcrastinateJob.objects.filter(status="todo").order_by("pk"))
    ProcrastinateJob.objects.filter(pk__in=[job.pk for job in jobs])._raw_delete("default")
    for job in jobs:
        if background.is_waited_for(job.queueing_lock):
            with mock.patch.object(background, "WAITED_FOR_S", PATIENCE_S):
                background.wait_for(job.queueing_lock)  # as by a page that asks on and on
        task: Any = app.tasks[job.task_name]
        context = [mock.Mock(**{"should_abort.return_value": False})] if task.pass_context else []
        task.func(*context, **job.args)
    return len(jobs)
