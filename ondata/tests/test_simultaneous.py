"""Two and more requests at the same time on the same things: no error, nothing lost."""

import json
from collections import Counter
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier
from typing import Any
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TransactionTestCase, override_settings
from django.urls import reverse

from accounts.models import User
from accounts.signing_up import Asked, token_of
from bench.models import Run
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
        patience = mock.patch("accounts.one_at_a_time.PATIENCE_S", 300)  # on a slow machine, too
        patience.start()
        self.addCleanup(patience.stop)
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

    def test_a_form_that_is_sent_twice_adds_once(self) -> None:
        """By a double click, or again after a bad line; the page loaded anew has another form."""
        client = Client(enforce_csrf_checks=True)
        client.force_login(self.ann)
        page = reverse("card", args=["gravelock-tide-512"])
        for loaded in (1, 2):
            token = client.get(page).context["csrf_token"]
            sent = {"csrfmiddlewaretoken": str(token)}
            address = reverse("duplicate", args=["cards", "gravelock-tide-512"])
            answers = [client.post(address, sent) for _ in range(3)]
            self.assertEqual(1, len({answer.url for answer in answers}))
            self.assertEqual(loaded, Card.objects.owned_by(self.ann).count())
            said = [str(one) for one in client.get(answers[-1].url).context["messages"]]
            self.assertIn("change here what is different", said[-1])

    def test_the_first_saves_of_a_browser_are_one_guests(self) -> None:
        browser = Client()
        browser.get(reverse("card", args=["gravelock-tide-512"]))
        tabs = []
        for _ in range(AT_ONCE):
            tab = Client(raise_request_exception=False)
            tab.cookies.update(browser.cookies)
            tabs.append(tab)
        address = reverse("duplicate", args=["cards", "gravelock-tide-512"])
        at_once([lambda tab=tab: tab.post(address) for tab in tabs])
        [guest] = User.objects.guests()
        self.assertEqual(AT_ONCE, Card.objects.owned_by(guest).count())

    def test_what_a_guest_saves_while_they_sign_in_is_kept_or_refused(self) -> None:
        self.ann.set_password("wind0ver!")
        self.ann.save()
        sign_in = {"username": self.ann.email, "password": "wind0ver!"}
        slugs = Card.objects.filter(owner=None).order_by("pk").values_list("slug", flat=True)
        addresses = (reverse("duplicate", args=["cards", slug]) for slug in slugs)
        saved = 0
        for _ in range(3):
            browser = Client(raise_request_exception=False)
            saved += browser.post(next(addresses)).status_code == 302
            tabs = [Client(raise_request_exception=False) for _ in range(AT_ONCE)]
            for tab in tabs:
                tab.cookies.update(browser.cookies)
            sent = zip(tabs, addresses, strict=False)
            answers = at_once([
                *(lambda tab=tab, at=at: tab.post(at) for tab, at in sent),
                lambda browser=browser: browser.post(reverse("sign-in"), sign_in),
            ])  # fmt: skip
            *of_tabs, signed_in = (answer.status_code for answer in answers)
            self.assertEqual(302, signed_in)
            self.assertLessEqual(set(of_tabs), {302, 409})
            saved += of_tabs.count(302)
        self.assertFalse(User.objects.guests().exists())
        self.assertEqual(saved, Card.objects.owned_by(self.ann).count())

    def run_of_ann(self) -> Run:
        body = Body.objects.get(owner=None, slug="varnholt-vx-3")
        setup = "body=varnholt-vx-3&card1=gravelock-tide-512&hold=6"
        return Run.objects.create(owner=self.ann, body=body, setup=setup, method="tap", frames=40)

    def test_changes_of_one_run_do_not_undo_each_other(self) -> None:
        """What one of them does is there afterwards, or it has said that it was not done."""
        correction = {"hold_s": "6", "frames": "44", "method": "tap", "shot_on": "2026-11-01"}
        for other in ("run-leave-out", "run-confirm", "run-delete"):
            run = self.run_of_ann()
            answers = at_once([
                lambda run=run: self.client_of(self.ann).post(
                    reverse("run", args=[run.pk]), correction),
                lambda run=run, other=other: self.client_of(self.ann).post(
                    reverse(other, args=[run.pk])),
            ])  # fmt: skip
            corrected, changed = (answer.status_code for answer in answers)
            self.assertEqual(302, changed)
            self.assertIn(corrected, (302, 404, 409))
            now = Run.objects.filter(pk=run.pk).first()
            if other == "run-delete":
                self.assertIsNone(now)
                continue
            self.assertEqual(44, now.frames)
            is_turned = now.left_out if other == "run-leave-out" else now.is_confirmed
            self.assertTrue(is_turned or other == "run-confirm")  # a correction asks again

    def test_of_two_corrections_the_second_is_told(self) -> None:
        run = self.run_of_ann()
        page = reverse("run", args=[run.pk])
        sent = {"hold_s": "6", "method": "tap", "shot_on": "2026-11-01", "version": "1"}
        told = self.post(page, [sent | {"frames": f"{41 + n}"} for n in range(AT_ONCE)], self.ann)
        self.assertEqual({302: 1, 422: AT_ONCE - 1}, dict(told))

    def test_the_same_runs_sent_at_once_are_there_once(self) -> None:
        setup = "body=varnholt-vx-3&card1=gravelock-tide-512"
        table = json.dumps([{"setup": setup, "hold_s": 6, "frames": 30 + n} for n in range(10)])
        lines = {"table": table, "method": "typed", "body": "varnholt-vx-3"}
        self.post(reverse("bench-lines"), [lines] * AT_ONCE, self.ann)
        self.assertEqual(10, Run.objects.count())

    def test_an_undo_brings_back_what_it_names_once(self) -> None:
        first, second = self.run_of_ann(), self.run_of_ann()
        for run in (first, second):
            self.client_of(self.ann).post(reverse("run-delete", args=[run.pk]))
        self.post(reverse("run-restore", args=[first.pk]), [{}] * AT_ONCE, self.ann)
        self.assertEqual([first], list(Run.objects.all()))

    def test_leaving_while_something_is_saved_ends_well(self) -> None:
        self.ann.set_password("wind0ver!")
        self.ann.save()
        run = {"hold_s": "6", "frames": "44", "method": "tap", "setup": "body=varnholt-vx-3"}
        clients = [self.client_of(self.ann) for _ in range(AT_ONCE)]
        answers = at_once([
            *(lambda one=one: one.post(reverse("bench-test"), run) for one in clients[1:]),
            lambda: clients[0].post(reverse("leave"), {"password": "wind0ver!"}),
        ])  # fmt: skip
        self.assertLessEqual({answer.status_code for answer in answers}, FINE)
        self.assertFalse(User.objects.filter(pk=self.ann.pk).exists())

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
