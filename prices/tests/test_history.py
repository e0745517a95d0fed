from datetime import date
from decimal import Decimal
from unittest import TestCase

from prices.history import HEIGHT, WIDTH, sparkline
from prices.money import Priced, Quote


def quote(price: str, month: int | None, currency: str = "EUR") -> Quote:
    return Quote(Decimal(price), currency, month and date(2026, month, 1), "Weir")


class SparklineTests(TestCase):
    def test_prices_are_drawn_in_time_the_dear_ones_high(self) -> None:
        drawn = sparkline(Priced([quote("90", 1), quote("119.50", 6), quote("100", 11)]))
        points = [tuple(map(float, p.split())) for p in drawn.path.removeprefix("M").split("L")]
        xs, ys = zip(*points, strict=True)
        self.assertEqual(sorted(xs), list(xs))
        self.assertTrue(ys[1] < ys[2] < ys[0])
        self.assertTrue(all(0 <= x <= WIDTH and 0 <= y <= HEIGHT for x, y in points))
        self.assertEqual(
            "90\u00a0EUR on 1 Jan 2026, 100\u00a0EUR on 1 Nov 2026; "
            "lowest 90\u00a0EUR on 1 Jan 2026",
            drawn.words,
        )

    def test_other_currencies_and_prices_without_a_day_are_left_out(self) -> None:
        drawn = sparkline(Priced([quote("5", None), quote("80", 2, "GBP"), quote("90", 3),
                                  quote("90", 4)]))  # fmt: skip
        self.assertEqual(1, drawn.path.count("L"))

    def test_one_price_is_no_history(self) -> None:
        for history in ([], [quote("90", 1)], [quote("90", 1), quote("80", 2, "GBP")]):
            self.assertIsNone(sparkline(Priced(history)))
