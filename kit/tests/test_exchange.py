"""A kit out and in: nothing is lost, a spreadsheet's habits survive, and it is all or nothing."""

import csv
import io
import json
from collections.abc import Iterator
from pathlib import Path
from random import Random
from typing import Any
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from kit import card_table, importing, sample
from kit.document import KINDS, build, document_of, with_parts
from kit.kit_file import MOST_BYTES, BadFile, Entry, as_card_table, as_json, read_kit
from kit.models import Body, Card, PendingImport, Revision
from kit.tests import builders
from kit.tests.random_items import RANDOM_ITEMS
from pages.tests.jobs import work_off

HEADER = "maker;name;form;bus;capacity_gb;sustained_write_mb_s;sustained_source"


def cards_csv(*lines: str) -> bytes:
    return ("\ufeff" + "\r\n".join([HEADER, *lines])).encode()


class KitFiles(TestCase):
    def test_both_forms_give_again_what_went_into_them(self) -> None:
        sample.load()
        documents = {
            kind: [document_of(item) for item in with_parts(model.objects.all())]
            for kind, model in KINDS.items()
        }
        read = read_kit("kit.json", b"".join(as_json(documents)))
        again = [build(KINDS[one.kind](), one.document).document() for one in read]
        self.assertEqual([one for kind in KINDS for one in documents[kind]], again)
        read = read_kit("cards.csv", b"".join(as_card_table(documents)))
        again = [build(Card(), one.document).document() for one in read]
        of_cards = card_table.columns()
        self.assertEqual(
            [{name: card[name] for name in of_cards} for card in documents["cards"]], again
        )

    def test_formulas_are_text_in_a_spreadsheet_and_come_back_as_they_were(self) -> None:
        card = builders.card(name="=1+1", remarks="'tis @home")
        cards = [document_of(builders.saved(card))]
        data = b"".join(as_card_table({"cards": cards}))
        table = data.decode()
        self.assertIn("'=1+1", table)
        self.assertNotIn(",=1+1", table)
        (entry,) = read_kit("cards.csv", data)
        self.assertEqual(
            ("=1+1", "'tis @home"), (entry.document["name"], entry.document["remarks"])
        )


class Documented(SimpleTestCase):
    def test_the_docs_list_the_columns_of_cards(self) -> None:
        docs = (Path(__file__).parents[2] / "docs" / "formats.md").read_text(encoding="utf-8")
        self.assertIn(", ".join(f"`{column}`" for column in card_table.columns()), docs)


class RefusedFiles(SimpleTestCase):
    def test_a_file_that_holds_no_kit_is_refused_in_a_sentence(self) -> None:
        for name, data, sentence in (
            ("cards.csv", b"", "is empty"),
            ("cards.csv", b"maker,colour\nTarn,red", "no column “colour”"),
            ("photo.csv", b"\x00\x01\x02", "neither a kit"),
            ("cards.csv", b"0" * (MOST_BYTES + 1), "larger than 20 MB"),
            ("kit.json", b'{"ondata_kit": 2}', "is no kit"),
            ("kit.json", b'{"ondata_kit": 1, "cards": {}}', "must be a list"),
            ("kit.json", b'{"ondata_kit": 1, "cards": [{"capacity_gb": NaN}]}', "NaN is no number"),
            ("kit.json", b'{"ondata_kit": 1, "cards": [{"name": "\\u0000"}]}', "character 0"),
            ("kit.json", b'{"ondata_kit": 1, "cards": [{"name": "\\ud800"}]}', "half a character"),
            ("kit.json", b'{"a":' * 100_000, "nested too deeply"),
            ("kit.json", b'{"ondata_kit": 1, "cards": ' + b"[" * 940 + b"]" * 940 + b"}", "nested"),
            (
                "kit.json",
                b'{"ondata_kit": 1, "cards": [{"capacity_gb": 1e999}]}',
                "larger than any",
            ),
            (
                "kit.json",
                json.dumps({"ondata_kit": 1, "cards": [{f"k{n}": 1 for n in range(201)}]}).encode(),
                "more than 200 fields",
            ),
            (
                "kit.json",
                json.dumps({"ondata_kit": 1, "cards": [{"name": "x" * 50_001}]}).encode(),
                "a text of more than 50,000",
            ),
        ):
            with self.subTest(sentence), self.assertRaisesRegex(BadFile, sentence):
                read_kit(name, data)


