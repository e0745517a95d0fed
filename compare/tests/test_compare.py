"""Set-ups side by side: what is said of them, moved, swapped and left out."""

import random
from itertools import permutations, product
from typing import Any
from urllib.parse import parse_qsl, urlencode, urlsplit

from django.test import Client, TestCase
from django.urls import reverse

from kit import sample
from kit.models import Body, Card

HTMX = {"HX-Request": "true"}
A = "body=varnholt-vx-3&card1=gravelock-tide-512"
SLOWER = "body=varnholt-vx-3&card1=gravelock-tide-256"
BODY = "body=pellow-wren-10"


class Comparing(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()

    def page(self, *pins: str, **asked: Any) -> Any:
        return self.client.get(reverse("compare"), {"pin": pins, **asked}, headers=HTMX)

    def pins_after(self, *pins: str, **asked: Any) -> list[str]:
        address = self.page(*pins, **asked)["HX-Push-Url"]
        return [value for key, value in parse_qsl(urlsplit(address).query) if key == "pin"]

    def test_differences_are_told_against_the_first(self) -> None:
        page = self.page(A, SLOWER, f"{A}&hold=6")
        self.assertContains(page, "Too uncertain to call; B probably gets 22\xa0frames fewer (")
        measured = Card.objects.filter(slug="gravelock-tide-256")
        measured.update(sustained_source="measured_here", measured_in="Varnholt VX-3")
        page = self.page(A, SLOWER, f"{A}&hold=6")
        self.assertContains(page, "Against A: after 6 s 22\xa0frames (")
        self.assertContains(page, "behind; full speed lasts")
        self.assertContains(page, "No practical difference from A.", 1)

    def test_desk_and_compare_call_one_difference_alike(self) -> None:
        told = set()
        for body, slug in product(("varnholt-vx-3", "pellow-wren-10"), ("jpeg-fine", "")):
            query = f"body={body}" + (f"&format={slug}" if slug else "")
            cards = Client().get(f"/?{query}").context["setup"].sides[0].cards
            for card, other in permutations(random.Random(body).sample(cards, 4), 2):
                pair = [f"{query}&card1={one.slug}" for one in (card, other)]
                words = self.page(*pair).context["shown"].rows[1].differences
                desk = Client().get(f"/?{pair[1]}&{urlencode({'was': pair[0]})}")
                with self.subTest(pair):
                    kind = words[:8]
                    told.add(kind)
                    expected = {"Against ": "", "Too unce": "too unce", "No pract": "no pract"}
                    self.assertEqual(expected[kind], desk.context["how_sure"][:8])
        self.assertEqual(3, len(told))

    def test_two_that_beat_a_third_alike_are_not_called_no_difference(self) -> None:
        measured = Card.objects.filter(slug="gravelock-tide-256")
        measured.update(sustained_source="measured_here", measured_in="Varnholt VX-3")
        page = self.page(SLOWER, A, f"{A}&iso=400")
        self.assertContains(page, "No single one is best.")
        self.assertContains(self.page(A, f"{A}&iso=400"), "No practical difference.")

    def test_where_the_slot_sets_the_pace_two_fast_cards_are_not_told_apart(self) -> None:
        fast = {"tarn-90-128": 250, "gravelock-spray-256": 200}
        for slug, mb_s in fast.items():
            measured = {"sustained_source": "measured_here", "measured_in": "Pellow Wren 10"}
            Card.objects.filter(slug=slug).update(sustained_write_mb_s=mb_s, **measured)
        page = self.page(*(f"body=pellow-wren-10&card1={slug}&hold=20" for slug in fast))
        self.assertContains(page, "No practical difference from A.")

    def test_the_ruler_reads_all_at_one_moment(self) -> None:
        for at, frames in (("1", (21, 21)), ("99", (97, 75)), ("-3", (1, 1)), ("x", (97, 75))):
            with self.subTest(at):
                shown = self.page(A, SLOWER, at=at).context["shown"]
                self.assertEqual(frames, tuple(row.frames_at for row in shown.rows))

    def test_one_part_is_swapped_in_all(self) -> None:
        after = self.pins_after(A, BODY, **{"all-hold": "3,5", "all-iso": "1600", "all-over": ""})
        self.assertEqual([f"{A}&hold=3%2C5&iso=1600", f"{BODY}&hold=3%2C5&iso=1600"], after)
        holds = [row.setup.hold_s for row in self.page(*after).context["shown"].rows]
        self.assertEqual([3.5, 3.5], holds)

    def test_rows_move_and_six_at_most_are_shown(self) -> None:
        rows = self.page(A, SLOWER, BODY).context["shown"].rows
        self.assertEqual([SLOWER, A, BODY], list(rows[1].earlier.queries))
        self.assertEqual([SLOWER, A, BODY], list(rows[0].later.queries))
        many = [f"{A}&hold={seconds}" for seconds in range(1, 10)]
        self.assertEqual(
            "ABCDEF", "".join(r.letter for r in self.page(*many).context["shown"].rows)
        )

    def test_what_cant_be_shot_is_left_out_with_a_sentence(self) -> None:
        Body.objects.filter(slug="pellow-wren-10").update(resume_free_frames=500)
        page = self.page(A, BODY, "nonsense")
        self.assertContains(page, "this can&#39;t be predicted")
        self.assertEqual([A], self.pins_after(A, BODY))

    def test_without_pins_it_says_how_and_offers_an_example(self) -> None:
        page = self.client.get(reverse("compare"))
        self.assertContains(page, "Nothing is pinned yet")
        self.assertTrue(page.context["is_example"])
        self.assertEqual(3, len(page.context["shown"].rows))
        again = Client().get(reverse("compare"), {"pin": page.context["pins"].queries})
        self.assertFalse(again.context["is_example"])
        Body.objects.all().delete()
        self.assertContains(self.client.get(reverse("compare")), "Nothing is pinned yet")
