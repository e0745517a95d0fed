"""Ranges: as wide as their sources, the same at every call, and honest about the knife edge."""

from dataclasses import replace
from unittest import TestCase

from engine import simulate
from engine.confidence import Sources, confidence
from engine.tests.builders import scenario

HERE = Sources("measured_here", ("measured_here",), "measured_here", "measured_here", 0.05)
GUESSED = Sources("estimated", ("estimated",), "estimated", "estimated", 0.05)


class Ranges(TestCase):
    def test_the_middle_is_what_simulate_says_and_the_same_each_time(self) -> None:
        sure = confidence(scenario(), HERE)
        self.assertAlmostEqual(simulate(scenario()).frames, sure.frames.middle or 0, delta=1)
        self.assertAlmostEqual(30, sure.frames_at_full_speed.middle or 0, delta=1)
        self.assertAlmostEqual(4.6, sure.sustained_fps.middle or 0, delta=0.1)
        self.assertEqual(sure, confidence(scenario(), HERE))

    def test_guesses_are_wider_than_measurements(self) -> None:
        sure, unsure = (confidence(scenario(), sources).frames for sources in (HERE, GUESSED))
        self.assertLess(
            (sure.high or 0) - (sure.low or 0), ((unsure.high or 0) - (unsure.low or 0)) / 2
        )

    def test_no_wall_is_no_number(self) -> None:
        easy = confidence(scenario(write_mb_s=2000), HERE)
        self.assertEqual((None, 0), (easy.frames_at_full_speed.middle, easy.wall_share))
        self.assertFalse(easy.knife_edge)

    def test_near_the_endless_speed_lies_the_knife_edge(self) -> None:
        for write_mb_s, edge in ((230, False), (600, False), (960, True), (2000, False)):
            with self.subTest(write_mb_s):
                burst = scenario(write_mb_s=write_mb_s, hold_s=30)
                self.assertEqual(edge, confidence(burst, HERE).knife_edge)

    def test_a_short_hold_does_not_make_a_knife_edge(self) -> None:
        # The hold ends among the depths: some draws meet the wall in it and some do not.
        burst = scenario(hold_s=1.5)
        mixed = confidence(burst, HERE)
        self.assertTrue(0 < mixed.wall_share < 1)
        self.assertFalse(mixed.knife_edge)
        self.assertTrue(confidence(replace(burst, hold_s=6), HERE).wall_share == 1)
