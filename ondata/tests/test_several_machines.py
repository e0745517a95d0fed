"""Two sites and two workers on one database, each request of a browser at the other site.

One site and one worker reach the database by its network address and a password over TLS. What was
done at one of them the other knows at once; one of each may be killed at any moment.
"""

import os
import random
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any
from urllib.error import HTTPError
from urllib.parse import urlencode
from urllib.request import HTTPCookieProcessor, Request, build_opener

from django.conf import settings
from django.db import connection
from django.test import TransactionTestCase
from django.urls import reverse

from accounts.models import User
from bench.models import Run
from kit import importing, sample
from kit.kit_file import Entry
from kit.models import Card, PendingImport, Revision
from kit.tasks import continue_import

BIN = Path(sys.executable).parent
PATIENCE_S = 120
SEED = 1
RUNS, ROWS = 12, 2_500


class Balanced:
    """A browser behind a balancer: its cookies are for all sites, its requests for each in turn."""

    def __init__(self, ports: list[int]) -> None:
        self.ports, self.cookies = ports, CookieJar()
        self.opener = build_opener(HTTPCookieProcessor(self.cookies))

    def ask(self, path: str, **sent: Any) -> tuple[int, str]:
        """Status and text of the answer, redirects followed."""
        self.ports.append(self.ports.pop(0))
        if sent:
            sent["csrfmiddlewaretoken"] = next(
                (one.value for one in self.cookies if one.name == "csrftoken"), ""
            )
        request = Request(
            f"http://127.0.0.1:{self.ports[0]}{path}", urlencode(sent).encode() or None
        )
        try:
            with self.opener.open(request, timeout=PATIENCE_S) as answer:
                return answer.status, answer.read().decode()
        except HTTPError as error:
            return error.code, error.read().decode()


class SeveralMachines(TransactionTestCase):
    def setUp(self) -> None:
        sample.load()
        url = os.environ["DATABASE_URL"].rpartition("/")[0]
        plain = f"{url}/{connection.settings_dict['NAME']}"
        urls = (plain, f"{plain}?sslmode=require")
        self.sites = dict(map(self.site, urls))
        self.ports = list(self.sites)
        self.workers = [
            self.begin(one, sys.executable, "manage.py", "procrastinate", "worker") for one in urls
        ]
        for port in self.ports:
            self.until(lambda port=port: self.is_up(port))

    def site(self, url: str) -> tuple[int, subprocess.Popen[bytes]]:
        with socket.create_server(("127.0.0.1", 0)) as taken:
            port = taken.getsockname()[1]
        return port, self.begin(
            url, BIN / "gunicorn", "ondata.wsgi", "--bind", f"127.0.0.1:{port}", "--workers", "1",
            "--worker-class", "ondata.server.BufferingWorker", "--no-control-socket",
        )  # fmt: skip

    def begin(self, url: str, *command: Any) -> subprocess.Popen[bytes]:
        process = subprocess.Popen(
            command, cwd=settings.BASE_DIR, env=os.environ | {"DATABASE_URL": url},
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True,
        )  # fmt: skip
        self.addCleanup(process.wait)
        self.addCleanup(self.kill, process)
        return process

    def kill(self, process: subprocess.Popen[bytes]) -> None:
        """With all that it has started."""
        if process.poll() is None:
            os.killpg(process.pid, signal.SIGKILL)

    def until(self, true: Callable[[], Any]) -> None:
        end = time.monotonic() + PATIENCE_S
        while not true():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.1)

    def is_up(self, port: int) -> bool:
        try:
            return Balanced([port]).ask("/health/")[0] == 200
        except OSError:
            return False

    def test_they_are_one_site(self) -> None:
        ann = Balanced(self.ports)
        sample_card = reverse("card", args=["gravelock-tide-256"])
        self.assertEqual(200, ann.ask(sample_card)[0])
        for kind, slug in (("cards", "gravelock-tide-256"), ("bodies", "varnholt-vx-3")):
            self.assertEqual(200, ann.ask(reverse("duplicate", args=[kind, slug]), once=1)[0])
        guest = User.objects.guests().get()
        mine = Card.objects.owned_by(guest).get()
        self.what_one_has_changed_the_other_shows(ann, mine)
        self.tries_count_together()
        self.nothing_is_lost_when_one_of_each_is_killed(ann, guest, mine)

    def what_one_has_changed_the_other_shows(self, ann: Balanced, mine: Card) -> None:
        desk = f"/?card1={mine.slug}"
        acts = [
            (reverse("archive", args=["cards", mine.slug]), False),
            (reverse("bring-back", args=["cards", mine.slug]), True),
        ]
        for number, (act, is_there) in enumerate(acts):
            both = [ann.ask(desk) for _ in self.ports]  # now both have the kit in memory
            self.assertEqual(
                [not is_there] * 2, [f'value="{mine.slug}"' in text for _, text in both]
            )
            self.assertEqual(200, ann.ask(act, once=number)[0])
            both = [ann.ask(desk) for _ in self.ports]
            self.assertEqual([is_there] * 2, [f'value="{mine.slug}"' in text for _, text in both])
        last = Revision.objects.filter(owner=mine.owner).latest("pk")
        ann.ask(reverse("undo", args=[last.pk]), once=9)
        self.assertTrue(Card.objects.get(pk=mine.pk).archived_at)
        ann.ask(reverse("bring-back", args=["cards", mine.slug]), once=10)

    def tries_count_together(self) -> None:
        bob, told = Balanced(self.ports), []
        for _ in range(6):
            bob.ask(reverse("sign-in"))
            wrong = {"username": "bob@example.org", "password": "wrong"}
            told.append(bob.ask(reverse("sign-in"), **wrong)[0])
        self.assertEqual([200] * 5 + [429], told)

    def nothing_is_lost_when_one_of_each_is_killed(
        self, ann: Balanced, guest: User, mine: Card
    ) -> None:
        chance, setup = random.Random(SEED), f"card1={mine.slug}"
        for number in range(RUNS):
            run = {"setup": setup, "hold_s": "6", "frames": 40 + number, "method": "tap"}
            self.assertEqual(200, ann.ask(reverse("bench-test"), **run)[0])
            if number == RUNS // 2:
                self.kill(self.sites[self.ports.pop(chance.randrange(2))])
        self.assertEqual(RUNS, Run.objects.made_by(guest).count())
        row = {"maker": "Tarn", "form": "SD", "bus": "UHS-I", "capacity_gb": 64,
               "sustained_write_mb_s": 40, "sustained_source": "printed"}  # fmt: skip
        entries = [Entry("cards", "", row | {"name": f"Shoal {n}"}) for n in range(ROWS)]
        continue_import(importing.receive(guest, "kit.json", entries))

        def checked() -> int:
            return PendingImport.objects.values_list("checked_count", flat=True).get()

        self.until(checked)
        self.kill(self.workers[chance.randrange(2)])
        self.until(lambda: checked() == ROWS)
