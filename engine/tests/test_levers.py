"""What a change brings, and the write speed that ends the wall."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import assume, given

from engine import File, Slot, simulate
from engine.levers import endless_write_mb_s, try_change
from engine.rates import sustained_fps
from engine.tests.builders import scenario, scenarios


class Levers(TestCase):
    def test_changes_come_with_their_effect_the_best_first(self) -> None:
        slots = (Slot(write_mb_s=900), Slot(write_mb_s=230))
        base = scenario(slots=slots, arrangement="mirror")
        slower, single, lighter = (
            try_change(simulate(base), replace(base, **change))
            for change in (
                {"frame_rate_fps": 12},
                {"arrangement": "single"},
                {"files": (File(name="raw", mb=10),)},
            )
        )
        best_first = sorted((slower, single, lighter), key=lambda lever: lever.order)
        self.assertEqual([lighter, single, slower], best_first)
        self.assertEqual(
            (True, 69, None),
            (lighter.goes_endless, lighter.gained_frames, lighter.gained_at_full_speed),
        )
        self.assertEqual((True, 69), (single.goes_endless, single.gained_frames))
        self.assertEqual((0, 8), (slower.gained_frames, slower.gained_at_full_speed))
        self.assertGreater(single.sooner_s, 3)

    def test_memory_is_free_again_after_a_pause(self) -> None:
        result = simulate(scenario())
        self.assertEqual(result.clear_s, result.pause_until_free_s(1))
        self.assertTrue(0 < result.pause_until_free_s(0.5) < result.clear_s)
        self.assertEqual(0, simulate(scenario(hold_s=0.1)).pause_until_free_s(0.5))

    @given(scenarios(most_slots=1))
    def test_at_the_endless_speed_a_slot_holds_nothing_up(self, burst) -> None:
        needed_mb_s = endless_write_mb_s(burst, 0)
        assume(needed_mb_s is not None and 0.001 <= needed_mb_s < 90_000)
        (slot,) = burst.slots
        fixed = replace(burst, slots=(replace(slot, write_mb_s=needed_mb_s),))
        self.assertIsNone(sustained_fps(fixed))

    def test_the_other_slot_takes_its_share_by_coupling(self) -> None:
        # 50 MB in 50 ms: all of it, less what slot 2 (20 ms a frame and 20 ms overhead) needs.
        slots = (Slot(write_mb_s=800), Slot(write_mb_s=2500, overhead_s=0.02))
        for coupling, needed_mb_s in (("parallel", 1000), ("serial", 5000), ("slowest", 5000 / 3)):
            burst = scenario(slots=slots, arrangement="mirror", coupling=coupling)
            self.assertAlmostEqual(needed_mb_s, endless_write_mb_s(burst, 0) or 0)
        self.assertIsNone(endless_write_mb_s(scenario(process_fps=19), 0))
        self.assertIsNone(endless_write_mb_s(scenario(overhead_s=0.05), 0))
