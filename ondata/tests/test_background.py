"""Jobs of the background worker: who is done when, and what stops one."""

import os
import signal
import subprocess
import sys
import time
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
    def begin(self, key: str, turn: str = "a visitor") -> None:
        background.begin(check, key, turn, pk=0)

    def test_a_job_is_queued_once_and_waits_for_those_before_it(self) -> None:
        for key in ("first", "second", "first"):
            self.begin(key)
        self.assertEqual(2, ProcrastinateJob.objects.count())
        self.assertEqual([0, 1, 0], list(map(background.ahead, ("first", "second", "none"))))
        self.assertTrue(background.is_begun("second"))
        self.assertFalse(background.is_begun("none"))

    def test_others_come_first_only_while_two_are_worked_on(self) -> None:
        for visitor in ("ann", "bob", "cid", "dan"):
            self.begin(visitor, visitor)
        self.assertEqual([0, 0, 1, 2], list(map(background.ahead, ("ann", "bob", "cid", "dan"))))

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
        background.begin(check, "a file", "ann", pk=pending.pk)
        self.until(checked)
        first.send_signal(signal.SIGKILL)
        first.wait()
        self.assertLess(checked(), len(entries))
        self.assertTrue(background.is_begun("a file"))
        self.start()
        self.until(lambda: checked() == len(entries))
        self.until(lambda: not background.is_begun("a file"))
        self.assertTrue(background.has_worker())
