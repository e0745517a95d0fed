"""A database of an earlier day, migrated forward: all that people had is still there."""

import gzip
import json
import os
import subprocess
import sys
from graphlib import TopologicalSorter
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import psycopg
from django.conf import settings
from django.db.migrations.loader import MigrationLoader
from django.test import SimpleTestCase

from kit.document import KINDS
from kit.earlier_documents import GONE

STATES = Path(__file__).parent / "state"
SEEN_AFTERWARDS = """
import json, re
import django
django.setup()
from django.contrib.auth import get_user_model
from django.test import Client
from sharing.models import Share
from kit.models import PendingImport, Revision

seen = {}
for owner in get_user_model().objects.all():
    client = Client(SERVER_NAME="localhost")
    client.force_login(owner)
    kit = json.loads(client.get("/kit/export/json/").getvalue())
    pages = ["/", "/cards/", "/bodies/", "/fits/", "/prices/", "/choose/", "/account/", "/kit/"]
    pages += [f"/account/shared/{share.token}/" for share in Share.objects.filter(owner=owner)]
    pages += [f"/kit/import/{one.pk}/" for one in PendingImport.objects.filter(owner=owner)]
    last = Revision.objects.filter(owner=owner, words__startswith="Log of").first()
    seen[owner.email] = {
        "kit": kit,
        "statuses": sorted({client.get(page).status_code for page in pages}),
        "pages": len(pages),
        "undone": "be undone" not in str(client.post(f"/kit/undo/{last.pk}/", follow=True).content),
        "password": owner.check_password("a long enough pass phrase"),
    }
print("SEEN", json.dumps(seen))
"""


# The kit as it would be exported, the bursts of its bodies, and an old export imported again.
TOLD_AFTERWARDS = """
import json, sys
import django
django.setup()
from django.contrib.auth import get_user_model
from django.test import Client
from kit import edit
from kit.document import KINDS, document_of
from kit.earlier_documents import brought_up_to_date

before = json.load(sys.stdin)
client = Client(SERVER_NAME="localhost")
client.force_login(get_user_model().objects.get(email="ann@example.org"))
bob = get_user_model().objects.create(email="bob@example.org")
told = {"bursts": {}, "kit": json.loads(client.get("/kit/export/json/").getvalue()), "again": {}}
for query in before["bursts"]:
    told["bursts"][query] = json.loads(client.get(query).content)["result"]
for kind, items in before["kit"].items():
    if kind in KINDS:
        told["again"][kind] = [
            document_of(edit.add(KINDS[kind], bob, brought_up_to_date(KINDS[kind], item)).changed)
            for item in items
        ]
print("TOLD", json.dumps(told, default=str))
"""


class Dependencies(SimpleTestCase):
    def test_no_migrations_of_two_apps_depend_on_each_other(self) -> None:
        needs: dict[str, set[str]] = {}
        for (app, _), migration in MigrationLoader(None).disk_migrations.items():
            needs.setdefault(app, set()).update(
                settings.AUTH_USER_MODEL.split(".")[0] if other == "__setting__" else other
                for other, _ in migration.dependencies
            )
        graph = {app: others - {app} for app, others in needs.items()}
        self.assertIn("sharing", TopologicalSorter(graph).static_order())


class Upgrade(SimpleTestCase):
    def setUp(self) -> None:
        self.server = urlsplit(os.environ["DATABASE_URL"])
        self.name = f"upgrade_{os.getpid()}"
        self.ask("postgres", f"DROP DATABASE IF EXISTS {self.name}", f"CREATE DATABASE {self.name}")
        self.addCleanup(self.ask, "postgres", f"DROP DATABASE {self.name} WITH (FORCE)")

    def ask(self, database: str, *questions: str) -> None:
        address = self.server._replace(scheme="postgresql", path=f"/{database}").geturl()
        with psycopg.connect(address, autocommit=True) as connection:
            for question in questions:
                connection.execute(question)

    def python(self, *words: str, given: str = "") -> str:
        address = self.server._replace(path=f"/{self.name}").geturl()
        environment = os.environ | {"DATABASE_URL": address, "PYTHONPATH": str(settings.BASE_DIR)}
        command = [sys.executable, *words]
        done = subprocess.run(
            command, cwd=settings.BASE_DIR, env=environment, input=given, capture_output=True,
            text=True,
        )  # fmt: skip
        self.assertEqual(0, done.returncode, done.stderr)
        return done.stdout

    def migrated(self, day: str) -> Any:
        """What was seen of a database of that day, which is there as it would be today."""
        dump = gzip.decompress((STATES / f"{day}.sql.gz").read_bytes()).decode()
        lines = [line for line in dump.splitlines() if not line.startswith("\\")]
        self.ask(self.name, "\n".join(lines))
        self.python("manage.py", "migrate", "--verbosity", "0")
        self.python("manage.py", "createcachetable", "--verbosity", "0")
        return json.loads(gzip.decompress((STATES / f"{day}.json.gz").read_bytes()))

    def test_what_was_learnt_is_as_before_in_the_database_and_in_an_old_export(self) -> None:
        before = self.migrated("2026-11-29")
        answer = self.python("-c", TOLD_AFTERWARDS, given=json.dumps(before))
        told = json.loads(answer.split("TOLD ")[1])
        self.assertEqual(before["bursts"].keys(), told["bursts"].keys())
        self.assertTrue(all(now["frames"] for now in told["bursts"].values()))
        learnt, now = (
            [row["value"] for body in kit["bodies"] for row in body["learnt_figures"]]
            for kit in (before["kit"], told["kit"])
        )
        self.assertEqual((8, learnt), (len(now), now))
        for kind, items in told["again"].items():
            self.assertEqual(told["kit"][kind], items)

    def test_a_kit_of_an_earlier_day_is_whole_and_can_be_worked_with(self) -> None:
        before = self.migrated("2026-11-26")
        seen = json.loads(self.python("-c", SEEN_AFTERWARDS).split("SEEN ")[1])
        for email, kit in before.items():
            with self.subTest(email):
                after = seen[email]
                for kind, items in kit.items():
                    now = {item["slug"]: item for item in after["kit"][kind]}
                    for item in items:
                        today = now[item["slug"]]
                        kept = {
                            key: said
                            for key, said in item.items()
                            if key not in GONE.get(KINDS[kind], ())
                        }
                        self.assertEqual(kept, {key: today[key] for key in kept})
                self.assertEqual(([200], True), (after["statuses"], after["password"]))
                self.assertTrue(after["undone"])
                self.assertEqual(11, after["pages"])
