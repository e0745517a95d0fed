"""Tables that go out: no cell of them is a formula to a spreadsheet, whatever things are called."""

import csv
import io
import re
from pathlib import Path

from django.conf import settings
from django.test import Client, TestCase
from django.urls import reverse

from accounts.models import User
from bench.models import Run
from kit import edit, sample
from kit.models import Body, Card
from ondata.tests.test_isolation import patterns

FORMULA = '=HYPERLINK("http://example.org")'
NUMBER = re.compile(r"[-+]?[0-9.]+(e[-+]?[0-9]+)?")
WRITES_ITSELF = {"kit/csv_cells.py", "engine/measurement/picture_table.py"}  # that of the browser


class TablesOut(TestCase):
    def test_no_cell_is_a_formula(self) -> None:
        sample.load()
        ann = User.objects.create(email="ann@example.org")
        named = {"maker": FORMULA, "remarks": FORMULA}
        body = edit.copy(Body.objects.get(slug="varnholt-vx-3"), ann, **named).changed
        card = edit.copy(Card.objects.get(slug="gravelock-tide-512"), ann, **named).changed
        setup = f"body={body.slug}&card1={card.slug}"
        Run.objects.create(owner=ann, body=body, setup=setup, method="tap", frames=9, notes=FORMULA)
        client, tables = Client(), 0
        client.force_login(ann)
        for pattern in patterns():
            values = {"form": "csv", "name": "files.csv"}
            names = pattern.pattern.converters
            if not names.keys() <= values.keys():
                continue
            address = reverse(pattern.name, kwargs={name: values[name] for name in names})
            asked = {"body": body.slug, "card1": card.slug, "hold": "6", "seed": "1"}
            answer = client.get(address, asked)
            if not answer["Content-Type"].startswith("text/csv"):
                continue
            tables += 1
            text = answer.getvalue().decode("utf-8-sig")
            with self.subTest(address):
                for cell in (cell for line in csv.reader(io.StringIO(text)) for cell in line):
                    is_harmless = not cell.startswith(("=", "+", "-", "@")) or NUMBER.fullmatch(
                        cell
                    )
                    self.assertTrue(is_harmless, cell)
        self.assertGreaterEqual(tables, 6)

    def test_tables_are_written_in_one_place(self) -> None:
        root = Path(settings.BASE_DIR)
        apps = (path for path in root.glob("*/**/*.py") if "tests" not in path.parts)
        writing = {
            str(path.relative_to(root))
            for path in apps
            if not path.relative_to(root).parts[0].startswith(".")
            and "csv.writer" in path.read_text()
        }
        self.assertEqual(WRITES_ITSELF, writing)
