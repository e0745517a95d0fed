"""The bursts beside cards: each is that of the set-up that its link opens."""

from urllib.parse import parse_qsl

from django.contrib.auth.models import AnonymousUser
from django.test import TestCase

from kit import sample
from kit.models import Card
from setups import keys
from setups.bursts import bursts_with
from setups.engine_adapter import scenario_of
from setups.kit import Kit
from setups.reader import read_address


class Bursts(TestCase):
    def test_a_link_opens_the_very_burst_that_is_shown(self) -> None:
        sample.load()
        kit = Kit(AnonymousUser())
        linked = 0
        for body in kit.bodies:
            reading = read_address({keys.BODY: body.slug}, kit)
            for pk, burst in bursts_with(kit, reading.setup, Card.objects.all()).items():
                setup = burst.setup
                with self.subTest(body=body.slug, card=pk):
                    self.assertEqual(pk, setup.sides[0].fitted.pk)
                    self.assertEqual(setup.desk_query == "", setup.slot_alone is not None)
                    if setup.desk_query:
                        opened = read_address(dict(parse_qsl(setup.desk_query)), kit)
                        self.assertEqual(burst.shot.scenario, scenario_of(opened.setup))
                        linked += 1
        self.assertGreater(linked, 20)
