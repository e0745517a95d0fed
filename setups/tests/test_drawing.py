"""The drawing: every frame has its stroke, long bursts stay small, marks lie where they belong."""

import re
from unittest import TestCase

from engine.burst.simulate import simulate
from engine.tests.builders import scenario
from setups.drawing import draw

CEILING_BYTES = 60_000


class Drawing(TestCase):
    def test_strokes_are_the_frames_taken_and_missed(self) -> None:
        result = simulate(scenario())
        drawing = draw(result)
        self.assertFalse(drawing.merged)
        self.assertEqual(result.frames, drawing.taken.count("M"))
        self.assertEqual(result.frames_missed, drawing.missed.count("M"))

    def test_marks_lie_on_one_axis(self) -> None:
        result = simulate(scenario())
        drawing = draw(result)
        at_s = {mark.name: mark.percent / 100 * drawing.ends_s for mark in drawing.marks}
        self.assertEqual({"wall", "finger-up", "light-out"}, set(at_s))
        self.assertAlmostEqual(1.5, at_s["wall"], 2)
        self.assertAlmostEqual(6, at_s["finger-up"], 2)
        self.assertAlmostEqual(result.light_out_s, at_s["light-out"], 2)

    def test_ten_minutes_at_120_a_second_merge_and_stay_small(self) -> None:
        for burst in (
            scenario(frame_rate_fps=120, hold_s=600, write_mb_s=6000),
            scenario(frame_rate_fps=120, hold_s=600, resume_free_frames=10),
        ):
            drawing = draw(simulate(burst))
            self.assertTrue(drawing.merged)
            self.assertLess(len(drawing.taken + drawing.missed + drawing.memory), CEILING_BYTES)

    def test_merged_columns_are_as_high_as_the_share_caught(self) -> None:
        endless = draw(simulate(scenario(frame_rate_fps=120, hold_s=600, write_mb_s=6000)))
        self.assertEqual({"V0.0", "V60"}, set(re.findall(r"V[\d.]+", endless.taken)))
        half = draw(simulate(scenario(frame_rate_fps=120, hold_s=600, write_mb_s=3000)))
        middle = re.findall(r"V([\d.]+)", half.taken)[-10:-2]
        self.assertTrue(all(abs(float(top) - 30) < 1 for top in middle), middle)

    def test_a_card_without_room_still_draws(self) -> None:
        drawing = draw(simulate(scenario(free_mb=0)))
        self.assertEqual(["card-full", "finger-up"], [mark.name for mark in drawing.marks])
        self.assertEqual("", drawing.taken)

    def test_ticks_are_round_and_few(self) -> None:
        for hold_s in (0.1, 0.5, 3, 7, 42, 600):
            with self.subTest(hold_s):
                ticks = [tick for tick, _ in draw(simulate(scenario(hold_s=hold_s))).ticks]
                self.assertTrue(3 <= len(ticks) <= 9, ticks)
                step = f"{ticks[1]:e}"
                self.assertIn(step[0], "125")
