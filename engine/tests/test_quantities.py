"""Units are converted with the rounding that is stated, and ranges have both ends in them."""

import math
from fractions import Fraction
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from engine.quantities import Range, bytes_of, interval_ns, ns_of, writing_ns

ends = st.tuples(st.floats(-1e6, 1e6), st.floats(-1e6, 1e6)).map(sorted)


class Ranges(TestCase):
    @given(ends)
    def test_both_ends_are_in_it_and_what_is_beyond_is_told_with_them(self, ends) -> None:
        allowed = Range(*ends, "MB")
        for value in ends:
            self.assertIsNone(allowed.fault(value))
        beyond = (math.nextafter(ends[0], -math.inf), math.nextafter(ends[1], math.inf))
        for value in (*beyond, math.nan, math.inf, -math.inf):
            self.assertIn(f"from {ends[0]:,} to {ends[1]:,} MB", allowed.fault(value) or "")


class Conversions(TestCase):
    @given(st.integers(1, 10**9), st.floats(0.001, 100_000))
    def test_a_time_is_rounded_up_to_the_nanosecond(self, size_bytes: int, mb_s: float) -> None:
        exact = Fraction(size_bytes * 10**9, bytes_of(mb_s))
        self.assertTrue(0 <= writing_ns(size_bytes, mb_s) - exact < 1)

    @given(st.floats(0.001, 1_000))
    def test_an_interval_is_that_of_a_rate_of_six_decimals(self, rate_per_s: float) -> None:
        exact = Fraction(10**15, round(rate_per_s * 10**6))
        self.assertTrue(0 <= interval_ns(rate_per_s) - exact < 1)

    def test_bytes_and_nanoseconds_are_the_nearest(self) -> None:
        self.assertEqual((1_500_000, 2_500_000_000), (bytes_of(1.5), ns_of(2.5)))
        self.assertEqual((1, 1), (bytes_of(0.0000014), ns_of(1.4e-9)))