class Damaged(TestCase):
    """What a file has in the wrong place is told, and never an error."""

    def test_whatever_stands_at_any_place_of_a_document_is_a_sentence(self) -> None:
        owner = get_user_model().objects.create(email="ann@example.org")
        wrong = (None, [], {}, True, 5, -1, 1e308, "1.700", "é" * 300, [["x"]], {"a": 1}, 10**30)
        for number, (kind, make) in enumerate(RANDOM_ITEMS.items()):
            random = Random(number)
            for _ in range(60):
                document = make(random)
                spoiled = random.choice(list(_places(document)))
                spoiled[0][spoiled[1]] = random.choice(wrong)
                try:
                    entries = read_kit("kit.json", b"".join(as_json({kind: [document]})))
                except BadFile:
                    continue
                pending = importing.receive(owner, "kit.json", entries)
                importing.check_next(pending)
                with self.subTest(kind, place=spoiled[1]):
                    importing.ask_to_save(pending.pk)
                    importing.save(pending.pk)

    def test_crowds_are_refused_before_they_are_read(self) -> None:
        cards = b'{"ondata_kit": 1, "cards": ['
        for name, data in {
            "lists.json": cards + b"[]," * 2_000_000 + b"[]]}",
            "objects.json": cards + b"{}," * 300_000 + b"{}]}",
            "values.json": cards + b'{"name": [' + b"0," * 1_500_000 + b"0]}]}",
            "keys.json": b"{" + b'"a":1,' * 1_500_000 + b'"a":1}',
            "cells.csv": b"maker,name\n" + b"," * 2_000_000,
            "cards.csv": b"maker,name\n" + b"a\n" * 250_000,
        }.items():
            with self.subTest(name), self.assertRaises(BadFile):
                read_kit(name, data)

    def test_of_an_entry_with_very_much_in_it_a_few_faults_are_told(self) -> None:
        owner = get_user_model().objects.create(email="ann@example.org")
        body = RANDOM_ITEMS["bodies"](Random(1))
        modes = [{"name": str(number), "frame_rates": []} for number in range(21)]
        for spoiled, said in (
            (body | {f"{number}": 1 for number in range(5_000)}, "There is no such field."),
            (body | {"tested_cards": [{}] * 400}, "This is missing."),
            (body | {"shutter_modes": modes}, "This has more than 20 entries."),
        ):
            pending = importing.receive(owner, "kit.json", [Entry("bodies", "entry 1", spoiled)])
            importing.check_next(pending)
            ((action, _, why, _),) = pending.plan
            self.assertEqual("skip", action)
            self.assertIn(said, why)
            self.assertLessEqual(len(why), importing.LONGEST_WHY)

    def test_a_number_that_is_none_is_quoted(self) -> None:
        data = cards_csv(
            "Tarn;Shoal;SD;UHS-II;128;a lot;printed", "Tarn;A;SD;UHS-II;1.280;9;printed"
        )
        owner = get_user_model().objects.create(email="ann@example.org")
        pending = importing.receive(owner, "cards.csv", read_kit("cards.csv", data))
        importing.check_next(pending)
        self.assertEqual(
            ["Sustained write: “a lot” is not a number of MB/s.",
             "Capacity: “1.280” may mean 1280 or 1.28. Type one of these."],
            [why for _, _, why, _ in pending.plan],
        )  # fmt: skip

    def test_json_is_read_with_a_byte_order_mark_and_in_utf_16(self) -> None:
        kit = b"".join(as_json({"cards": [{"name": "Shoal"}]})).decode()
        for encoding in ("utf-8", "utf-8-sig", "utf-16", "utf-16-le"):
            (entry,) = read_kit("kit.json", kit.encode(encoding))
            self.assertEqual("Shoal", entry.document["name"])


