"""A backup of one clone, restored into a fresh one: the same accounts, and the same answers."""

import os
import shutil
import subprocess
import tempfile
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

LEFT_OUT = (".git", ".venv", "var", "node_modules", ".mypy_cache", ".ruff_cache", ".hypothesis")
FILL = """
from django.contrib.auth import get_user_model
from kit import sample
from kit import edit
from kit.models import Card
sample.load()
ann = get_user_model()(email="ann@example.org", shows_sample=True)
ann.set_password("a long enough pass phrase")
ann.save()
for card in Card.objects.filter(owner=None)[:4]:
    edit.copy(card, ann)
"""
ASK = """
import re
from django.contrib.auth import authenticate, get_user_model
from django.test import Client, RequestFactory
ann = get_user_model().objects.get(email="ann@example.org")
assert ann.check_password("a long enough pass phrase")
client = Client(SERVER_NAME="localhost")
client.force_login(ann)
for page in ("/", "/?hold=9&iso=6400", "/cards/", "/fits/", "/choose/?story=take-off"):
    for _ in range(50):  # Choose does some of its work at each
        text = client.get(page).content.decode()
        if "progress-of-choice" not in text:
            break
    print(re.sub(r'(name="csrfmiddlewaretoken" value=|nonce=)"[^"]*"', "", text))
print(client.get("/kit/export/json/").getvalue().decode())
"""


class Backup(SimpleTestCase):
    def clone(self, name: str) -> Path:
        """A copy of this clone without its data, with what is installed and compiled."""
        place = self.folder / name
        shutil.copytree(settings.BASE_DIR, place, ignore=shutil.ignore_patterns(*LEFT_OUT))
        (place / ".venv").symlink_to(settings.BASE_DIR / ".venv")
        shutil.copytree(settings.BASE_DIR / "var" / "static", place / "var" / "static")
        for stamp in (settings.BASE_DIR / "var").glob("compiled-*"):
            shutil.copy(stamp, place / "var")
        return place

    def run_in(self, place: Path, *words: str) -> str:
        names = ("DATABASE_URL", "SECRET_KEY", "STATIC_ROOT")
        environment = {key: value for key, value in os.environ.items() if key not in names}
        done = subprocess.run(words, cwd=place, env=environment, capture_output=True, text=True)
        self.assertEqual(0, done.returncode, done.stdout + done.stderr)
        return done.stdout

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="ondata"))
        self.folder.chmod(0o755)  # the database's own user goes in and out
        self.addCleanup(shutil.rmtree, self.folder)

    def test_a_fresh_clone_gives_the_same_answers(self) -> None:
        old, fresh, file = self.clone("old"), self.clone("fresh clone"), self.folder / "backup"
        before = self.run_in(old, "bin/manage", "shell", "--no-imports", "-c", FILL + ASK)
        self.run_in(old, "bin/backup", str(file))
        self.assertEqual(0o600, file.stat().st_mode & 0o777)
        told = self.run_in(fresh, "bin/restore", str(file))
        self.assertIn("what was there before is kept", told)
        after = self.run_in(fresh, "bin/manage", "shell", "--no-imports", "-c", ASK)
        self.assertIn("Gravelock", before)
        self.assertEqual(before, after)
