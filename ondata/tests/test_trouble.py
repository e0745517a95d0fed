"""What is said when a request can't be answered just now."""

import logging
import time
from contextlib import suppress
from errno import ENOSPC
from smtplib import SMTPException
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.core.cache import cache
from django.db import OperationalError, connection
from django.test import TestCase
from django.urls import reverse
from psycopg import Connection
from psycopg import OperationalError as OperationalErrorOfServer
from psycopg_pool import ConnectionPool, PoolTimeout

from kit.models import Change


class NotJustNow(TestCase):
    def test_a_database_that_does_not_answer_is_told_from_a_fault(self) -> None:
        self.client.raise_request_exception = False
        for error, status, said in (
            (OperationalError("gone"), 503, "Its database, its disk"),
            (OSError(ENOSPC, "No space left on device"), 503, "Its database, its disk"),
            (SMTPException("no mail"), 503, "Its database, its disk"),
            (ValueError("a fault"), 500, "Something broke here"),
        ):
            with patch.object(Change, "version_for", side_effect=error), self.assertLogs():
                answer = self.client.get("/")
            self.assertContains(answer, said, status_code=status)

    def test_a_database_that_was_away_for_long_is_reached_soon_after_it_is_back(self) -> None:
        back_s = time.monotonic() + 8

        class Away(Connection[Any]):
            @classmethod
            def connect(cls, *args: Any, **options: Any) -> Any:
                if time.monotonic() < back_s:
                    raise OperationalErrorOfServer
                return super().connect(*args, **options)

        options = settings.DATABASES["default"]["OPTIONS"]["pool"]
        reach = connection.get_connection_params()
        pool = ConnectionPool("", connection_class=Away, kwargs=reach, **options, open=True)
        self.addCleanup(pool.close)
        logging.disable(logging.WARNING)
        self.addCleanup(logging.disable, logging.NOTSET)
        reached = None
        while reached is None:
            with suppress(PoolTimeout):
                reached = pool.getconn(timeout=0.2)
        pool.putconn(reached)
        self.assertLess(time.monotonic() - back_s, 3)

    def test_the_health_address_asks_the_database(self) -> None:
        self.client.raise_request_exception = False
        with self.assertNumQueries(1):
            self.assertEqual(b"ok", self.client.get(reverse("health")).content)
        with (
            patch("pages.health.connection.cursor", side_effect=OperationalError),
            self.assertLogs(),
        ):
            self.assertEqual(503, self.client.get(reverse("health")).status_code)

    def test_what_is_tried_too_often_is_refused_for_a_while(self) -> None:
        cache.clear()
        forgotten = reverse("forgotten")
        typed = ("ann@example.org", "Ann@Example.org", " ann@example.org", "ANN@EXAMPLE.ORG") * 2
        answers = [self.client.post(forgotten, {"email": one}).status_code for one in typed[:6]]
        self.assertEqual([302] * 5 + [429], answers)
        again = self.client.post(forgotten, {"email": "ben@example.org"})
        self.assertEqual(302, again.status_code)
