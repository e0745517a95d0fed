"""What a run says by itself, against the simulation that it was shot in."""

import unittest
from dataclasses import replace

import numpy as np

from engine.burst.bottleneck import Bottleneck
from engine.burst.simulate import simulate
from engine.measurement.by_hand import ByHand
from engine.measurement.runs import ACCURACY, Method, Observed
from engine.tests.builders import scenario


class ByHandTests(unittest.TestCase):
    def test_the_true_rate_and_buffer_lie_in_their_ranges_four_times_in_five(self) -> None:
        random = np.random.default_rng(1)
        rates, buffers = [], []
        for _ in range(150):
            card_mb_s = random.uniform(80, 300)
            burst = scenario(
                frame_rate_fps=20, file_mb=25, write_mb_s=card_mb_s, memory_mb=1_000, hold_s=8
            )
            shot = simulate(burst)
            exact = Observed(frames=shot.frames, clear_s=shot.clear_s)
            accuracy = ACCURACY[Method.TAP]
            errs = accuracy.deviations(exact)
            noted = Observed(
                frames=round(shot.frames + errs["frames"] * random.normal()),
                clear_s=shot.clear_s + errs["clear_s"] * random.normal(),
            )
            found = ByHand(noted, 20, 8 + accuracy.hold_s * random.normal(), accuracy)
            fps, frames = found.sustained_fps, found.buffer_frames
            rates.append(fps.low <= Bottleneck(shot).sustained_fps <= fps.high)
            buffers.append(frames.low <= 1_000 / 25 <= frames.high)
        self.assertAlmostEqual(0.8, np.mean(rates), delta=0.1)
        self.assertAlmostEqual(0.8, np.mean(buffers), delta=0.1)

    def test_it_is_what_pencil_and_paper_come_to(self) -> None:
        accuracy = ACCURACY[Method.TAP]
        cleared = ByHand(Observed(frames=60, clear_s=4.0), 20, 6.0, accuracy)
        self.assertEqual(60 / 10, cleared.sustained_fps.value)
        self.assertEqual(60 - 6 * 6, cleared.buffer_frames.value)
        slowed = ByHand(Observed(frames=60, frames_at_full_speed=30), 20, 6.0, accuracy)
        self.assertAlmostEqual((60 - 30) / (6 - 30 / 20), slowed.sustained_fps.value)
        for unknown in (Observed(frames=60), Observed(frames=60, did_not_slow=True)):
            self.assertIsNone(ByHand(unknown, 20, 6.0, accuracy).sustained_fps)

    def test_what_was_seen_decides_what_is_told_and_what_would_add_to_it(self) -> None:
        seen = Observed(frames=60, frames_at_full_speed=30, clear_s=4.0)
        for without, told in {
            (): "It writes 6\xa0fps (5.7 to 6.3) once the buffer is full.",
            ("clear_s",): "The moment of light out would tell",
            ("frames",): "The frames of the camera's counter would tell",
            ("frames_at_full_speed",): "The moment at which it slowed would check this.",
            ("clear_s", "frames_at_full_speed"): "The moment of light out would tell",
        }.items():
            observed = replace(seen, **dict.fromkeys(without))
            sentences = ByHand(observed, 20, 6.0, ACCURACY[Method.TAP]).sentences
            with self.subTest(without):
                self.assertIn(told, " ".join(sentences))
