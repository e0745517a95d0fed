"""Ranges of a replayed day hold what they should, and call no difference where there is none."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given

from engine import Scenario
from engine.burst.scenario import Hold
from engine.day.odds import SureSetup, draw_day, draws_of_day
from engine.day.presses import Presses
from engine.day.replay import replay
from engine.figures.key import Factor, FigureKind
from engine.tests.builders import scenario, scenarios, sources

CARD = Factor(FigureKind.CARD, 1)
DAY = Presses.of([
    Hold(press_s=12.5 * number, hold_s=(0.4, 1.5, 4)[number % 3]) for number in range(30)
])  # fmt: skip
EACH = np.arange(30)


class OddsOfADay(TestCase):
    @given(scenarios(series=True))
    def test_a_set_up_that_is_known_exactly_does_the_same_in_every_draw(
        self, shot: Scenario
    ) -> None:
        presses = Presses.of(shot.holds)
        firsts = np.arange(len(shot.holds))
        drawn = draw_day(SureSetup(shot, sources(shot)), presses, firsts, 3)
        day = replay(shot, presses, firsts)
        self.assertEqual([day.frames] * 3, drawn.frames.tolist())
        self.assertEqual([day.missed] * 3, drawn.missed.tolist())
        self.assertEqual([day.bursts_missing] * 3, drawn.bursts_missing.tolist())
        self.assertEqual([float(b.missed > 0) for b in day.bursts], drawn.missing_shares)

    def test_four_days_in_five_lie_within_the_range(self) -> None:
        """Of bodies and cards as the sources say, drawn for themselves."""
        held = []
        for write_mb_s in (150, 200, 300, 450, 700):
            shot = scenario(write_mb_s=write_mb_s)
            unsure = sources(shot, write_mb_s=0.15, memory_mb=0.1, files=0.1)
            drawn = draw_day(SureSetup(shot, unsure), DAY, EACH, 200)
            names = {factor: f"a true {factor}" for factor in unsure.varying}
            true = draw_day(SureSetup(shot, unsure, names), DAY, EACH, 200)
            for came, found in (
                (true.frames, drawn.frames_range),
                (true.missed, drawn.missed_range),
            ):
                assert found.low is not None
                assert found.high is not None
                held.append(np.mean((found.low <= came) & (came <= found.high)))
        self.assertAlmostEqual(0.8, float(np.mean(held)), delta=0.04)

    def test_a_difference_is_called_only_where_there_is_one(self) -> None:
        shot = scenario()
        unsure = sources(shot, write_mb_s=0.15, memory_mb=0.1)
        was = draw_day(SureSetup(shot, unsure), DAY, EACH, 200)
        another = {CARD: "another card"}
        for write_mb_s, independent, is_noticed, may_matter in (
            (230, {}, False, False),  # itself
            (230, another, False, True),  # another card with the same figures
            (320, {}, True, True),  # what they share errs alike
            (240, another, False, True),
            (600, another, True, True),
        ):
            other = replace(shot, slots=(replace(shot.slots[0], write_mb_s=write_mb_s),))
            drawn = draw_day(SureSetup(other, unsure, independent), DAY, EACH, 200)
            found = drawn.against(was).missed
            with self.subTest(write_mb_s=write_mb_s, independent=independent):
                self.assertEqual((is_noticed, may_matter), (found.noticed, found.may_matter))
                self.assertLessEqual(found.low, found.high)

    def test_a_long_day_is_drawn_less_often_but_never_less_than_fifty_times(self) -> None:
        self.assertEqual(200, draws_of_day([scenario()], DAY))
        long = Presses.of([Hold(press_s=700 * number, hold_s=600) for number in range(100)])
        self.assertEqual(50, draws_of_day([scenario()], long))
