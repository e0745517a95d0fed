"""Outings go out as a file and come in again, and what comes in can be shown."""

import json
import random
from collections.abc import Iterator
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse
from django.test import TestCase
from django.urls import reverse

from accounts.models import User
from kit import sample
from outings.models import MOST_NOTES, MOST_OUTINGS, Outing
from outings.records.outing_file import keep_outings, read_outings
from outings.sample import keep_outings as keep_sample
from pages.refusals import Refused

NONSENSE = (None, "", "x" * 500, "nan", -1, 1e308, 10**400, True, [], {}, [[]], [1e9, -1],
            "é\udc00", "2026-13-01", {"x": 1}, ["=1+1"])  # fmt: skip
OF_OUTING = ("outing", "outing-field", "outing-record", "outing-notes")
OF_PLAN = ("outing-plan", "outing-sheet")


class OutingFiles(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        cls.ann = User.objects.create(email="ann@example.org")
        keep_sample(cls.ann)

    def setUp(self) -> None:
        self.client.force_login(self.ann)

    def sent_out(self) -> str:
        return self.client.get(reverse("outings-json")).getvalue().decode()

    def send(self, text: str) -> HttpResponse:
        file = SimpleUploadedFile("outings.json", text.encode(errors="surrogatepass"))
        return self.client.post(reverse("outings-receive"), {"file": file}, follow=True)

    def test_what_goes_out_comes_in_as_it_was_and_once(self) -> None:
        before = self.sent_out()
        self.assertContains(self.send(before), "0 outings are saved; 2 were there already.")
        Outing.objects.all().delete()
        self.assertContains(self.send(before), "2 outings are saved.")
        self.assertEqual(json.loads(before), json.loads(self.sent_out()))
        self.client.force_login(User.objects.create(email="bob@example.org"))
        self.send(before)
        self.assertEqual(json.loads(before), json.loads(self.sent_out()))
        self.assertEqual(4, Outing.objects.count())

    def test_a_guest_brings_outings_in(self) -> None:
        file = self.sent_out()
        self.client.logout()
        self.assertContains(self.send(file), "2 outings are saved.")

    def test_whatever_is_taken_can_be_shown(self) -> None:
        """Law: one value of a file is nonsense; it is refused with a sentence, or all pages are."""
        told = json.loads(self.sent_out())
        for one in told["outings"]:
            if day := one.get("day"):
                day["times_s"], day["sizes_mb"] = day["times_s"][:60], day["sizes_mb"][:60]
                day["frames"] = 60
        dice, refused = random.Random(1), 0
        places = list(_places(told["outings"]))
        for place in dice.sample(places, min(len(places), 120)):
            for value in dice.sample(NONSENSE, 3):
                file = json.loads(json.dumps(told))
                *path, last = place
                inner = file["outings"]
                for key in path:
                    inner = inner[key]
                inner[last] = value
                with self.subTest(place=place, value=str(value)[:20]):
                    Outing.objects.all().delete()
                    try:
                        keep_outings(read_outings(json.dumps(file)), self.ann)
                    except Refused:
                        refused += 1
                        self.assertFalse(Outing.objects.exists())
                        continue
                    changed = Outing.objects.get(name=file["outings"][place[0]]["name"])
                    pages = [reverse(name, args=[changed.pk]) for name in OF_OUTING]
                    pages += [reverse(name, args=[changed.pk]) for name in OF_PLAN
                              if hasattr(changed, "plan")]  # fmt: skip
                    pages += [reverse(name) for name in
                              ("outing-totals", "plans-side-by-side", "outings-csv")]  # fmt: skip
                    for page in pages:
                        status = self.client.get(page, follow=True).status_code
                        self.assertEqual(200, status, page)
        self.assertGreater(refused, 100)

    def test_what_is_no_file_of_outings_is_told(self) -> None:
        outing = {"name": "x", "field_notes": []}
        many = [{"key": str(n)} for n in range(MOST_NOTES + 1)]
        for wrong, words in (
            ("", "empty"),
            ("\udcff", "no JSON in UTF-8"),
            ("[", "It is no JSON"),
            ("[]", "Outings are kept in a file"),
            (json.dumps({"ondata_outings": 1, "outings": []}), "There is no outing in it"),
            (_file({**outing, "weather": 1}), "“weather” is not a key"),
            (_file({**outing, "name": ""}), "Outing 1, name: This field cannot be blank"),
            (_file(outing, {**outing, "on": "1500-01-01"}), "Outing 2, on: The date must be from"),
            (_file({**outing, "field_notes": many}), "as many as an outing has"),
            (_file(*[outing] * (MOST_OUTINGS + 1)), "as many as are kept"),
            ("{" * 3_001, "are the most at a time"),
            ("," * 500_001, "frames are the most"),
        ):
            with self.subTest(words):
                answer = self.send(wrong)
                self.assertContains(answer, words, status_code=422)
        self.assertEqual(2, Outing.objects.count())


def _file(*outings: dict[str, Any]) -> str:
    return json.dumps({"ondata_outings": 1, "outings": outings})


def _places(value: Any, *path: Any) -> Iterator[tuple[Any, ...]]:
    """Where every value is, of long lists the first two."""
    keys = value if isinstance(value, dict) else range(min(len(value), 2))
    for key in keys:
        yield (*path, key)
        if isinstance(value[key], dict | list):
            yield from _places(value[key], *path, key)
