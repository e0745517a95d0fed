"""Jobs of the background worker: who is done when, and what stops one."""

import os
import signal
import subprocess
import sys
import time
from random import Random
from unittest import mock

from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import connection
from django.test import RequestFactory, TestCase, TransactionTestCase
from procrastinate.contrib.django.models import ProcrastinateJob

from kit import importing
from kit.kit_file import Entry
from kit.models import PendingImport
from kit.tasks import check
from pages import background


class Jobs(TestCase):
    def begin(self, key: str, visitor: str = "a visitor", about_s: float = 1) -> None:
        background.begin(check, key, visitor, about_s, pk=0)

    def ahead(self, *keys: str) -> list[int]:
        return [background.place_of(key)[0] for key in keys]

    def test_a_job_is_queued_once_and_waits_for_those_before_it(self) -> None:
        for key in ("first", "second", "first"):
            self.begin(key)
        self.assertEqual(2, ProcrastinateJob.objects.count())
        self.assertEqual([0, 1, 0], self.ahead("first", "second", "none"))
        self.assertTrue(background.is_begun("second"))
        self.assertFalse(background.is_begun("none"))

    def test_others_come_first_only_while_two_are_worked_on(self) -> None:
        for visitor in ("ann", "bob", "cid", "dan"):
            self.begin(visitor, visitor)
        self.assertEqual([0, 0, 1, 2], self.ahead("ann", "bob", "cid", "dan"))

    def test_whatever_is_queued_a_short_job_waits_for_short_ones_and_one_long_one_only(
        self,
    ) -> None:
        """Taken as the worker takes them: the time that is told is the time that it takes."""
        random = Random(1)
        for trial in range(10):
            ProcrastinateJob.objects.all()._raw_delete("default")
            for number in range(12):
                long = number % 2 == 0
                about_s = random.randint(10, 60) if long else random.randint(1, 4)
                self.begin(f"{trial} {number}", f"guest {random.randrange(6)}", about_s)
            self.begin("mine", "me", 3)
            jobs, done_s = background.place_of("mine")
            shorter = ProcrastinateJob.objects.filter(priority__gte=-3).exclude(lock="me")
            self.assertLessEqual(jobs, shorter.count())
            self.assertLessEqual(done_s, 3 + sum(-one.priority for one in shorter))
            self.assertEqual({"short"}, {one.queue_name for one in shorter})

    def test_jobs_of_one_visitor_follow_each_other_whatever_they_are(self) -> None:
        for number in range(5):
            self.begin(f"{number}", "ann", 1)
        self.begin("other", "bob", 1)
        self.assertEqual([0, 4], [*self.ahead("0"), *self.ahead("4")])
        self.assertEqual(["ann"] * 5 + ["bob"], [one.lock for one in self.jobs()])

    def jobs(self) -> list[ProcrastinateJob]:
        return list(ProcrastinateJob.objects.order_by("pk"))

    def test_a_job_that_fails_is_told_and_not_begun_again(self) -> None:
        request = RequestFactory().get("/", REMOTE_ADDR="192.0.2.7")
        request.user = mock.Mock(pk=None)
        with self.assertRaises(ZeroDivisionError), background.told_where_it_fails("broken"):
            _ = 1 / 0
        told = background.wait_for_job(request, check, "broken", 1, pk=0)
        self.assertIn("fault of Ondata's", told.sentence)
        self.assertFalse(self.jobs())

    def test_what_is_asked_for_too_often_within_the_hour_is_refused(self) -> None:
        request = RequestFactory().get("/", REMOTE_ADDR="192.0.2.7")
        request.user = mock.Mock(pk=None, is_authenticated=False)
        with mock.patch.object(background, "AN_HOUR", 2):
            told = [background.wait_for_job(request, check, f"{n}", 1, pk=0) for n in range(3)]
        self.assertEqual([False, False, True], [one.refused for one in told])
        self.assertEqual(2, len(self.jobs()))

    def test_of_two_requests_at_once_one_queues_it(self) -> None:
        with mock.patch.object(background, "is_begun", return_value=False):
            self.begin("same")
            self.begin("same")
        self.assertEqual(1, ProcrastinateJob.objects.count())

    def test_a_job_is_waited_for_until_nobody_asks_any_more(self) -> None:
        background.wait_for("it")
        self.assertTrue(background.is_waited_for("it"))
        background.wait_no_more("it")
        self.assertFalse(background.is_waited_for("it"))
        with mock.patch.object(background, "WAITED_FOR_S", -1):
            background.wait_for("it")
        self.assertFalse(background.is_waited_for("it"))

    def test_without_an_account_a_visitor_is_an_address(self) -> None:
        request = RequestFactory().get("/", REMOTE_ADDR="192.0.2.7")
        request.user = mock.Mock(pk=None)
        self.assertEqual("at-192.0.2.7", background.visitor_of(request))
        request.user.pk = 3
        self.assertEqual("account-3", background.visitor_of(request))


class RealWorker(TransactionTestCase):
    """The worker as it runs."""

    PATIENCE_S = 60

    def start(self) -> subprocess.Popen[bytes]:
        url = os.environ["DATABASE_URL"].rpartition("/")[0]
        worker = subprocess.Popen(
            [sys.executable, "manage.py", "procrastinate", "worker"], cwd=settings.BASE_DIR,
            env=os.environ | {"DATABASE_URL": f"{url}/{connection.settings_dict['NAME']}"},
            stdout=subprocess.DEVNULL,
        )  # fmt: skip
        self.addCleanup(worker.wait)
        self.addCleanup(worker.kill)
        return worker

    def until(self, true) -> None:
        end = time.monotonic() + self.PATIENCE_S
        while not true():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.1)

    def test_a_job_is_done_and_the_next_worker_goes_on_where_one_was_killed(self) -> None:
        owner = get_user_model().objects.create(email="ann@example.org")
        document = {"maker": "Tarn", "form": "SD", "bus": "UHS-I", "capacity_gb": 64,
                    "sustained_write_mb_s": 40, "sustained_source": "printed"}  # fmt: skip
        entries = [Entry("cards", "", document | {"name": f"Shoal {n}"}) for n in range(3_000)]
        pending = importing.receive(owner, "kit.json", entries)

        def checked() -> int:
            return PendingImport.objects.values_list("checked_count", flat=True).get()

        first = self.start()
        background.begin(check, "a file", "ann", 1, pk=pending.pk)
        self.until(checked)
        first.send_signal(signal.SIGKILL)
        first.wait()
        self.assertLess(checked(), len(entries))
        self.assertTrue(background.is_begun("a file"))
        self.start()
        self.until(lambda: checked() == len(entries))
        self.until(lambda: not background.is_begun("a file"))
        self.assertTrue(background.has_worker())
