"""Once there is anything of one's own, the sample kit is left out everywhere, unless asked for."""

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from accounts.models import User
from kit import sample
from kit.document import KINDS
from pages.context import ROOMS
from prices import sample as price_lists
from prices.models import PriceList

CAMERA = {"name": "Ownmake Hawk 9", "electronic": "15", "megapixels": "24", "slot1": ["SD|UHS-II"],
          "card": "Ownmake Flash 128 GB SDXC UHS-II U3 V60 W 180 MB/s"}  # fmt: skip
LISTS = [name for name, _, _ in ROOMS] + ["bench-test", "bench-next", "three-minutes"]


class MineAndSample(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        price_lists.load(timezone.localdate())

    def setUp(self) -> None:
        makers = {row.maker for model in KINDS.values() for row in model.objects.filter(owner=None)}
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
