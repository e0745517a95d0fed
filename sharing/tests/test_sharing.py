"""Links for others to look at."""

from unittest import mock
from urllib.parse import parse_qsl

from django.test import Client, TestCase
from django.urls import reverse

from accounts.models import User
from bench.models import Run
from kit import edit, sample
from kit.models import Body, Card
from outings.models import Outing
from sharing.models import Share


class Sharing(TestCase):
    def setUp(self) -> None:
        sample.load()
        self.ann = User.objects.create(email="ann@example.org", shows_sample=True)
        self.client.force_login(self.ann)
        edit.copy(Body.objects.get(slug="varnholt-vx-3"), self.ann, name="Zanzibar")
        edit.copy(Card.objects.get(slug="gravelock-tide-512"), self.ann, name="Pemba")

    def test_a_card_and_a_set_up_are_seen_by_whoever_has_the_link_until_it_is_taken_back(
        self,
    ) -> None:
        self.client.post(reverse("share-card", args=["gravelock-pemba"]))
        self.client.post(
            reverse("share-setup"), {"setup": "body=varnholt-zanzibar&card1=gravelock-pemba"}
        )
        for share, words in zip(
            Share.objects.all(), ("Varnholt Zanzibar", "Gravelock Pemba"), strict=True
        ):
            link = reverse("shared", args=[share.token])
            page = Client().get(link)
            self.assertContains(page, words)
            self.assertNotContains(page, 'method="post"')
            self.client.post(reverse("revoke", args=[share.pk]))
            self.assertContains(Client().get(link), "no longer shared", status_code=410)

    def test_a_link_shows_nothing_else_of_its_owners_kit(self) -> None:
        self.client.post(reverse("share-card", args=["gravelock-pemba"]))
        page = Client().get(reverse("shared", args=[Share.objects.get().token]))
        self.assertContains(page, "Varnholt VX-3, slot 1")  # of the sample kit, for a stranger
        self.assertNotContains(page, "Zanzibar")
        self.client.post(
            reverse("share-setup"), {"setup": "body=varnholt-vx-3&card1=gravelock-tide-512"}
        )
        Card.objects.filter(owner=None, slug="gravelock-tide-512").delete()
        page = Client().get(reverse("shared", args=[Share.objects.first().token]))
        self.assertContains(page, "its body or its cards are gone")
        self.assertNotContains(page, "Pemba")

    def test_a_shared_table_shows_the_whole_table_and_lets_nobody_change_anything(self) -> None:
        self.client.post(
            reverse("share-table"), {"setup": "body=varnholt-zanzibar&rates=all&lead=clear"}
        )
        link = reverse("shared", args=[Share.objects.get().token])
        page, own = Client().get(link), self.client.get("/table/?body=varnholt-zanzibar&rates=all")
        self.assertContains(page, "Gravelock Pemba")
        self.assertContains(page, "theirs")
        for words in ('method="post"', "yours", 'href="/desk/'):
            self.assertNotContains(page, words)
        shown = page.context["pieces"]
        while page.context["more_at"]:
            page = Client().get(page.context["more_at"])
            shown += page.context["pieces"]
        self.assertEqual(len(own.context["table"].rows), len(shown))
        Body.objects.filter(slug="varnholt-zanzibar").delete()
        self.assertContains(Client().get(link), "its body or its cards are gone")

    def test_shared_results_are_those_of_the_owners_runs_and_of_no_other_body(self) -> None:
        for setup, depth in (("body=varnholt-zanzibar", 33), ("body=varnholt-vx-3", 77)):
            body = Body.objects.get(slug=setup.partition("=")[2])
            Run.objects.create(
                owner=self.ann, body=body, setup=setup, method="tap",
                frames_at_full_speed=depth, notes="secret place",
            )  # fmt: skip
        self.client.post(reverse("share-results", args=["varnholt-zanzibar"]))
        share = Share.objects.get()
        self.assertIn("Varnholt Zanzibar", str(share))
        page = Client().get(reverse("shared", args=[share.token]))
        self.assertContains(page, "<strong>33</strong> frames")
        for words in ("<strong>77</strong>", "secret", 'method="post"'):
            self.assertNotContains(page, words)
        self.assertEqual(
            404, self.client.post(reverse("share-results", args=["varnholt-vx-3"])).status_code
        )
        body = Body.objects.get(slug="varnholt-zanzibar")
        edit.archive(body)
        self.assertEqual(410, Client().get(reverse("shared", args=[share.token])).status_code)
        edit.bring_back(body)
        Run.objects.all().delete()
        body.delete()
        page = Client().get(reverse("shared", args=[share.token]))
        self.assertContains(page, "no runs of it any more")

    def test_a_link_is_random_and_unknown_to_search_engines(self) -> None:
        for _ in range(2):
            self.client.post(reverse("share-card", args=["gravelock-pemba"]))
        one, other = Share.objects.all()
        self.assertGreaterEqual(len(one.token), 43)
        for token in (str(one.pk), one.token[:-1], one.token[:20] + other.token[20:]):
            self.assertEqual(404, Client().get(reverse("shared", args=[token])).status_code)
        page = Client().get(reverse("shared", args=[one.token]))
        self.assertEqual("noindex", page["X-Robots-Tag"])

    def test_price_and_state_are_shown_only_if_the_owner_says_so_and_what_is_archived_is_gone(
        self,
    ) -> None:
        Card.objects.filter(slug="gravelock-pemba").update(state="suspect")
        noted = {"maker": "Gravelock", "name": "Pemba", "price": "77", "currency": "EUR"}
        self.client.post(reverse("price-note"), noted)
        links = []
        for asked in ({}, {"with_state": "on"}):
            self.client.post(reverse("share-card", args=["gravelock-pemba"]), asked)
            links.append(reverse("shared", args=[Share.objects.first().token]))
        for words in ("77\u00a0EUR", "Suspect"):
            self.assertNotContains(Client().get(links[0]), words)
            self.assertContains(Client().get(links[1]), words)
        self.client.post(reverse("archive", args=["cards", "gravelock-pemba"]))
        self.assertEqual(410, Client().get(links[0]).status_code)

    def test_a_shared_set_up_stays_what_it_was_whatever_the_owner_adds(self) -> None:
        self.client.post(reverse("share-setup"), {"setup": "body=varnholt-zanzibar"})
        link = reverse("shared", args=[Share.objects.get().token])
        self.assertContains(Client().get(link), "Gravelock Pemba")
        edit.copy(Card.objects.get(slug="gravelock-breaker-1000"), self.ann, name="Aardvark")
        Card.objects.filter(slug="gravelock-pemba").update(state="wanted")
        self.assertContains(Client().get(link), "Gravelock Pemba")
        with mock.patch("sharing.views.MOST_SHARES", 1):
            self.client.post(reverse("share-setup"), {"setup": "body=varnholt-zanzibar"})
        self.assertEqual(1, Share.objects.count())

    def test_a_field_sheet_is_seen_with_its_code_and_its_cards_until_it_is_taken_back(self) -> None:
        plan = {
            "setup": "body=varnholt-zanzibar&card1=gravelock-pemba&to=single", "name": "Weir",
            "periods-TOTAL_FORMS": "1", "periods-INITIAL_FORMS": "0", "periods-0-name": "heats",
            "periods-0-minutes": "60", "periods-0-bursts_an_hour": "30", "periods-0-hold_s": "3",
        }  # fmt: skip
        self.client.post(reverse("outing-keep-plan"), plan)
        outing = Outing.objects.get()
        sheet = self.client.get(reverse("outing-sheet", args=[outing.pk]))
        self.client.post(reverse("share-sheet", args=[outing.pk]))
        link = reverse("shared", args=[Share.objects.get().token])
        page = Client().get(link)
        for words in ("Weir", "Let go within", "Gravelock Pemba", 'class="qr-code"', "viewBox"):
            self.assertContains(page, words)
        self.assertNotContains(page, 'method="post"')
        said = [[one.let_go_s for one in one.context["situations"]] for one in (sheet, page)]
        self.assertEqual(*said)
        self.assertContains(self.client.get(reverse("shares")), "Field sheet of an outing: Weir")
        edit.archive(Body.objects.get(name="Zanzibar"))
        self.assertEqual(410, Client().get(link).status_code)
        edit.bring_back(Body.objects.get(name="Zanzibar"))
        self.client.post(reverse("revoke", args=[Share.objects.get().pk]))
        self.assertEqual(410, Client().get(link).status_code)

    def test_a_bodys_sheet_is_seen_with_what_was_pinned_and_nothing_since(self) -> None:
        setup = "body=varnholt-zanzibar&card1=gravelock-pemba&to=single&format=lossless-raw"
        pins = [f"{setup}&fps=12", "body=varnholt-zanzibar&nonsense=1"]
        own = self.client.get(reverse("body-sheet"), {**dict(parse_qsl(setup)), "pin": pins})
        self.assertContains(own, reverse("share-body-sheet"))
        self.client.post(reverse("share-body-sheet"), {"setup": setup, "pin": pins})
        link = reverse("shared", args=[Share.objects.get().token])
        page = Client().get(link)
        said = [[(str(one.setup.rate), one.let_go_s) for one in page.context["situations"]]
                for page in (own, page)]  # fmt: skip
        self.assertEqual(*said)
        for words in ("Varnholt Zanzibar", "Let go within", 'class="qr-code"'):
            self.assertContains(page, words)
        for words in ('method="post"', "Back to the Desk", "Pin set-ups"):
            self.assertNotContains(page, words)
        self.assertContains(self.client.get(reverse("shares")), "Field sheet of a body: Varnholt")
        self.client.post(reverse("share-body-sheet"), {"setup": "x" * 2_000, "pin": "x" * 2_000})
        self.assertEqual(1, Share.objects.count())
        Card.objects.filter(slug="gravelock-pemba").delete()
        self.assertContains(Client().get(link), "its body or its cards are gone")
