"""What marks let expect of a card: as wide as docs/model.md says, less sure where they differ."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.special import ndtri

from engine.cards.label.face import Face
from engine.cards.standards import CEILING_MB_S, Bus, Form
from engine.estimates.write_speed import (
    KEPT_OF_CLASS,
    KEPT_OF_READ,
    KEPT_OF_SUSTAINED,
    KEPT_OF_WRITE,
    SLOT_SHARE,
    Clue,
    card_speed,
    estimate_write,
    unknown_card,
)
from engine.figures.uncertainty import Skewed

RANDOM = np.random.default_rng(1)
OWN, SHARE = ndtri(RANDOM.random((2, 100_000)))


class Clues(unittest.TestCase):
    def test_a_slot_makes_of_a_card_what_cameras_are_said_to_keep(self) -> None:
        for kept in (KEPT_OF_WRITE, KEPT_OF_SUSTAINED, KEPT_OF_READ, KEPT_OF_CLASS):
            own = Clue.of_kept(100, kept, "").figure
            mb_s = own.value * own.uncertainty.ratios(OWN) * SLOT_SHARE.ratios(SHARE)
            low, middle, high = np.quantile(mb_s, (0.1, 0.5, 0.9))
            for found, end in ((low, kept.ends[0]), (middle, kept.middle), (high, kept.ends[1])):
                self.assertAlmostEqual(0, np.log(found / 100 / end), delta=0.12)

    def test_one_mark_alone_is_shown_with_the_range_of_the_table(self) -> None:
        face = Face(form=Form.CFEXPRESS_B, bus=Bus.PCIE_3_X2, write_mb_s=1_300)
        shown = estimate_write(face)
        assert shown
        ends = np.array([shown.low_mb_s, shown.middle_mb_s, shown.high_mb_s]) / 1_300
        np.testing.assert_allclose(ends, [0.45, 0.72, 0.95])

    @given(st.floats(20, 900), st.floats(20, 900))
    def test_two_clues_come_to_something_between_them(self, one: float, other: float) -> None:
        clues = [Clue.of_kept(mb_s, KEPT_OF_WRITE, "") for mb_s in (one, other)]
        both = clues[0].and_also(clues[1])
        self.assertEqual(both, clues[1].and_also(clues[0]))
        low, high = sorted(clue.mb_s for clue in clues)
        self.assertTrue(low * (1 - 1e-9) <= both.mb_s <= high * (1 + 1e-9))

    def test_clues_that_do_not_agree_are_less_sure(self) -> None:
        def width(*mb_s: float) -> float:
            first, *more = (Clue.of_kept(one, KEPT_OF_WRITE, "") for one in mb_s)
            for clue in more:
                first = first.and_also(clue)
            uncertainty: Skewed = first.uncertainty
            return uncertainty.below + uncertainty.above

        self.assertAlmostEqual(width(100), width(100, 100))
        self.assertGreater(width(100, 1_000), 2 * width(100))

    def test_nothing_but_the_bus_still_lets_a_plain_card_be(self) -> None:
        """Cards of 20 and 40 MB/s in a UHS-II slot are unusual, and neither is impossible."""
        unknown = unknown_card(CEILING_MB_S[Bus.UHS_II])
        kept = unknown.value * unknown.uncertainty.ratios(OWN) * SLOT_SHARE.ratios(SHARE)
        self.assertGreater((kept < 40).mean(), 0.05)
        self.assertGreater((kept < 20).mean(), 0.01)

    def test_more_than_the_bus_carries_counts_as_the_bus(self) -> None:
        printed, bus = Face(form=Form.SD, bus=Bus.UHS_I, write_mb_s=150), CEILING_MB_S[Bus.UHS_I]
        most = Face(form=Form.SD, bus=Bus.UHS_I, write_mb_s=bus)
        self.assertEqual(card_speed(most).value, card_speed(printed).value)
        self.assertLessEqual(estimate_write(printed).high_mb_s, bus)
