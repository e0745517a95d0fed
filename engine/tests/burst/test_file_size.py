"""How files grow with ISO and detail: by a share a stop, less detail in noise, JPEG smoothed."""

import math
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from engine.burst.file_size import (
    BASE_ISO,
    DETAIL_OF_SCENE,
    ISO_STEPS,
    size_factor,
    size_spread,
)

isos = st.sampled_from(ISO_STEPS)
steps = st.floats(0, 0.3)


class FileSizes(TestCase):
    def test_a_size_is_stated_for_the_base_and_a_mixed_scene(self) -> None:
        self.assertEqual(1, size_factor(BASE_ISO, 0, 0.05, 0.1))
        self.assertEqual(0, size_spread(BASE_ISO, 0, 0.05, 0.1))
        self.assertEqual({-1, 0, 1}, set(DETAIL_OF_SCENE.values()))
        self.assertEqual([100 * 2**stop for stop in range(10)], ISO_STEPS)

    @given(isos, steps)
    def test_every_stop_adds_its_share(self, iso: int, step: float) -> None:
        ratio = size_factor(2 * iso, 0, step, 0) / size_factor(iso, 0, step, 0)
        self.assertAlmostEqual(1 + step, ratio)

    @given(isos, steps)
    def test_of_a_jpeg_one_stop_adds_nothing_and_the_others_do(self, iso: int, step: float) -> None:
        smooth, plain = (
            size_factor(iso, 0, step, 0, smoothed=is_jpeg) for is_jpeg in (True, False)
        )
        self.assertAlmostEqual(plain / (1 + step if iso > 1_600 else 1), smooth)

    @given(isos, steps, steps)
    def test_detail_adds_what_it_takes_away_and_noise_takes_no_part_in_it(
        self, iso: int, step: float, detail_step: float
    ) -> None:
        plain, mixed, busy = (size_factor(iso, detail, step, detail_step) for detail in (-1, 0, 1))
        self.assertAlmostEqual(detail_step * min(mixed, 1), busy - mixed)
        self.assertAlmostEqual(busy - mixed, mixed - plain)

    @given(isos, steps, steps)
    def test_the_rule_may_be_half_as_strong_or_half_as_strong_again(
        self, iso: int, step: float, detail_step: float
    ) -> None:
        stops = abs(math.log2(iso / 400))
        spread = size_spread(iso, 1, step, detail_step)
        self.assertAlmostEqual(math.hypot(step * stops, detail_step) / 2, spread)
