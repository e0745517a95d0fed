"""Once there is anything of one's own, the sample kit is left out everywhere, unless asked for."""

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from accounts.models import User
from kit import sample
from kit.document import KINDS
from kit.models import Card
from pages.context import SCREENS
from prices import sample as price_lists
from prices.models import PriceList

CAMERA = {"name": "Ownmake Hawk 9", "electronic": "15", "megapixels": "24", "slot1": ["SD|UHS-II"],
          "card": "Ownmake Flash 128 GB SDXC UHS-II U3 V60 W 180 MB/s"}  # fmt: skip
LISTS = [screen.name for screen in SCREENS] + ["bench-test", "bench-next", "three-minutes"]


class MineAndSample(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        price_lists.load(timezone.localdate())

    def setUp(self) -> None:
        rows = (model.objects.of_sample_kit() for model in KINDS.values())
        makers = {row.maker for kind in rows for row in kind}
        shops = set(PriceList.objects.filter(owner=None).values_list("shop", flat=True))
        self.invented = makers | shops

    def shown(self, name: str) -> set[str]:
        """The invented makers and shops that a screen names."""
        text = self.client.get(reverse(name)).content.decode()
        main = text[text.index("<main") : text.index("</main>")]
        return {one for one in self.invented if one in main.replace("as in Varnholt VX-3", "")}

    def test_without_anything_of_ones_own_the_sample_kit_is_shown_and_said_to_be(self) -> None:
        self.assertTrue(self.shown("desk"))
        self.assertContains(self.client.get(reverse("fits")), "the sample kit, to try everything")

    def test_own_things_hide_it_on_every_screen_until_it_is_asked_for(self) -> None:
        self.client.post(reverse("camera"), CAMERA)
        for name in LISTS:
            with self.subTest(name):
                self.assertEqual(set(), self.shown(name))
        self.client.post(reverse("sample-kit"), {"shown": "1", "back": reverse("cards")})
        self.assertTrue(User.objects.get().shows_sample)
        for name in ("desk", "cards", "bodies", "choose", "table", "prices"):
            with self.subTest(name):
                self.assertTrue(self.shown(name))
        self.assertContains(self.client.get(reverse("cards")), "The sample kit, all invented")
        self.client.post(reverse("sample-kit"), {"shown": "0"})
        self.assertEqual(set(), self.shown("choose"))

    def test_a_card_alone_hides_it_too_and_the_desk_says_what_is_missing(self) -> None:
        self.client.post(reverse("camera"), CAMERA)
        for body in KINDS["bodies"].objects.exclude(owner=None):
            self.client.post(reverse("archive", args=["bodies", body.slug]))
            body.refresh_from_db()
            self.assertTrue(body.archived_at)
        for name in ("desk", "table", "choose", "compare", "bench", "bench-test", "fits"):
            with self.subTest(name):
                page = self.client.get(reverse(name))
                self.assertEqual(200, page.status_code)
                self.assertEqual(set(), self.shown(name))
        self.assertContains(self.client.get(reverse("desk")), reverse("camera"))

    def test_choose_offers_cards_of_each_class_by_their_marks_at_the_price_that_one_notes(
        self,
    ) -> None:
        self.client.post(reverse("camera"), CAMERA)
        asked = {"lasts": "3", "full": "3"}
        page = self.client.get(reverse("choose"), asked).context["page"]
        by_name = {str(row.evaluated.card): row for row in page.rows}
        dear = next(name for name in by_name if name.startswith("Any V90"))
        owned = {name for name, row in by_name.items() if row.evaluated.candidate.owned}
        self.assertEqual({"Ownmake 128"}, owned)
        classes = {name[:7] for name in by_name if name.startswith("Any V")}
        self.assertEqual({"Any V30", "Any V60", "Any V90"}, classes)
        told = {"maker": "Any", "name": dear[4:], "price": "150", "currency": "EUR"}
        self.client.post(reverse("price-note"), told)
        self.assertContains(self.client.get(reverse("choose"), asked), 'value="150"')
        slow = Card.objects.get(of_class=True, name__startswith="V30")
        quick = Card.objects.get(of_class=True, name__startswith="V90")
        frames = [
            self.client.get(reverse("desk"), {"card1": card.slug}).context["prediction"].shot.frames
            for card in (slow, quick)
        ]
        self.assertLess(*frames)
