"""Law: one set-up has the same figures and words on every screen and in every export."""

import csv
import io
import json
from random import Random
from urllib.parse import parse_qsl, urlencode

from django.contrib.auth import get_user_model
from django.core.cache import cache
from django.test import TestCase
from django.urls import reverse
from markupsafe import escape

from choose import need_address
from choose.page import ChoicePage
from engine.quantities import ns_of
from kit import edit, sample
from kit.document import KINDS, BadDocument
from kit.models import Body, Card
from kit.tests.random_items import RANDOM_ITEMS
from setups.engine_adapter import write_speed
from setups.kit import Kit
from setups.prediction import Prediction
from setups.reader import read_address

SETUPS = 30
TAUGHT = "varnholt-vx-3"  # whose figures Ann has learnt


class SameFigures(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        cls.ann = get_user_model().objects.create(email="ann@example.org", shows_sample=True)
        random = Random(7)
        for kind in ("bodies", "cards", "cards", "cards"):
            for _ in range(6):
                try:
                    edit.add(KINDS[kind], cls.ann, RANDOM_ITEMS[kind](random))
                except BadDocument:
                    continue
        cls._teach()

    @classmethod
    def _teach(cls) -> None:
        """Ann keeps a body and its cards, and her runs have taught what they do together."""
        taught = {"spread": 0.2, "samples": "0.8 0.9 1.2 1.3", "runs": 4, "learnt_on": "2026-11-01"}
        original = Body.objects.get(slug=TAUGHT)
        body = edit.duplicate(original, cls.ann).changed
        limit = {"kind": "slot", "of": "1", "value": 140.0} | taught
        share = {"kind": "slot share", "of": "1", "value": 0.7} | taught
        edit.rewrite(body, {"learnt_figures": [limit, share]}, None)
        for card in Card.objects.fitting(original.slots.first()):
            kept_mb_s = card.sustained_write_mb_s * 0.9
            speed = {
                "value": kept_mb_s,
                "own_mb_s": kept_mb_s / 0.7,
                "learnt_in": str(body),
            } | taught
            edit.rewrite(edit.duplicate(card, cls.ann).changed, {"learnt_speeds": [speed]}, None)

    def setUp(self) -> None:
        cache.clear()
        self.client.force_login(self.ann)

    def setups(self) -> list[dict[str, str]]:
        """Random set-ups of all bodies that can shoot, with all that the sentence offers."""
        random, kit = Random(1), Kit(self.ann)
        bodies = list(Body.objects.visible_to(self.ann).current().ready_to_shoot())
        found = []
        while len(found) < SETUPS:
            body = random.choice(bodies)
            asked = {
                "body": body.slug,
                "format": random.choice(list(body.formats.all())).slug,
                "hold": str(round(random.uniform(0.1, 30), random.choice((0, 1, 3)))),
                "to": random.choice(("single", "overflow", "mirror", "split")),
                "iso": random.choice(("100", "400", "6400")),
                "over": random.choice(("open water", "busy foliage")),
                "free1": random.choice(("", "0.5", "20")),
            }
            reading = read_address(asked, kit)
            if reading and reading.setup.complete:
                for side in reading.setup.sides:
                    asked[f"card{side.slot_number}"] = random.choice(side.cards).slug
                found.append(asked)
        return found

    def test_desk_compare_bench_and_exports_say_the_same(self) -> None:
        told = 0
        for asked in self.setups():
            response = self.client.get(reverse("desk"), asked, follow=True)
            desk: Prediction = response.context["prediction"]
            if desk.result is None:
                continue
            told += 1
            query = response.context["reading"].address
            (row,) = self.client.get(reverse("compare"), {"pin": query}).context["shown"].rows
            self.client.cookies.pop("setup")  # else the pin would follow to the next screen
            bench = self.client.get(f"{reverse('bench-next')}?{query}", follow=True).context["next"]
            burst = json.loads(self.client.get(f"{reverse('burst-json')}?{query}").content)
            frames = self.client.get(f"{reverse('frames-csv')}?{query}").getvalue().decode()
            svg = self.client.get(f"{reverse('burst-svg')}?{query}").content.decode()
            with self.subTest(query):
                self.assertEqual(
                    (desk.shot.frames, desk.shot.clear_s, desk.full_speed_words, desk.ranges),
                    (row.shot.frames, row.shot.clear_s, row.prediction.full_speed_words,
                     row.prediction.ranges),
                )  # fmt: skip
                self.assertEqual(desk.ranges.frames, bench.known.ranges.frames)
                result = burst["result"]
                self.assertEqual(desk.shot.frames, result["frames"])
                self.assertEqual(desk.shot.frames_at_full_speed, result["frames_at_full_speed"])
                self.assertAlmostEqual(desk.shot.clear_s, result["clear_s"])
                self.assertEqual(desk.shot.frames, len(list(csv.reader(io.StringIO(frames)))) - 1)
                self.assertIn(desk.full_speed_words.lower(), svg.lower())
                for side, slot in zip(desk.setup.sides, desk.shot.scenario.slots, strict=True):
                    self.assertEqual(write_speed(side).mb_s, side.fit.usable_mb_s)
                    together_mb_s = write_speed(side).mb_s * slot.pace
                    self.assertAlmostEqual(together_mb_s, slot.effective_mb_s, places=6)
                for caution in desk.setup.cautions:
                    self.assertContains(self.client.get(reverse("desk"), asked), escape(caution))
                if desk.ranges.wall_share:
                    self.assertNotIn("no wall in this hold", svg)
        self.assertGreater(told, SETUPS / 2)

    def test_what_is_chosen_does_on_the_desk_what_choose_says(self) -> None:
        for asked in self.setups()[: SETUPS // 2]:
            keys = ("body", "format", "iso", "over")
            lasts = str(max(float(asked["hold"]), 1))
            need = {key: asked[key] for key in keys} | {"lasts": lasts, "free": "40"}
            reading = need_address.read(need, Kit(self.ann))
            page = ChoicePage(reading, work_s=float("inf"))
            if page.choice is None:
                continue
            for place in list(range(len(page.choice.options)))[
                :: max(len(page.choice.options) // 5, 1)
            ]:
                query = page.names.shown(place).query
                shown = self.client.get(f"{reverse('desk')}?{query}").context
                desk, reading = shown["prediction"], shown["reading"]
                with self.subTest(query):
                    options = page.choice.options
                    self.assertEqual(
                        (desk.shot.frames, ns_of(desk.shot.clear_s)),
                        (options.frames[place], options.clear_ns[place]),
                    )
                    self.assertEqual(dict(parse_qsl(query)), dict(parse_qsl(reading.address)))

    def test_odds_are_those_of_the_desk(self) -> None:
        told = 0
        for asked in self.setups():
            keys = ("body", "format", "iso", "over")
            lasts = min(max(float(asked["hold"]), 1), 12)
            need = {key: asked[key] for key in keys} | {"lasts": str(lasts), "full": str(lasts)}
            reading = need_address.read(need, Kit(self.ann))
            page = ChoicePage(reading, work_s=float("inf"))
            if page.answer is None:
                continue
            desk = self.client.get(f"{reverse('desk')}?{page.answer.query}", follow=True).context[
                "prediction"
            ]
            (_, _, often) = page.goals[0]
            share = round(1 - desk.ranges.wall_share, 6)
            with self.subTest(page.answer.query):
                told += 0 < share < 1
                self.assertGreaterEqual(share, page.choice.need.sure)
                self.assertEqual(desk.no_wall_odds, often)
        self.assertGreater(told, 5)

    def test_a_link_asks_on_the_next_screen_what_was_asked_here(self) -> None:
        for lasts in ("0.05", "601", "3000"):
            page = self.client.get(reverse("choose"), {"lasts": lasts, "body": "varnholt-vx-3"})
            self.assertContains(page, "fault-lasts")
        query = urlencode({"body": "varnholt-vx-3", "hold": "3.125", "iso": "6400"})
        desk = self.client.get(f"{reverse('desk')}?{query}").context["reading"]
        again = self.client.get(f"{reverse('desk')}?{desk.address}").context["reading"]
        self.assertEqual((3.125, desk.setup), (again.setup.hold_s, again.setup))
