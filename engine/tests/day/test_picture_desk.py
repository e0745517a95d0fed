"""Pictures for a desk come no sooner than they can be seen, and no sooner than they are sent."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings

from engine.day.picture_desk import PictureDesk, delivered, locked_s
from engine.day.plan import Plan
from engine.day.presses import InvalidDay
from engine.tests.day.test_plan import period, plan, planned, plans

DESK = PictureDesk(frames=5, within_min=2, send_mb_s=0.5, file_mb=10, locks_playback=True)
WIDE = 1e-6  # s that moments of a long day may differ by


class PicturesForADesk(TestCase):
    @settings(max_examples=15)
    @given(plans)
    def test_the_light_is_on_until_all_is_written_that_was_shot_meanwhile(self, day: Plan) -> None:
        found = planned(day)
        presses, until_s = found.presses, found.presses.up_s + locked_s(found)
        for draw in (0, 99, 199):
            lit_s, count = 0.0, int(presses.is_real[draw].sum())
            for place in range(count - 1, -1, -1):
                own_s = presses.up_s[draw, place] + found.clear_s[draw, place]
                next_s = presses.press_s[draw, place + 1] if place + 1 < count else np.inf
                lit_s = own_s if own_s <= next_s + WIDE else lit_s
                self.assertAlmostEqual(lit_s, until_s[draw, place], delta=WIDE)

    @settings(max_examples=15)
    @given(plans)
    def test_who_wants_more_or_sends_more_slowly_waits_longer(self, day: Plan) -> None:
        found = planned(day)
        usual = delivered(found, DESK)
        if usual is None:
            return
        for change in (
            {"frames": 9}, {"send_mb_s": 0.2}, {"file_mb": 30}, {"within_min": 1},
        ):  # fmt: skip
            other = delivered(found, replace(DESK, **change))
            assert other is not None
            self.assertGreaterEqual(other.minutes.middle, usual.minutes.middle)
            self.assertLessEqual(other.in_time_share, usual.in_time_share)
        unlocked = delivered(found, replace(DESK, locks_playback=False))
        assert unlocked is not None
        self.assertLessEqual(unlocked.minutes.high, usual.minutes.high)
        self.assertEqual(0, unlocked.first_look_s.high)

    def test_a_plan_without_bursts_has_nothing_to_send(self) -> None:
        singles = plan(period(bursts_an_hour=0, singles_an_hour=30))
        self.assertIsNone(delivered(planned(singles), DESK))
        with self.assertRaises(InvalidDay):
            replace(DESK, frames=0)
