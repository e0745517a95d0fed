"""A new card's check: what is as printed passes, what is less does not."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from engine.cards.new_card import CardCheck, InvalidCheck
from engine.quantities import GIB_IN_GB


class NewCards(unittest.TestCase):
    @given(st.floats(1, 4_000), st.floats(0.92, 1.0), st.floats(1.01, 3))
    def test_a_genuine_card_passes_and_one_that_holds_or_writes_less_does_not(
        self, printed_gb: float, share: float, faster: float
    ) -> None:
        shown = printed_gb * share
        good = CardCheck(
            printed_gb=printed_gb, guaranteed_mb_s=60, shown_gb=shown, read_back_gb=shown,
            copied_gb=10, copied_s=10_000 / 60 / faster,
        )  # fmt: skip
        self.assertFalse(good.is_bad, good.findings)
        for less in (
            {"shown_gb": shown / 2}, {"shown_gb": 2 * printed_gb}, {"read_back_gb": shown / 4},
            {"copied_gb": 10, "copied_s": 10_000 / 60 * faster},
        ):  # fmt: skip
            bad = CardCheck(**{"printed_gb": printed_gb, "guaranteed_mb_s": 60} | less)
            self.assertTrue(bad.is_bad, less)

    def test_a_gb_of_computers_is_more_than_one_of_labels(self) -> None:
        self.assertFalse(CardCheck(printed_gb=128, shown_gb=119 * GIB_IN_GB).is_bad)

    def test_a_short_copy_tells_nothing_of_the_card(self) -> None:
        check = CardCheck(printed_gb=64, guaranteed_mb_s=60, copied_gb=0.5, copied_s=60)
        self.assertFalse(check.is_bad)
        self.assertIn("cache", check.findings[0].words)

    def test_what_makes_no_sense_is_refused(self) -> None:
        for bad in ({"copied_gb": 4.0}, {"shown_gb": -1.0}, {"copied_gb": 1.0, "copied_s": 0.0}):
            with self.assertRaises(InvalidCheck):
                CardCheck(printed_gb=64, **bad)
