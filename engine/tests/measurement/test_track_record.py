"""Ranges that are right are seen to hold, however roughly it was measured."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from engine.figures.uncertainty import Z_80
from engine.measurement.track_record import Compared, TrackRecord


def records(spread: float, deviation: float, figures: int, count: int) -> list[TrackRecord]:
    """Of figures whose 80 % ranges are right, each measured with an error of its own."""
    random = np.random.default_rng(5)
    true = 100 + spread * random.standard_normal((count, figures))
    measured = true + deviation * random.standard_normal(true.shape)
    ends = {"low": 100 - Z_80 * spread, "middle": 100.0, "high": 100 + Z_80 * spread}
    return [
        TrackRecord([
            Compared(key="frames", measured=float(one), deviation=deviation, **ends) for one in row
        ])
        for row in measured
    ]  # fmt: skip


class TrackRecords(unittest.TestCase):
    @settings(max_examples=20, deadline=None)
    @given(st.floats(0.01, 10), st.floats(0, 10))
    def test_four_in_five_are_within_and_few_records_are_called_poor(
        self, spread: float, deviation: float
    ) -> None:
        found = records(spread, deviation, figures=12, count=300)
        within = sum(one.within for one in found) / (12 * len(found))
        self.assertAlmostEqual(0.8, within, delta=0.03)
        self.assertLess(sum(one.is_poor for one in found), 0.08 * len(found))

    def test_figures_without_a_wall(self) -> None:
        for measured, ends, is_within in (
            (None, (40, None, None), True),
            (40, (40, 60, None), True),
            (39, (40, None, None), True),
            (20, (40, None, None), False),
            (None, (40, 50, 60), False),
            (70, (40, 60, None), True),
        ):
            low, middle, high = ends
            one = Compared(
                key="frames", measured=measured, deviation=1, low=low, middle=middle, high=high
            )
            self.assertEqual(is_within, one.is_within, (measured, ends))
