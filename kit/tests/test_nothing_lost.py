"""Laws: what is opened and saved, exported and imported, duplicated or undone loses nothing."""

import json
from random import Random
from typing import Any

from django.contrib.auth import get_user_model
from django.urls import reverse
from django_webtest import WebTest
from webtest.forms import Textarea

from kit import edit
from kit.document import KINDS, document_of
from kit.importing import Action, check_next, receive
from kit.kit_file import as_card_table, as_json, read_kit
from kit.models import Body, Card, KitItem, Revision
from kit.tests.random_items import RANDOM_ITEMS
from kit.views.acts import PAGE_OF

ELSEWHERE = "measured_elsewhere"
ITEMS = 5  # of each kind; 300 in all have been tried


def _faults(sent: Any) -> str:
    return " ".join(one.get_text(" ", strip=True) for one in sent.html.select(".invalid-feedback"))


def _values(item: KitItem) -> Any:
    """Its figures, as a set-up takes them."""
    if isinstance(item, Body):
        return {key: figure.value for key, figure in item.figures.items()}
    return item.write_mb_s if isinstance(item, Card) else None


class NothingLost(WebTest):
    def setUp(self) -> None:
        self.ann = get_user_model().objects.create(email="ann@example.org")

    def added(self, kind: str, seed: int) -> KitItem:
        document = RANDOM_ITEMS[kind](Random(seed))
        return edit.add(KINDS[kind], self.ann, document).changed

    def all_added(self) -> list[KitItem]:
        return [self.added(kind, seed) for kind in KINDS for seed in range(ITEMS)]

    def stored(self, item: KitItem) -> dict[str, Any]:
        return document_of(type(item).objects.get(pk=item.pk))

    def test_an_item_that_is_opened_and_saved_is_what_it_was(self) -> None:
        for item in self.all_added():
            before = self.stored(item)
            edit = reverse(f"{PAGE_OF[type(item)]}-edit", args=[item.slug])
            form = self.app.get(edit, user=self.ann).forms["item-form"]
            for field in form.fields.values():
                if isinstance(field[0], Textarea):  # a browser ends lines so
                    field[0].value = field[0].value.replace("\n", "\r\n")
            sent = form.submit(expect_errors=True)
            with self.subTest(item=str(item), kind=type(item).__name__):
                self.assertEqual(302, sent.status_code, _faults(sent))
                self.assertEqual(before, self.stored(item))
                item.refresh_from_db()
                self.assertEqual(1, item.version, "an unchanged item needs no undoing")

    def test_a_kit_that_is_exported_and_imported_changes_nothing(self) -> None:
        items = self.all_added()
        documents = {
            kind: [document_of(one) for one in items if isinstance(one, model)]
            for kind, model in KINDS.items()
        }
        for name, data in (
            ("kit.json", b"".join(as_json(documents))),
            ("cards.csv", b"".join(as_card_table(documents))),
        ):
            pending = receive(self.ann, name, read_kit(name, data))
            check_next(pending)
            unlike = [plan for plan in pending.plan if plan[0] != Action.SAME]
            self.assertEqual([], unlike, name)

    def test_a_duplicate_has_all_that_the_original_has(self) -> None:
        for item in self.all_added():
            self.assertEqual(_values(item), _values(edit.duplicate(item, self.ann).changed))
            edit.rewrite(item, {part: [] for part in self.stored(item) if "learnt" in part}, None)
            item = type(item).objects.get(pk=item.pk)
            *_, apart = item.named_by
            for _ in range(2):
                copy = edit.duplicate(item, self.ann).changed
                names = {"slug", apart}
                before, after = ({k: v for k, v in self.stored(one).items() if k not in names}
                                 for one in (item, copy))  # fmt: skip
                # What was measured was measured in the original.
                told = json.dumps(before, default=str).replace("measured_here", ELSEWHERE)
                self.assertEqual(json.loads(told), json.loads(json.dumps(after, default=str)))

    def test_what_is_undone_a_hundred_times_is_what_it_was(self) -> None:
        card = self.added("cards", 1)
        edit.rewrite(card, {"remarks": "changed"}, None)
        after = self.stored(card)
        for _ in range(100):
            edit.undo(Revision.objects.last_of(type(card).objects.get(pk=card.pk)))
        self.assertEqual(after, self.stored(card))

    def test_a_body_with_two_slots_offers_the_usual_arrangements(self) -> None:
        document = RANDOM_ITEMS["bodies"](Random(1)) | {"slots": [{}, {}], "arrangements": []}
        body = edit.add(KINDS["bodies"], self.ann, document).changed
        kinds = [one["kind"] for one in self.stored(body)["arrangements"]]
        self.assertEqual(["single", "overflow", "mirror", "split"], kinds)
