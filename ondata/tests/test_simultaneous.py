"""Two and more requests at the same time on the same things: no error, nothing lost."""

from collections import Counter
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier
from typing import Any

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TransactionTestCase, override_settings
from django.urls import reverse

from accounts.models import User
from accounts.signing_up import Asked, token_of
from kit import edit, importing, sample
from kit.document import KINDS
from kit.kit_file import as_json, read_kit
from kit.models import Body, Card, Revision
from kit.tests import builders
from prices.models import Offer

AT_ONCE = 4
FINE = {200, 302, 403, 404, 409, 422}


def at_once(acts: Sequence[Callable[[], Any]]) -> list[Any]:
    """What comes of `acts`, begun at the same moment, each on a connection of its own."""
    start = Barrier(len(acts))

    def begin(act: Callable[[], Any]) -> Any:
        start.wait()
        try:
            return act()
        finally:
            connection.close()

    with ThreadPoolExecutor(len(acts)) as pool:
        return list(pool.map(begin, acts))


class Simultaneous(TransactionTestCase):
    def setUp(self) -> None:
        sample.load()
        self.ann = get_user_model().objects.create(email="ann@example.org")

    def client_of(self, user: User | None = None) -> Client:
        client = Client(raise_request_exception=False)
        if user:
            client.force_login(user)
        return client

    def post(self, address: str, sent: Sequence[dict[str, Any]], user: User | None) -> Counter[int]:
        clients = [self.client_of(user) for _ in sent]
        acts = [
            lambda client=client, data=data: client.post(address, data).status_code
            for client, data in zip(clients, sent, strict=True)
        ]
        statuses = Counter(at_once(acts))
        self.assertLessEqual(set(statuses), FINE, f"{address}: {statuses}")
        return statuses

    def test_an_item_is_duplicated_as_often_as_was_asked(self) -> None:
        for kind, slug in (("cards", "gravelock-tide-512"), ("bodies", "varnholt-vx-3")):
            self.post(reverse("duplicate", args=[kind, slug]), [{}] * AT_ONCE, self.ann)
            self.assertEqual(AT_ONCE, KINDS[kind].objects.owned_by(self.ann).count())

    def test_an_address_signs_up_once(self) -> None:
        chosen = {"password1": "wind0ver!", "password2": "wind0ver!"}
        link = reverse("account-new", args=[token_of(Asked("new@example.org", ""))])
        told = self.post(link, [chosen] * AT_ONCE, None)
        self.assertEqual(1, User.objects.filter(email="new@example.org").count())
        self.assertEqual(1, told[302])

    @override_settings(SAMPLE_MODE=True)
    def test_the_sample_account_is_made_once(self) -> None:
        told = self.post(reverse("sample-account"), [{}] * AT_ONCE, None)
        self.assertEqual({302: AT_ONCE}, dict(told))
        self.assertEqual(2, User.objects.count())

    def test_price_lists_in_opposite_orders_wait_for_each_other(self) -> None:
        rows = [f"Tarn,Shoal {n},{n + 1}" for n in range(200)]
        files = ["\n".join(["maker,name,price", *order]) for order in (rows, rows[::-1]) * 2]
        sent = [
            {"file": SimpleUploadedFile("list.csv", text.encode()), "shop": "Weir",
             "on": "2026-11-01", "currency": "EUR"}
            for text in files
        ]  # fmt: skip
        self.post(reverse("prices-receive"), sent, self.ann)
        self.assertEqual(200, Offer.objects.count())

    def test_of_changes_to_one_item_none_is_lost_unseen(self) -> None:
        card = builders.saved(builders.card(owner=self.ann, remarks="as it was"))
        edit = reverse("card-edit", args=[card.slug])
        entry = {"maker": card.maker, "name": card.name, "form": card.form, "bus": card.bus,
                 "capacity_gb": "512", "sustained_write_mb_s": "230", "slow_factor": "1",
                 "sustained_source": "printed", "state": "in_use",
                 "version": "1"}  # fmt: skip
        sent = [entry | {"remarks": f"by {n}"} for n in range(AT_ONCE)]
        told = self.post(edit, sent, self.ann)
        self.assertEqual({302: 1, 422: AT_ONCE - 1}, dict(told))
        self.assertEqual(1, Revision.objects.count())

    def test_a_change_is_undone_once_and_a_file_saved_once(self) -> None:
        card = builders.saved(builders.card(owner=self.ann))
        change = edit.rewrite(card, {"remarks": "changed"}, None)
        self.post(reverse("undo", args=[change.pk]), [{}] * AT_ONCE, self.ann)
        self.assertEqual("", Card.objects.get(pk=card.pk).remarks)
        self.assertEqual(2, Revision.objects.count())
        documents = {"cards": [{"maker": "Tarn", "name": "Shoal", "form": "SD", "bus": "UHS-I",
                                "capacity_gb": 64, "sustained_write_mb_s": 40,
                                "sustained_source": "printed"}]}  # fmt: skip
        entries = read_kit("kit.json", b"".join(as_json(documents)))
        pending = importing.receive(self.ann, "kit.json", entries)
        importing.check_next(pending)
        self.post(reverse("import-save", args=[pending.pk]), [{}] * AT_ONCE, self.ann)
        self.assertEqual(1, Card.objects.owned_by(self.ann).filter(name="Shoal").count())

    def test_archiving_logging_and_deleting_at_once_end_well(self) -> None:
        card = builders.saved(builders.card(owner=self.ann))
        log = {"on": "2026-11-01", "event": "failure", "words": ""}
        acts = [
            lambda: self.client_of(self.ann).post(reverse("archive", args=["cards", card.slug])),
            lambda: self.client_of(self.ann).post(reverse("card-log", args=[card.slug]), log),
            lambda: self.client_of(self.ann).post(reverse("card-log", args=[card.slug]), log),
            lambda: self.client_of(self.ann).post(reverse("share-card", args=[card.slug])),
        ]
        self.assertLessEqual({answer.status_code for answer in at_once(acts)}, FINE)
        self.assertEqual(2, card.log.count())
        self.assertTrue(Body.objects.filter(owner=None).exists())
