"""What a change brings, and the write speed that ends the wall."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import assume, given
from hypothesis import strategies as st

from engine import File, LoadedSlot
from engine.burst.bottleneck import Bottleneck
from engine.burst.event_loop import NEVER
from engine.burst.simulate import simulate
from engine.tests.builders import scenario, scenarios, sources
from engine.uncertainty.draws import Draws
from engine.uncertainty.sweep import sweep
from engine.uncertainty.what_if import WhatIf, no_wall_write_mb_s, try_change


class WhatIfs(TestCase):
    def test_changes_come_with_their_effect_the_best_first(self) -> None:
        slots = (LoadedSlot(write_mb_s=900), LoadedSlot(write_mb_s=230))
        base = scenario(slots=slots, arrangement="mirror")
        slower, single, lighter = (
            try_change(simulate(base), replace(base, **change))
            for change in (
                {"frame_rate_fps": 12},
                {"arrangement": "single"},
                {"files": (File(name="raw", mb=10),)},
            )
        )
        best_first = sorted((slower, single, lighter), key=lambda tried: tried.order)
        self.assertEqual([lighter, single, slower], best_first)
        self.assertEqual((True, 69), (lighter.ends_wall, lighter.gained_frames))
        self.assertEqual((True, 69), (single.ends_wall, single.gained_frames))
        self.assertGreater(single.sooner_s, 3)
        # 38 frames in 3.2 s in place of 30 in 1.5 s: as many in all, and twice as long.
        self.assertEqual(0, slower.gained_frames)
        self.assertAlmostEqual(38 / 12 - 1.5, slower.longer_full_speed_s)
        self.assertTrue(slower.gains)

    def test_a_small_difference_is_no_gain_and_lost_frames_are_not_made_up_for(self) -> None:
        base = simulate(scenario())
        for changed, gains, moves_light in (
            (scenario(write_mb_s=235), False, False),
            (scenario(write_mb_s=300), True, True),
            (scenario(frame_rate_fps=6), False, True),
            (scenario(memory_mb=1_250), False, False),
        ):
            tried = try_change(base, changed)
            self.assertEqual((gains, moves_light), (tried.gains, tried.moves_light))

    def test_it_is_noticed_beside_another_from_a_tenth_or_a_third_of_a_second_on(self) -> None:
        other = WhatIf(
            frames=100, wall_s=5.0, full_speed_s=5.0, clear_s=4.0, gained_frames=10,
            longer_full_speed_s=1.0, sooner_s=1.0, ends_wall=False,
        )  # fmt: skip
        for changes, noticed in (
            ({"gained_frames": 20}, True), ({"gained_frames": 19}, False),
            ({"longer_full_speed_s": 1.5}, True), ({"longer_full_speed_s": 1.45}, False),
            ({"sooner_s": 1.41}, True), ({"sooner_s": 1.35}, False), ({"sooner_s": 0}, False),
        ):  # fmt: skip
            with self.subTest(**changes):
                self.assertEqual(noticed, replace(other, **changes).is_noticed_beside(other))
        quick = replace(other, clear_s=1.0)
        self.assertFalse(replace(other, sooner_s=1.25).is_noticed_beside(quick))
        self.assertTrue(replace(other, sooner_s=1.31).is_noticed_beside(quick))

    def test_memory_is_free_again_after_a_pause(self) -> None:
        result = simulate(scenario())
        self.assertEqual(result.clear_s, result.pause_until_free_s(1))
        self.assertTrue(0 < result.pause_until_free_s(0.5) < result.clear_s)
        self.assertEqual(0, simulate(scenario(hold_s=0.1)).pause_until_free_s(0.5))

    @given(scenarios(series=True), st.floats(0.05, 1))
    def test_after_the_pause_so_much_is_free_and_not_before(self, burst, share) -> None:
        result = simulate(burst)
        pause_s = result.pause_until_free_s(share)
        most_mb = (1 - share) * burst.memory_mb + 1e-6
        ready_ns = burst.end_ns + round(pause_s * 1e9)
        self.assertLessEqual(result.memory_mb_at(ready_ns), most_mb)
        if pause_s:
            self.assertGreater(result.memory_mb_at(ready_ns - 1), most_mb - 2e-6)

    @given(scenarios(most_slots=1))
    def test_at_the_endless_speed_a_slot_holds_nothing_up(self, burst) -> None:
        needed_mb_s = no_wall_write_mb_s(burst, sources(burst), 0)
        assume(needed_mb_s is not None and 0.001 <= needed_mb_s < 90_000)
        constant = LoadedSlot(
            write_mb_s=needed_mb_s * 1.00001, overhead_s=burst.slots[0].overhead_s
        )
        fixed = simulate(replace(burst, slots=(constant,), resume_free_frames=1))
        assume(burst.memory_mb > 3 * burst.frame_bytes / 1e6)  # room to work side by side
        self.assertIsNone(Bottleneck(fixed).sustained_fps)

    @given(st.floats(0.01, 0.2), st.floats(0.01, 0.1))
    def test_the_endless_speed_is_enough_in_four_draws_of_five(self, of_files, of_rate) -> None:
        burst = scenario(hold_s=60, memory_mb=150)
        unsure = sources(burst, files=of_files, frame_rate_fps=of_rate)
        needed_mb_s = no_wall_write_mb_s(burst, unsure, 0)
        constant = replace(burst, slots=(LoadedSlot(write_mb_s=needed_mb_s * 1.0001),))
        came = sweep([constant], [unsure], Draws(1_000)).depths[0, :, 0]
        self.assertAlmostEqual(0.8, (came == NEVER).mean(), delta=0.05)

    def test_the_other_slot_takes_its_share_by_coupling(self) -> None:
        # 50 MB in 50 ms: all of it, less what slot 2 (20 ms a frame and 20 ms overhead) needs.
        alone = scenario(overhead_s=0.01)
        self.assertAlmostEqual(50 / 0.04, no_wall_write_mb_s(alone, sources(alone), 0) or 0)
        slots = (LoadedSlot(write_mb_s=800), LoadedSlot(write_mb_s=2500, overhead_s=0.02))
        for coupling, needed_mb_s in (("parallel", 1000), ("serial", 5000), ("slowest", 5000 / 3)):
            burst = scenario(slots=slots, arrangement="mirror", coupling=coupling)
            self.assertAlmostEqual(
                needed_mb_s, no_wall_write_mb_s(burst, sources(burst), 0) or 0, places=3
            )
        for burst in (scenario(process_fps=19), scenario(overhead_s=0.05)):
            self.assertIsNone(no_wall_write_mb_s(burst, sources(burst), 0))
