"""Numbers that were learnt together vary together, in every draw."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from engine.figures.key import Factor, FigureKind
from engine.figures.uncertainty import JointSamples
from engine.tests.builders import scenario, sources
from engine.uncertainty.draws import Draws
from engine.uncertainty.intervals import confidence
from engine.uncertainty.sources import MEMORY


class LearntTogether(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(st.lists(st.floats(0.5, 2), min_size=1, max_size=200), st.integers(1, 1_000))
    def test_what_belongs_together_stays_so_and_each_ratio_is_drawn_as_often(
        self, ratios: list[float], count: int
    ) -> None:
        learnt, draws = JointSamples(tuple(ratios)), Draws(count)
        first = draws.ratios(MEMORY, learnt)
        second = draws.ratios(
            Factor(FigureKind.CARD, 1), JointSamples(tuple(1 / ratio for ratio in ratios))
        )
        if learnt.spread > 0:
            np.testing.assert_allclose(first * second, 1)
        if count % len(ratios) == 0 and learnt.spread > 0:
            np.testing.assert_allclose(sorted(first), sorted(ratios * (count // len(ratios))))

    def test_what_makes_up_for_each_other_leaves_a_burst_surer_than_each_by_itself(self) -> None:
        """As a burst depth tells of buffer and held size together, and hardly of either alone."""
        random = np.random.default_rng(1)
        ratios = np.exp(0.2 * random.standard_normal(200))
        burst = scenario(hold_s=3)
        apart = sources(burst, memory_mb=0.2, held_mb=0.2, files=0.2)
        same = JointSamples(tuple(map(float, ratios)))
        joint = sources(burst, memory_mb=same, held_mb=same, files=same)
        wide, narrow = (confidence(burst, one).frames for one in (apart, joint))
        self.assertLess(narrow.high - narrow.low, 0.5 * (wide.high - wide.low))

    def test_a_ratio_that_can_not_be_is_refused(self) -> None:
        for bad in ((), (1.0, 0.0), (-1.0,)):
            with self.assertRaises(ValueError):
                JointSamples(bad)
