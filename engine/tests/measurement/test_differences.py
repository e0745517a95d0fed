"""Two cards are told apart, and a card's decline is seen, as often as is right."""

import unittest

import numpy as np

from engine.measurement.differences import SIGNIFICANT, change, difference


class Differences(unittest.TestCase):
    def test_what_is_clear_needs_no_more_runs_and_what_is_not_says_how_many(self) -> None:
        random = np.random.default_rng(1)
        for gap, runs, told, more in ((20, 2, True, None), (0.3, 2, False, None)):
            came = difference(gap + 5 * random.standard_normal(9_999), np.zeros(9_999), runs)
            self.assertEqual((told, more), (came.is_told, came.more_runs))
        unsure = difference(2 + 3 * random.standard_normal(9_999), np.zeros(9_999), 2)
        self.assertFalse(unsure.is_told)
        # 1.28 deviations shrink from 3.8 to 2 frames with 2 (3.8 / 2)² runs; two are made.
        self.assertEqual(6, unsure.more_runs)

    def test_turned_round_it_is_the_same_difference(self) -> None:
        random = np.random.default_rng(2)
        first, second = random.normal(9, 4, 999), random.normal(7, 4, 999)
        there, back = difference(first, second, 3), difference(second, first, 3)
        self.assertAlmostEqual(there.low, -back.high)
        self.assertEqual(there.more_runs, back.more_runs)

    def test_a_steady_card_seldom_seems_to_slow_and_a_worn_one_is_seen(self) -> None:
        random = np.random.default_rng(3)
        days = list(range(8))
        steady = [change(days, 90 * np.exp(0.04 * random.standard_normal(8))) for _ in range(400)]
        self.assertLess(np.mean([one is not None for one in steady]), SIGNIFICANT)
        slowing = 90 * np.exp(-0.04 * np.array(days) + 0.02 * random.standard_normal(8))
        self.assertAlmostEqual(-0.24, change(days, slowing), delta=0.06)
        for moments, rates in (([1, 2], [9, 1]), ([1, 1, 1, 1], [9, 8, 7, 6]), ([], [])):
            self.assertIsNone(change(moments, rates))