def _places(value: Any) -> Iterator[tuple[Any, Any]]:
    """Every place of a document at which something stands: what it is in, and its key."""
    for key, inner in value.items() if isinstance(value, dict) else enumerate(value):
        yield value, key
        if isinstance(inner, dict | list):
            yield from _places(inner)


class Importing(TestCase):
    def setUp(self) -> None:
        self.owner = get_user_model().objects.create(email="ann@example.org")
        self.client.force_login(self.owner)

    def send(self, data: bytes, name: str = "cards.csv") -> PendingImport:
        answer = self.client.post(reverse("receive"), {"file": SimpleUploadedFile(name, data)})
        pending = PendingImport.objects.get()
        self.assertRedirects(answer, reverse("import", args=[pending.pk]))
        self.assertTrue(pending.checked)
        return pending

    def save(self, pending: PendingImport) -> None:
        self.client.post(reverse("import-save", args=[pending.pk]))

    def test_habits_of_a_spreadsheet_survive(self) -> None:
        line = "Tarn;Shoal;sd;UHS-II;128 GB;95,5 MB/s;measured elsewhere"
        pending = self.send(cards_csv("", line, ";;;;;;;;", ""), "my cards (2).csv")
        self.assertEqual([["add", "Tarn Shoal", "", None]], pending.plan)
        self.assertFalse(Card.objects.exists())
        self.save(pending)
        card = Card.objects.get()
        self.assertEqual(
            ("SD", 128, 95.5),
            (card.form, card.capacity_gb, card.sustained_write_mb_s),
        )
        self.assertEqual(self.owner, card.owner)

    def test_each_row_says_what_would_become_of_it_and_why(self) -> None:
        builders.saved(builders.card(owner=self.owner, slug="a", maker="Tarn", name="A"))
        same = document_of(
            builders.saved(builders.card(owner=self.owner, slug="b", maker="Tarn", name="B"))
        )
        builders.saved(builders.card(owner=self.owner, slug="h", maker="Tarn", name="H"))
        new = {key: value for key, value in same.items() if key != "log"}
        data = b"".join(as_json({"cards": [
            new | {"slug": "a", "name": "A", "capacity_gb": 64},
            same,
            new | {"slug": "c", "name": "C", "capacity_gb": 0, "bus": "UHS-I"},
            new | {"slug": "d", "name": "H"},
            new | {"slug": "e", "name": "E"}, new | {"slug": "e", "name": "E 2"},
            new | {"slug": "f", "name": "F", "colour": "red", "printed_read_mb_s": 10**300},
            new | {"slug": "new", "name": "N"},
            new | {"slug": "g", "name": "G"},
        ]}))  # fmt: skip
        pending = self.send(data, "kit.json")
        page = self.client.get(reverse("import", args=[pending.pk]))
        self.assertContains(page, "capacity from 512 to 64")
        self.assertContains(page, "Capacity must be from 0.001 to 128,000 GB.")
        self.assertContains(page, "You have one of that name, as “h”.")
        self.assertContains(page, "There is no such field.")
        actions = [action for action, *_ in pending.plan]
        self.assertEqual("change same skip skip skip skip skip skip add", " ".join(actions))
        self.save(pending)
        self.assertEqual(
            [("A", 64), ("B", 512), ("G", 512), ("H", 512)],
            list(Card.objects.order_by("name").values_list("name", "capacity_gb")),
        )

    def test_it_is_all_or_nothing_when_the_kit_has_changed_since(self) -> None:
        for change in ("added", "changed"):
            with self.subTest(change):
                Card.objects.all().delete()
                card = builders.saved(
                    builders.card(owner=self.owner, slug="tarn-b", maker="Tarn", name="B")
                )
                line = "Tarn;{};SD;UHS-II;128;95;printed;;"
                pending = self.send(cards_csv(line.format("A"), line.format("B")))
                if change == "added":
                    builders.saved(
                        builders.card(owner=self.owner, slug="tarn-a", maker="Tarn", name="A")
                    )
                else:
                    Card.objects.filter(pk=card.pk).update(version=2)
                self.save(pending)
                self.assertEqual(512, Card.objects.get(name="B").capacity_gb)
                pending.refresh_from_db()
                self.assertFalse(pending.checked)

    def test_a_long_file_is_checked_and_saved_in_the_background(self) -> None:
        lines = [f"Tarn;Shoal {n};SD;UHS-II;128;95;printed;;" for n in range(7)]
        with mock.patch.object(importing, "CHUNK", 3):
            self.client.post(
                reverse("receive"), {"file": SimpleUploadedFile("c.csv", cards_csv(*lines))}
            )
            pending = PendingImport.objects.get()
            address = reverse("import", args=[pending.pk])
            self.assertContains(self.client.get(address), "0 of 7")
            self.assertEqual(1, work_off())
            self.assertContains(self.client.get(address), "<strong>7</strong> added")
            self.save(pending)
            self.assertContains(self.client.get(address), "Saving 7 entries")
            self.client.post(reverse("import-forget", args=[pending.pk]))
            another = {"file": SimpleUploadedFile("d.csv", cards_csv("Tarn;Lode;SD"))}
            told = self.client.post(reverse("receive"), another, follow=True)
            self.assertContains(told, "c.csv is being saved")
            self.assertEqual(0, Card.objects.count())
            self.assertEqual(1, work_off())
        self.assertContains(self.client.get(address), "c.csv: 7 added")
        self.assertEqual((7, 0), (Card.objects.count(), work_off()))

    def test_a_file_that_can_not_be_worked_on_is_not_tried_for_ever(self) -> None:
        pending = importing.receive(self.owner, "c.csv", [Entry("cards", "", {"slug": "a"})])
        address = reverse("import", args=[pending.pk])
        with mock.patch.object(importing, "CHUNK", 0):
            self.client.get(address)
            with mock.patch.object(importing, "Check", side_effect=ZeroDivisionError):
                self.assertRaises(ZeroDivisionError, work_off)
            self.assertContains(self.client.get(address), "nothing of it was saved")
            self.assertEqual(0, work_off())

    def test_a_file_that_is_dropped_is_checked_no_further(self) -> None:
        pending = importing.receive(self.owner, "c.csv", [Entry("cards", "", {"slug": "a"})])
        PendingImport.objects.all().delete()
        self.assertFalse(importing.check_next(pending))
        self.assertFalse(PendingImport.objects.exists())

    def test_a_changed_body_keeps_what_the_file_leaves_out_and_can_be_undone(self) -> None:
        body = builders.ready_body(owner=self.owner)
        before = document_of(body)
        importing.receive(self.owner, "kit.json", [
            Entry("bodies", "", {"slug": body.slug, "maker": body.maker, "name": body.name,
                                 "memory_mb": 900, "slots": []}),
        ])  # fmt: skip
        pending = PendingImport.objects.get()
        importing.check_next(pending)
        importing.ask_to_save(pending.pk)
        importing.save(pending.pk)
        body = Body.objects.get()
        self.assertEqual((900, 0, 1), (body.memory_mb, body.slots.count(), body.formats.count()))
        self.client.post(reverse("undo", args=[Revision.objects.get().pk]))
        self.assertEqual(before, document_of(Body.objects.get()))

    def test_what_is_exported_can_be_read_by_any_tool(self) -> None:
        builders.ready_body(owner=self.owner)
        kit = json.loads(self.client.get(reverse("export", args=["json"])).getvalue())
        self.assertEqual([1, 0], [len(kit["bodies"]), len(kit["cards"])])
        builders.saved(builders.card(owner=self.owner, name="Shoal"))
        table = self.client.get(reverse("export", args=["csv"])).getvalue().decode("utf-8-sig")
        self.assertEqual(["Shoal"], [row["name"] for row in csv.DictReader(io.StringIO(table))])
