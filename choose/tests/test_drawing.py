"""Money against readiness: where things stand in the drawing."""

import re
from unittest import TestCase

from choose.drawing import MoneyDrawing, draw_money
from engine.selection.requirements import Need
from engine.selection.steps import choose
from engine.tests.selection.test_choice import CAMERA, WAY, card


class MoneyDrawingTests(TestCase):
    def drawn(self, *cards, **need) -> MoneyDrawing | None:
        return draw_money(
            choose(CAMERA, [WAY], cards, Need(**{"lasts_s": 4, "light_out_s": 3} | need))
        )

    def test_dearer_is_further_right_and_sooner_ready_is_higher(self) -> None:
        drawing = self.drawn(card(200, 2_000), card(500, 6_000), card(900, 9_000))
        by_price = sorted(drawing.points, key=lambda point: point.x)
        self.assertEqual([point.y for point in by_price],
                         sorted((point.y for point in by_price), reverse=True))  # fmt: skip
        self.assertEqual([False, True, True], [point.passes for point in by_price])
        for point in drawing.points:
            self.assertTrue(0 <= point.x <= 100 and 0 <= point.y <= 100)

    def test_the_front_goes_in_stairs_through_what_nothing_beats(self) -> None:
        drawing = self.drawn(card(200, 2_000), card(500, 6_000), card(300, 7_000))
        xs = [float(x) for x in re.findall(r"[MH]([\d.]+)", drawing.front)]
        beaten = max(point.x for point in drawing.points)
        self.assertEqual(xs, sorted(xs))
        self.assertNotIn(beaten, xs)

    def test_a_cloud_holds_the_points_that_nobody_could_tell_apart(self) -> None:
        drawing = self.drawn(card(500, 3_000), card(510, 9_000), card(200, 1_000))
        (cloud,) = drawing.clouds
        inside = [
            point for point in drawing.points
            if cloud.x < point.x < cloud.x + cloud.width
            and cloud.y < point.y < cloud.y + cloud.height
        ]  # fmt: skip
        self.assertEqual((2, 2), (cloud.count, len(inside)))

    def test_budget_and_waste_stand_where_their_price_is(self) -> None:
        drawing = self.drawn(card(500, 5_000), card(505, 10_000), budget_cents=5_000, light_out_s=9)
        cheap = min(point.x for point in drawing.points)
        self.assertEqual((cheap, cheap), (drawing.budget_x, drawing.wasted_x))
        self.assertAlmostEqual(100, drawing.wasted_x + drawing.wasted_width)

    def test_ticks_are_round_and_within_the_drawing(self) -> None:
        drawing = self.drawn(card(200, 2_345), card(500, 61_234))
        values = [value for value, _ in drawing.price_ticks]
        self.assertEqual([0, 200, 400, 600], values)
        self.assertTrue(all(0 <= x <= 100 for _, x in drawing.price_ticks))

    def test_without_prices_there_is_nothing_to_draw(self) -> None:
        self.assertIsNone(self.drawn(card(500, None)))
