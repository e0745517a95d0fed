"""Every kind of uncertainty keeps what the family promises, whatever its numbers."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import ndtri

from engine.figures.figure import Figure
from engine.figures.uncertainty import JointSamples, LogNormal, LogUniform, Skewed, Uncertainty

NORMALS = ndtri((np.arange(20_000) + 0.5) / 20_000)
ratios = st.floats(0.2, 5)
spreads = st.floats(0.01, 0.8)
smooth = (
    st.builds(LogNormal, spreads)
    | st.builds(Skewed, spreads, spreads, ratios, st.sampled_from([0, 0.1, 0.2]))
    | st.builds(lambda low, width: LogUniform(low, low * width), ratios, st.floats(1.05, 9))
)
uncertainties = smooth | st.builds(
    lambda samples: JointSamples(tuple(samples)), st.lists(ratios, min_size=1, max_size=60)
)


class Uncertainties(unittest.TestCase):
    @settings(deadline=None)
    @given(uncertainties)
    def test_spread_and_middle_are_those_of_its_ratios(self, uncertainty: Uncertainty) -> None:
        logs = np.log(uncertainty.ratios(NORMALS))
        self.assertAlmostEqual(
            uncertainty.spread, logs.std(), delta=0.02 * uncertainty.spread + 1e-9
        )
        around = uncertainty.around_middle
        self.assertAlmostEqual(1, around.middle)
        np.testing.assert_allclose(around.ratios(NORMALS) * uncertainty.middle, np.exp(logs))

    @settings(deadline=None)
    @given(smooth)
    def test_four_ratios_in_five_lie_between_its_ends(self, uncertainty: Uncertainty) -> None:
        (low, high), drawn = uncertainty.ends, uncertainty.ratios(NORMALS)
        self.assertAlmostEqual(0.1, (drawn < low).mean(), delta=0.001)
        self.assertAlmostEqual(0.1, (drawn > high).mean(), delta=0.001)

    @given(smooth, st.floats(0.1, 1_000))
    def test_a_figure_lies_between_its_ends(self, uncertainty: Uncertainty, value: float) -> None:
        figure = Figure(value, uncertainty)
        self.assertTrue(figure.low < figure.middle < figure.high)
        self.assertAlmostEqual(uncertainty.ends[1] / uncertainty.ends[0], figure.high / figure.low)
        self.assertAlmostEqual(uncertainty.middle, figure.middle / value)

    @settings(deadline=None)
    @given(smooth, st.floats(-2, 2), st.floats(-0.5, 0.5))
    def test_a_move_multiplies_its_ratio_and_counts_the_density(
        self, uncertainty: Uncertainty, normal: float, log_factor: float
    ) -> None:
        def log_density(at: float) -> float:
            """Of the ratio's logarithm: that of the normal number, and how fast the one follows."""
            around = np.log(uncertainty.ratios(np.array([at - 1e-4, at + 1e-4])))
            return -(at**2) / 2 - math.log((around[1] - around[0]) / 2e-4)

        (moved,), (gain,) = uncertainty.multiplied(np.array([normal]), np.array([log_factor]))
        before, after = uncertainty.ratios(np.array([normal, moved]))
        if math.isinf(gain):
            low, high = uncertainty.ratios(np.array([-40.0, 40.0]))
            self.assertFalse(low < before * math.exp(log_factor) < high)
        elif 1e-3 < abs(moved) < 4 and abs(normal) > 1e-3:  # a skewed density leaps at its middle
            self.assertAlmostEqual(log_factor, math.log(after / before), places=6)
            self.assertAlmostEqual(log_density(moved) - log_density(normal), gain, delta=1e-2)

    def test_a_ratio_and_a_product_of_numbers_have_the_spread_that_is_said(self) -> None:
        within = LogNormal.within(1.5)
        np.testing.assert_allclose(within.ends, (1 / 1.5, 1.5))
        self.assertAlmostEqual(0.5, LogNormal.product(LogNormal(0.3), LogNormal(0.4)).spread)
        half = 0.2 * math.sqrt(3)
        even = LogUniform(math.exp(-half), math.exp(half))
        self.assertAlmostEqual(0.2, even.spread)
        self.assertAlmostEqual(1, even.middle)

    def test_a_skewed_one_has_the_quantiles_that_it_is_made_of(self) -> None:
        for tail in (0, 0.15):
            skewed = Skewed.between(0.45, 0.72, 0.95, tail)
            np.testing.assert_allclose(skewed.ends, (0.45, 0.95))
            self.assertEqual(0.72, skewed.middle)

    def test_ends_that_make_no_sense_are_refused(self) -> None:
        for wrong in ((0, 1, 1), (1, 0, 1), (1, 1, 0), (1, 1, 1, -0.1)):
            with self.assertRaises(ValueError):
                Skewed(*wrong)
        for low, high in ((0, 1), (2, 1), (-1, 1)):
            with self.assertRaises(ValueError):
                LogUniform(low, high)
