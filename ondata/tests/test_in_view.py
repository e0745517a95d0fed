"""The set-up in view follows through the menu, with its pins."""

from random import Random
from unittest import mock

from django.test import Client, TestCase
from django.urls import reverse

from choose import evaluating
from kit import sample
from kit.models import Body
from kit.tests import builders
from setups import keys
from setups.in_view import TAKEN_BY

COMMON = (keys.BODY, keys.FORMAT, keys.FRAME_RATE, keys.HOLD, keys.SCENE, keys.ISO, keys.card(1))


class TheSetupInView(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()

    def setUp(self) -> None:
        at_once = mock.patch.object(evaluating, "WORK_S", 0)  # the answer is no matter here
        at_once.start()
        self.addCleanup(at_once.stop)

    def opened(self, client: Client, name: str, **asked: object):
        return client.get(reverse(name), asked, follow=True)

    def shown(self, page: object, name: str) -> dict[str, str]:
        """The address of the set-up that a screen shows."""
        context = page.context  # type: ignore[attr-defined]
        reading = context["page"].reading.desk if name == "choose" else context["reading"]
        return reading.setup.address

    def test_every_screen_opens_with_the_set_up_and_the_pins_of_the_one_before(self) -> None:
        random = Random(4)
        for number in range(8):
            client = Client()
            asked = self.some_setup(random)
            pins = [f"hold={hold}&iso=800" for hold in random.sample(range(1, 9), 2)]
            first = self.opened(client, "desk", **asked, pin=pins)
            wanted = self.shown(first, "desk")
            for name in random.sample([*TAKEN_BY], len(TAKEN_BY)):
                page = self.opened(client, name)
                with self.subTest(number=number, name=name):
                    self.assertEqual(200, page.status_code)
                    if name != "compare":
                        taken = [key for key in COMMON if key in TAKEN_BY[name]]
                        shown = self.shown(page, name)
                        self.assertEqual(
                            {key: wanted.get(key) for key in taken},
                            {key: shown.get(key) for key in taken},
                        )
                    if "pins" in page.context:
                        self.assertEqual(pins, [*page.context["pins"].queries])
            again = self.shown(self.opened(client, "desk"), "desk")
            self.assertEqual(wanted, again)

    def test_of_two_tabs_the_menu_follows_the_one_that_is_looked_at(self) -> None:
        """A tab that is looked at again asks for the head of its own address."""
        random, client = Random(5), Client()
        first = self.some_setup(random)
        second = self.some_setup(random) | {keys.HOLD: "21"}
        tabs = [self.opened(client, "desk", **asked) for asked in (first, second)]
        self.assertEqual("21", self.shown(self.opened(client, "table"), "table")[keys.HOLD])
        client.head(f"{reverse('desk')}?{tabs[0].context['reading'].address}")
        shown = self.shown(self.opened(client, "table"), "table")
        for key in (keys.BODY, keys.FORMAT, keys.HOLD):
            self.assertEqual(first[key], shown[key])

    def some_setup(self, random: Random) -> dict[str, str]:
        body = random.choice(list(Body.objects.current().ready_to_shoot()))
        rates = [rate for mode in body.shutter_modes.all() for rate in mode.frame_rates.all()]
        return {
            keys.BODY: body.slug,
            keys.FORMAT: random.choice([*body.formats.all()]).slug,
            keys.FRAME_RATE: f"{random.choice(rates).fps:g}",
            keys.HOLD: str(random.randint(1, 20)),
            keys.SCENE: "open water",
            keys.ISO: "1600",
        }

    def test_the_last_pin_taken_away_stays_away(self) -> None:
        client = Client()
        page = self.opened(client, "desk", pin="hold=3")
        (pin,) = page.context["pins"].all
        client.get(f"{reverse('desk')}?hold=4{pin.others}")
        self.assertTrue(self.opened(client, "compare").context["is_example"])

    def test_another_body_keeps_hold_and_scene_but_not_the_cards_of_the_one_before(self) -> None:
        client = Client()
        self.opened(client, "desk", body="varnholt-vx-3", card1="gravelock-tide-256", hold="3",
                    free1="5", over="open water")  # fmt: skip
        self.opened(client, "choose", body="quillon-swift-7", fps="any", lasts="3")
        page = self.opened(client, "desk")
        self.assertEqual({}, page.context["reading"].notes)
        self.assertEqual("quillon-swift-7", page.context["setup"].body.slug)
        self.assertEqual(3, page.context["setup"].hold_s)

    def test_what_is_gone_or_makes_no_sense_is_forgotten_without_a_word(self) -> None:
        client = Client()
        body = builders.ready_body(slug="gone-tomorrow")
        self.opened(client, "desk", body=body.slug, hold="3")
        Body.objects.filter(pk=body.pk).delete()
        for cookie in (None, "body=%00&hold=1e999&pin=x&pin=body%3Dnobody", "&&==%", "x" * 9_000):
            if cookie is not None:
                client.cookies["setup"] = cookie
            for name in TAKEN_BY:
                page = self.opened(client, name)
                with self.subTest(cookie=cookie, name=name):
                    self.assertEqual(200, page.status_code)
                    self.assertNotContains(page, 'class="trouble" role="alert">The kit')

    def test_the_body_added_last_takes_no_screen_over(self) -> None:
        mine = builders.ready_body(name="Mine")
        client = Client()
        self.opened(client, "desk", body=mine.slug, hold="2")
        builders.ready_body(name="Later")
        for name in ("table", "choose", "desk"):
            self.assertEqual(mine.slug, self.shown(self.opened(client, name), name)["body"])
