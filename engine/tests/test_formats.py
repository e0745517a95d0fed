"""Honest digits: a tenth below 10, whole numbers above, three digits of thousands."""

from datetime import date
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from engine.figures.key import FigureKey
from engine.formats import day, exact, figure, fraction, money, odds, percent, signed, span, waiting


class Figures(TestCase):
    def test_digits_and_unit(self) -> None:
        for value, unit, shown in (
            (4.6000001, "", "4.6"),
            (3.04, "s", "3\u00a0s"),
            (9.96, "s", "10\u00a0s"),
            (12.4, "", "12"),
            (1250.0, "MB", "1,250\u00a0MB"),
            (1396.2, "MB", "1,400\u00a0MB"),
            (12_345, "", "12,345"),
            (0, "", "0"),
        ):
            with self.subTest(value):
                self.assertEqual(shown, figure(value, unit))

    def test_a_range_that_reads_the_same_at_both_ends_is_one_figure(self) -> None:
        self.assertEqual("45 to 54\xa0MB/s", span(45.2, 54, "MB/s"))
        self.assertEqual("12\xa0fps", span(12.1, 12.4, "fps"))

    def test_what_was_set_keeps_its_digits(self) -> None:
        for value, shown in (
            (20.0, "20"),
            (0.5, "0.5"),
            (599.9, "599.9"),
            (29.97, "29.97"),
            (1500.0, "1500"),
        ):
            with self.subTest(value):
                self.assertEqual(shown, exact(value))

    def test_a_part_is_said_as_one_says_it(self) -> None:
        for share, said in ((0.24, "a quarter"), (0.5, "half"), (0.34, "a third"), (0.9, "most")):
            self.assertEqual(said, fraction(share))

    def test_shares_waits_signs_and_amounts(self) -> None:
        for shown, said in (
            ("0 %", percent(0)), ("1 %", percent(0.001)), ("50 %", percent(0.5)),
            ("99 %", percent(0.999)), ("100 %", percent(1)),
            ("in every burst we tried (200)", odds(1, 200)),
            ("in no day we tried (200)", odds(0, 200, "days")),
            ("in 80 % of days", odds(0.8, 200, "days")),
            ("at once", waiting(0.04)), ("after 0.1\u00a0s", waiting(0.06)),
            ("+3", signed(3)), ("\u22123", signed(-3)), ("+0", signed(0)),
            ("1,200\u00a0EUR", money(1_200, "EUR")), ("1.25\u00a0EUR", money(1.25, "EUR")),
            ("1 Nov 2026", day(date(2026, 11, 1))),
        ):  # fmt: skip
            self.assertEqual(shown, said)

    @given(st.lists(st.decimals(0.5, 240, places=6), min_size=2, max_size=2, unique=True))
    def test_each_frame_rate_has_a_key_of_its_own(self, rates: list[Decimal]) -> None:
        self.assertEqual(2, len({FigureKey.of_frame_rate(float(fps)) for fps in rates}))
