"""A made-up body hides the same figures in every set-up, as its seed has drawn them."""

import unittest

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from engine.burst.arrangement import Arrangement
from engine.burst.simulate import simulate
from engine.measurement.assumed import AssumedSetup, setup_of
from engine.measurement.capture_times import BURST_ENDS_S, find_bursts
from engine.measurement.hidden_body import HiddenBody
from engine.measurement.runs import values_of
from engine.measurement.synthetic_camera import shots
from engine.tests.measurement.test_learning import BODY
from engine.uncertainty.sources import MEMORY, ROOM

seeds = st.integers(1, 10**6)


def setup(cards: str = "A", recording: str = "raw", hold_s: float = 5) -> AssumedSetup:
    arrangement = Arrangement.MIRROR if len(cards) == 2 else Arrangement.SINGLE
    return setup_of(
        BODY, format_name=recording, frame_rate_fps=12.0, card_names=tuple(cards),
        arrangement=arrangement, hold_s=hold_s,
    )  # fmt: skip


class HiddenBodies(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(seeds, st.sampled_from(("A", "B", "AB")), st.sampled_from(("raw", "jpeg")))
    def test_a_figure_is_the_same_in_every_set_up(self, seed: int, cards: str, kind: str) -> None:
        body, first, second = HiddenBody(seed), setup(), setup(cards, kind, 9)
        ratio_of = {name: body.ratios(first)[factor] for factor, name in first.figures.items()}
        for factor, name in second.figures.items():
            if name in ratio_of:
                self.assertEqual(ratio_of[name], body.ratios(second)[factor])
        shot = simulate(body.scenario(second))
        self.assertGreaterEqual(shot.frames, 1)
        memory = values_of(body.scenario(second))[MEMORY] / body.ratios(second)[ROOM]
        self.assertTrue(0.5 <= memory / 900 <= 2, "within what is assumed")

    def test_bodies_of_other_seeds_differ_and_so_do_bursts(self) -> None:
        memories = {HiddenBody(seed).scenario(setup()).memory_mb for seed in range(1, 30)}
        self.assertEqual(29, len(memories))
        couplings = {HiddenBody(seed).scenario(setup("AB")).coupling for seed in range(1, 30)}
        self.assertEqual({"parallel", "serial", "slowest"}, couplings)
        sizes = {HiddenBody(1).scenario(setup(), burst).files for burst in range(9)}
        self.assertEqual(9, len(sizes))

    @settings(max_examples=20, deadline=None)
    @given(seeds)
    def test_its_files_tell_the_burst_that_it_shot(self, seed: int) -> None:
        scenario = HiddenBody(seed).scenario(setup(hold_s=8))
        burst = simulate(scenario)
        assume(np.diff(burst.taken_ns).max(initial=0) < BURST_ENDS_S * 1e9)
        (found,) = find_bursts(shot.picture() for shot in shots(burst, seed)).bursts
        self.assertEqual(burst.frames, len(found.frames))
        depth = burst.frames_at_full_speed
        if depth and burst.frames - depth > 2:  # a wall is seen by the frames after it
            interval_s = scenario.frame_interval_ns / 1e9
            late_s = np.array(burst.taken_ns) / 1e9 - interval_s * np.arange(burst.frames)
            noise_s = 0.12 * interval_s + 2 * found.strokes.resolution_s
            seen = int(np.argmax(late_s > noise_s))
            self.assertTrue(depth - 1 <= found.strokes.wall <= seen + 1)
