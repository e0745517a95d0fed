"""How somebody shoots, summed up, and what that asks of cards."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from engine.day.frames_taken import DayBurst
from engine.day.habits import BUSIEST_MIN, Habits, need_of
from engine.quantities import MB_IN_GB, S_IN_MINUTE

PAUSES_S = st.lists(st.floats(0.3, 9_000), min_size=1, max_size=60)


def bursts(pauses_s: list[float]) -> list[DayBurst]:
    """A burst of some frames before each pause."""
    found, press_s = [], 1_777_615_800.0
    for number, pause_s in enumerate(pauses_s):
        hold_s = 0.1 + number % 5
        found.append(DayBurst(
            press_s=press_s, hold_s=hold_s, longest_s=None, frames=1 + number % 7,
            frames_at_full_speed=None, missed=number % 3, mb=30.0, is_explained=True,
            next_press_s=pause_s,
        ))  # fmt: skip
        press_s += hold_s + pause_s
    return found


class HabitsOfADay(TestCase):
    @given(PAUSES_S)
    def test_hours_add_up_to_the_day(self, pauses_s: list[float]) -> None:
        day = bursts(pauses_s)
        hours = Habits.of(day).hours
        self.assertEqual(sum(one.frames for one in day), sum(one.frames for one in hours))
        self.assertEqual(sum(one.missed for one in day), sum(one.missed for one in hours))
        self.assertAlmostEqual(len(day) * 30 / MB_IN_GB, sum(one.gb for one in hours))
        starts_s = [one.start_s for one in hours]
        self.assertEqual(sorted(set(starts_s)), starts_s)

    @given(PAUSES_S)
    def test_a_day_asks_for_what_nine_of_ten_of_its_bursts_need(
        self, pauses_s: list[float]
    ) -> None:
        """Law: so many are no longer, and nowhere do as many come in ten minutes as it says."""
        several = [one for one in bursts(pauses_s) if not one.is_single]
        need = need_of(bursts(pauses_s))
        if need is None:
            self.assertEqual([], several)
            return
        shorter = [one for one in several if one.hold_s <= need.lasts_s + 0.05]
        self.assertGreaterEqual(len(shorter), 0.9 * len(several) - 1)
        self.assertEqual(need.lasts_s, need.full_rate_s)
        for first in several:
            ends_s = first.press_s + BUSIEST_MIN * S_IN_MINUTE
            together = sum(first.press_s <= one.press_s < ends_s for one in several)
            if need.every_s:
                self.assertLessEqual(
                    together * need.every_s,
                    1.02 * BUSIEST_MIN * S_IN_MINUTE + together * need.lasts_s,
                )
            else:
                self.assertEqual(1, together)
