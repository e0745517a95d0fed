"""The Table: every cell is what the Desk says, sorted by what leads, in pieces where it is long."""

import csv
import json
from unittest import mock
from urllib.parse import urlencode

from django.contrib.auth import get_user_model
from django.test import TestCase
from django.urls import reverse

from kit import edit, sample
from kit.models import Body, Card
from pages.tests.jobs import work_off
from table.body_table import table_of
from table.cells import Lead, as_good


class TheTable(TestCase):
    def setUp(self) -> None:
        for place in ("body_table", "card_table"):  # all of it, on a slow machine too
            at_once = mock.patch(f"table.{place}.WORK_S", 60)
            at_once.start()
            self.addCleanup(at_once.stop)
        sample.load()

    def table(self, **asked: str):
        return self.client.get(reverse("table"), asked).context["table"]

    def test_every_cell_is_what_the_desk_says(self) -> None:
        """Law: over bodies, scenes and holds, the figures and ranges of a cell are the Desk's."""
        for asked in (
            {},
            {"body": "varnholt-vx-3", "to": "mirror", "hold": "3", "iso": "6400"},
            {"body": "quillon-swift-7", "rates": "all", "over": "open water"},
            {"body": "pellow-meridian-61", "ways": "all", "lead": "clear"},
        ):
            table = self.table(**asked)
            cells = list(table.cells)
            for cell in cells[:: max(1, len(cells) // 6)]:
                desk = self.client.get(f"{reverse('desk')}?{cell.query}").context["prediction"]
                with self.subTest(cell=cell.query):
                    self.assertEqual(desk.setup, cell.setup)
                    self.assertEqual(desk.ranges, cell.ranges)
                    self.assertEqual(desk.bottleneck.sustained_fps, cell.sustained_fps)

    def test_a_large_file_is_worked_out_in_the_background_and_is_the_same(self) -> None:
        asked = {"body": "varnholt-vx-3"}
        at_once = self.client.get(reverse("table-csv"), asked).getvalue()
        table_of.cache_clear()
        with mock.patch("table.tasks.AT_ONCE", 0):
            waiting = self.client.get(reverse("table-csv"), asked)
            self.assertContains(waiting, 'http-equiv="refresh"', status_code=202)
            self.assertNotContains(waiting, "hx-get", status_code=202)
            table_of.cache_clear()
            self.assertEqual(1, work_off())
            table_of.cache_clear()  # as in a process of the site, not of the worker
            self.assertEqual(at_once, self.client.get(reverse("table-csv"), asked).getvalue())

    def test_what_leads_sorts_rows_and_columns_and_what_is_owned_comes_first(self) -> None:
        ann = get_user_model().objects.create(email="ann@example.org", shows_sample=True)
        self.client.force_login(ann)
        edit.copy(Card.objects.get(slug="gravelock-tide-256"), ann)
        for lead in Lead:
            table = self.table(body="varnholt-vx-3", lead=lead)
            with self.subTest(lead):
                self.assertEqual([True], [column.is_own for column in table.columns][:1])
                best = [max(c.value(lead) for c in row.cells if c) for row in table.rows]
                self.assertEqual(best, sorted(best, reverse=True))

    def test_the_set_up_is_marked_and_what_is_as_good_as_the_best_is_shaded(self) -> None:
        asked = {"body": "varnholt-vx-3", "card1": "gravelock-tide-256"}
        page = self.client.get(reverse("table"), asked)
        self.assertContains(page, 'aria-current="true"', 1)
        shown = [one for _, cells in page.context["pieces"] for one in cells if one.cell]
        self.assertTrue(any(one.is_as_good for one in shown))
        self.assertFalse(all(one.is_as_good for one in shown))

    def test_no_practical_difference_is_under_a_tenth_or_a_third_of_a_second(self) -> None:
        for lead, value, best, same in (
            (Lead.FULL_SPEED, 95, 100, True), (Lead.FULL_SPEED, 80, 100, False),
            (Lead.FULL_SPEED, 100, float("inf"), False), (Lead.CLEAR, -0.2, 0, True),
            (Lead.CLEAR, -5, -3, False),
        ):  # fmt: skip
            self.assertEqual(same, as_good(value, best, lead))

    def test_a_long_table_comes_in_pieces_that_add_up(self) -> None:
        asked = {"body": "varnholt-vx-3", "rates": "all", "ways": "all"}
        more_at, rows = f"{reverse('table')}?{urlencode(asked)}", []
        while more_at:
            page = self.client.get(more_at)
            rows += [row for row, _ in page.context["pieces"]]
            more_at = page.context["more_at"]
        table = page.context["table"]
        self.assertEqual([(r.recording, r.rate) for r in table.rows],
                         [(r.recording, r.rate) for r in rows])  # fmt: skip

    def test_exports_have_every_cell(self) -> None:
        asked = {"body": "pellow-wren-10"}
        cells = list(self.table(**asked).cells)
        text = self.client.get(reverse("table-csv"), asked).getvalue().decode()
        lines = list(csv.DictReader(text.splitlines()))
        told = json.loads(self.client.get(reverse("table-json"), asked).getvalue())
        self.assertEqual((len(cells), len(cells)), (len(lines), len(told)))
        frames = sorted(cell.frames for cell in cells)
        self.assertEqual(frames, sorted(int(line["frames"]) for line in lines))
        self.assertEqual(frames, sorted(one["frames"] for one in told))

    def test_odd_addresses_and_an_empty_kit_are_answered(self) -> None:
        for asked in ({"hold": "1e9"}, {"lead": "nonsense"}, {"from": "-1"}, {"from": "99999999"},
                      {"body": "zz", "to": "split"}, {"card2": "zz", "ways": "all"}):  # fmt: skip
            self.assertEqual(200, self.client.get(reverse("table"), asked).status_code)
        Card.objects.all().delete()
        self.assertContains(self.client.get(reverse("table")), "No card in the kit fits")
        Body.objects.all().delete()
        self.assertContains(self.client.get(reverse("table")), "There is no body yet")
        self.assertEqual(404, self.client.get(reverse("table-csv")).status_code)

    def test_one_card_is_shown_in_all_bodies_that_take_it(self) -> None:
        page = self.client.get(reverse("card-table", args=["gravelock-breaker-1000"]))
        bodies = [str(body) for body, _ in page.context["table"].groups]
        self.assertIn("Varnholt VX-3", bodies)
        self.assertNotIn("Pellow Wren 10", bodies)

    def test_a_card_for_the_second_slot_is_alone_in_it_and_opens_no_desk(
        self,
    ) -> None:
        page = self.client.get(reverse("card-table", args=["gravelock-spray-256"]))
        groups = {body.slug: pairs for body, pairs in page.context["table"].groups}
        cells = [pair.cell for pair in groups["varnholt-vx-3"]]
        self.assertEqual({(2, "")}, {(cell.setup.slot_alone, cell.query) for cell in cells})
        self.assertContains(page, "in slot 2 alone")

    def test_of_two_cards_the_one_that_does_better_is_shaded_on_the_page_of_either(self) -> None:
        ann = get_user_model().objects.create(email="ann@example.org")
        self.client.force_login(ann)
        edit.copy(Body.objects.get(slug="varnholt-vx-3"), ann)
        slugs = {name: edit.copy(Card.objects.get(slug=name), ann).changed.slug
                 for name in ("gravelock-breaker-1000", "gravelock-tide-256")}  # fmt: skip
        for name, shaded in (("gravelock-breaker-1000", (True, False)),
                             ("gravelock-tide-256", (False, True))):  # fmt: skip
            page = self.client.get(reverse("card-table", args=[slugs[name]]))
            ((_, pairs),) = page.context["table"].groups
            raw, jpeg = (next(one for one in pairs if one.recording.slug == slug)
                         for slug in ("lossless-raw", "jpeg-fine"))  # fmt: skip
            self.assertEqual(shaded, (raw.is_best, raw.other_is_best))
            self.assertEqual((True, True), (jpeg.is_best, jpeg.other_is_best))
