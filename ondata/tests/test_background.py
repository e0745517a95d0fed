"""Jobs of the background worker: who is done when, and what stops one."""

from unittest import mock

from django.test import RequestFactory, TestCase
from procrastinate.contrib.django.models import ProcrastinateJob

from ondata.upkeep import rescue
from pages import background


class Jobs(TestCase):
    def begin(self, key: str, turn: str = "a visitor") -> None:
        background.begin(rescue, key, turn, timestamp=0)

    def test_a_job_is_queued_once_and_waits_for_those_before_it(self) -> None:
        for key in ("first", "second", "first"):
            self.begin(key)
        self.assertEqual(2, ProcrastinateJob.objects.count())
        self.assertEqual([0, 1, 0], list(map(background.ahead, ("first", "second", "none"))))
        self.assertTrue(background.is_begun("second"))
        self.assertFalse(background.is_begun("none"))

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
