"""Honest digits: a tenth below 10, whole numbers above, three digits of thousands."""

from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from engine.figures.key import FigureKey
from engine.formats import exact, figure


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

    @given(st.lists(st.decimals(0.5, 240, places=6), min_size=2, max_size=2, unique=True))
    def test_each_frame_rate_has_a_key_of_its_own(self, rates: list[Decimal]) -> None:
        self.assertEqual(2, len({FigureKey.of_frame_rate(float(fps)) for fps in rates}))
