"""Law: the kit that is kept in memory is the one that the database has."""

from collections.abc import Callable
from datetime import date

from django.contrib.auth import get_user_model
from django.test import TestCase

from kit import edit, sample
from kit.models import Body, Card, Reader
from prices import sample as price_lists
from prices.lists import Usual, read_rows, save
from prices.models import ExchangeRate, PriceList
from setups.kit import Kit

TODAY = date(2026, 11, 26)
TESTED = {"maker": "Tarn", "name": "Shoal"}
SHOAL = {
    "maker": "Tarn", "name": "Shoal", "form": "SD", "bus": "UHS-I", "capacity_gb": 64.0,
    "sustained_write_mb_s": 50.0, "sustained_source": "printed",
}  # fmt: skip


class KeptKit(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        users = get_user_model().objects
        cls.ann, cls.ben = (users.create(email=f"{name}@example.org") for name in ("ann", "ben"))
        cls.card = edit.copy(Card.objects.first(), cls.ann).changed
        cls.body = edit.copy(Body.objects.first(), cls.ann).changed

    def changes(self) -> dict[str, Callable[[], object]]:
        """All that may change in what Ann's set-ups choose from."""
        row = ("Line 2", {"maker": self.card.maker, "name": self.card.name, "price": "9"})
        rate = {"currency": "GBP", "against": "EUR", "rate": 1.2, "on": TODAY}
        return {
            "edit": lambda: edit.rewrite(self.card, {"sustained_write_mb_s": 77.0}, None),
            "edit of a part": lambda: edit.rewrite(self.body, {"tested_cards": [TESTED]}, None),
            "duplicate": lambda: edit.duplicate(self.card, self.ann),
            "archive": lambda: edit.archive(self.card),
            "bring back": lambda: edit.bring_back(self.card),
            "undo": lambda: edit.undo(edit.duplicate(self.body, self.ann)),
            "reader": lambda: edit.copy(Reader.objects.first(), self.ann),
            "price": lambda: save(read_rows([row], Usual("Weir", TODAY, "EUR")), self.ann),
            "price dropped": lambda: PriceList.objects.filter(owner=self.ann).delete(),
            "rate": lambda: ExchangeRate.objects.create(owner=self.ann, **rate),
            "sample kit": sample.load,
            "sample prices": lambda: price_lists.load(TODAY),
            "card lost": lambda: self.card.delete(),
        }

    def test_it_is_fetched_anew_after_every_change_and_only_then(self) -> None:
        for name, change in self.changes().items():
            before = Kit.of(self.ann)
            self.assertIs(before, Kit.of(self.ann))
            change()
            with self.subTest(name):
                self.assertIsNot(before, Kit.of(self.ann))
        ann = Kit.of(self.ann)
        edit.add(Card, self.ben, SHOAL)
        self.assertIs(ann, Kit.of(self.ann))

    def test_it_has_what_the_database_has(self) -> None:
        slot = self.body.slots.first()
        for name, change in self.changes().items():
            change()
            kept, fresh = Kit.of(self.ann), Kit(self.ann)
            with self.subTest(name):
                for kit in (kept, fresh):
                    kit.with_choices(kit.bodies[0])
                self.assertEqual(fresh.bodies, kept.bodies)
                self.assertEqual(
                    [
                        (card.pk, card.version, fresh.costs.cents(card))
                        for card in fresh.cards(slot)
                    ],
                    [(card.pk, card.version, kept.costs.cents(card)) for card in kept.cards(slot)],
                )
