"""Kits without an account: kept for a browser, bounded, moved into the account, nothing lost."""

from datetime import timedelta
from itertools import product
from random import Random
from unittest.mock import patch

from django.test import Client, TestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from accounts import guests
from accounts.models import User
from accounts.signing_up import Asked, token_of
from bench.models import MOST_KEPT, Run
from kit import edit, sample
from kit.document import KINDS, document_of
from kit.models import Body, Card, Revision
from kit.tests.random_items import RANDOM_ITEMS
from kit.tests.test_screens import CARD
from ondata.upkeep import prune
from pages.refusals import Refused
from setups.kit import Kit

PASSWORD = "a-long-enough-password"


def documents(owner: User) -> dict[str, list[object]]:
    """All that `owner` has, without what an address calls it."""
    return {
        kind: sorted(
            (document_of(item) | {"slug": ""} for item in model.objects.owned_by(owner)), key=str
        )
        for kind, model in KINDS.items()
    }


class Guests(TestCase):
    def setUp(self) -> None:
        sample.load()
        self.ann = User(email="ann@example.org")
        self.ann.set_password(PASSWORD)
        self.ann.save()

    def add_card(self, client: Client | None = None, **changes: str):
        return (client or self.client).post(reverse("card-new"), CARD | changes, follow=True)

    def sign_in(self) -> None:
        entries = {"username": "ann@example.org", "password": PASSWORD}
        self.client.post(reverse("sign-in"), entries)

    def test_what_is_added_without_an_account_is_kept_for_that_browser_alone(self) -> None:
        self.assertContains(self.add_card(), "Gravelock Tide Pro added.")
        self.assertContains(self.client.get(reverse("cards")), "Tide Pro")
        self.assertContains(self.client.get(reverse("desk")), "Keep my kit: sign up")
        other = Client()
        self.assertNotContains(other.get(reverse("cards")), "Tide Pro")
        other.cookies["guest"] = self.client.cookies["guest"].value.replace(":", ":x", 1)
        self.assertNotContains(other.get(reverse("cards")), "Tide Pro")
        self.client.post(reverse("undo", args=[Revision.objects.get().pk]))
        self.assertFalse(Card.objects.exclude(owner=None).exists())

    def test_looking_around_and_typing_make_no_guest(self) -> None:
        for name in ("desk", "camera", "card-new", "body-new", "cards"):
            self.client.get(reverse(name))
        self.client.post(reverse("card-new"), {"marks": "SDXC"}, headers={"HX-Request": "true"})
        self.client.post(reverse("card-new"), CARD | {"capacity_gb": "0"})
        self.assertFalse(User.objects.guests().exists())

    def test_signing_in_brings_everything_along(self) -> None:
        self.add_card()
        guest = User.objects.guests().get()
        for kind, model in KINDS.items():
            for seed in range(3):
                edit.add(model, guest, RANDOM_ITEMS[kind](Random(seed)))
        had = documents(guest)
        self.sign_in()
        self.assertEqual(had, documents(self.ann))
        self.assertFalse(User.objects.filter(pk=guest.pk).exists())
        for revision in Revision.objects.filter(owner=self.ann):
            edit.undo(revision)
        self.assertEqual([], documents(self.ann)["cards"])

    def test_of_what_the_account_has_twins_are_left_out_and_names_kept_apart(self) -> None:
        same, other = RANDOM_ITEMS["cards"](Random(1)), RANDOM_ITEMS["cards"](Random(2))
        for owner, changed in ((self.ann, ""), (self.guest(), "by a guest")):
            edit.add(Card, owner, same)
            edit.add(Card, owner, other | {"remarks": changed})
        self.sign_in()
        cards = Card.objects.owned_by(self.ann)
        self.assertEqual(3, cards.count())
        self.assertEqual(2, cards.filter(maker=other["maker"], name=other["name"]).count())

    def test_runs_stay_those_of_the_same_body_and_cards(self) -> None:
        """Whatever the account has already: nothing, a twin, or another of that name."""
        items = (Body.objects.get(slug="pellow-wren-10"), Card.objects.get(slug="tarn-90-128"))
        for has_body, has_card in product(("nothing", "a twin", "another"), repeat=2):
            guest = User.objects.create(guest_until=timezone.now() + guests.KEPT)
            account = User.objects.create(email=f"{has_body} {has_card}@example.org")
            for item, has in zip(items, (has_body, has_card), strict=True):
                edit.copy(item, guest, name="Corran")
                if has != "nothing":
                    other = {"remarks": "another"} if has == "another" else {}
                    edit.copy(item, account, name="Corran", **other)
            body, card = (model.objects.get(owner=guest) for model in (Body, Card))
            setup = f"body={body.slug}&card1={card.slug}&hold=8"
            run = Run.objects.create(
                owner=guest, body=body, setup=setup, method="tap", frames=40, strokes_s=[0, 0.1]
            )
            had = self.shot_with(run, guest)
            guests.move_in(guest, account)
            with self.subTest(body=has_body, card=has_card):
                self.assertEqual(had, self.shot_with(Run.objects.get(pk=run.pk), account))
                self.assertEqual(
                    1 + (has_body == "another"), Body.objects.owned_by(account).count()
                )

    def test_an_account_without_room_for_the_runs_leaves_them_where_they_are(self) -> None:
        account = User.objects.create(email="full@example.org")
        body = Body.objects.get(slug="pellow-wren-10")
        guest = User.objects.create(guest_until=timezone.now() + guests.KEPT)
        one = {"body": body, "setup": f"body={body.slug}", "method": "tap", "frames": 40}
        Run.objects.bulk_create(Run(owner=account, **one) for _ in range(MOST_KEPT - 1))
        Run.objects.bulk_create(Run(owner=guest, **one) for _ in range(2))
        with self.assertRaisesRegex(Refused, "stays in it for now"):
            guests.move_in(guest, account)
        self.assertEqual(2, Run.objects.made_by(guest).count())
        Run.objects.made_by(account).first().delete()
        guests.move_in(guest, account)
        self.assertEqual(MOST_KEPT, Run.objects.made_by(account).count())

    def shot_with(self, run: Run, owner: User) -> list[object]:
        """Body and card of a run, without what the account may call them otherwise."""
        setup = run.reading(Kit.of(owner)).setup
        called = {"slug": "", "firmware": "", "label": ""}
        return [document_of(item) | called for item in (setup.body, setup.sides[0].card)]

    def guest(self) -> User:
        self.add_card()
        guest = User.objects.guests().get()
        Card.objects.owned_by(guest).delete()
        return guest

    def test_a_new_account_brings_everything_along(self) -> None:
        self.add_card()
        page = reverse("account-new", args=[token_of(Asked("bob@example.org", ""))])
        self.client.post(page, {"password1": PASSWORD, "password2": PASSWORD})
        self.assertEqual("Tide Pro", Card.objects.get(owner__email="bob@example.org").name)

    @override_settings(SAMPLE_MODE=True)
    def test_the_sample_account_takes_nothing_of_a_guest(self) -> None:
        self.add_card()
        self.client.post(reverse("sample-account"))
        self.assertEqual(User.objects.guests().get(), Card.objects.get(name="Tide Pro").owner)

    def test_guests_and_their_kits_are_bounded(self) -> None:
        with patch("accounts.models.MOST_ITEMS_OF_GUEST", 2):
            for name in ("one", "two"):
                self.add_card(name=name)
            self.assertContains(self.add_card(name="three"), "at most: sign up", status_code=422)
            owned = Card.objects.filter(owner__isnull=False)
            for address in (
                reverse("duplicate", args=["cards", "tarn-90-128"]),
                reverse("example-copy"),
                reverse("bench-copy", args=["pellow-wren-10"]),
            ):
                with self.subTest(address):
                    asked_at = f"http://testserver{reverse('cards')}?named=tarn"
                    page = self.client.post(address, HTTP_REFERER=asked_at, follow=True)
                    self.assertContains(page, "at most: sign up")
                    self.assertEqual(f"{reverse('cards')}?named=tarn", page.redirect_chain[-1][0])
                    self.assertEqual((2, 0), (owned.count(), Run.objects.count()))
        with patch("accounts.guests.MOST_GUESTS", 1):
            full = self.add_card(Client())
            self.assertContains(full, "Too many people are trying", status_code=429)
            User.objects.guests().update(guest_until=timezone.now() - timedelta(days=1))
            self.assertContains(self.add_card(Client()), "added.")

    def test_after_thirty_days_all_is_gone_unless_it_was_used(self) -> None:
        self.add_card()
        soon = timezone.now() + guests.RENEWED - timedelta(days=1)
        User.objects.guests().update(guest_until=soon)
        self.client.get(reverse("cards"))
        self.assertGreater(User.objects.guests().get().guest_until, soon)
        User.objects.guests().update(guest_until=timezone.now() - timedelta(days=1))
        prune(0)
        self.assertFalse(Card.objects.filter(name="Tide Pro").exists())
        self.assertNotContains(self.client.get(reverse("cards")), "Tide Pro")

    def test_a_guest_can_delete_everything_at_once_and_nobody_elses(self) -> None:
        other, signed_in = Client(), Client()
        signed_in.force_login(self.ann)
        for client in (self.client, other, signed_in):
            self.add_card(client)
        for client in (self.client, signed_in):
            client.post(reverse("forget-guest"))
        self.assertNotContains(self.client.get(reverse("cards")), "Tide Pro")
        for client in (other, signed_in):
            self.assertContains(client.get(reverse("cards")), "Tide Pro")

    def test_what_needs_an_account_asks_for_one(self) -> None:
        self.add_card()
        for name in ("account", "shares", "password-change"):
            page = self.client.get(reverse(name), follow=True)
            self.assertContains(page, "Sign in")
