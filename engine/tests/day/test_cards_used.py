"""Whatever cards are swapped when, every frame lies where its arrangement puts it."""

from itertools import pairwise
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from engine.burst.arrangement import Arrangement
from engine.day.cards_used import CardUse, Swap, Writing, cards_used

CARDS = ("a", "b", "c")
MOMENTS = st.integers(0, 40).map(float)
SWAPS = st.lists(st.builds(Swap, st.integers(1, 2), MOMENTS, st.sampled_from(CARDS)), max_size=6)
FRAMES = st.lists(st.tuples(MOMENTS, st.integers(1, 9).map(float)), max_size=30)
ROOM_MB = 20.0


def used(
    arrangement: Arrangement, swaps: list[Swap], frames: list[tuple[float, float]]
) -> list[CardUse]:
    writing = Writing(
        arrangement=arrangement, first=CARDS[: arrangement.slots_used], shares=(0.75, 0.25),
        rooms_mb=dict.fromkeys(CARDS, ROOM_MB),
    )  # fmt: skip
    times_s, mb = np.array(sorted(frames)).reshape(-1, 2).T
    return cards_used(writing, swaps, times_s, mb)


class CardsUsed(TestCase):
    @given(st.sampled_from(Arrangement), SWAPS, FRAMES)
    def test_nothing_is_lost_and_nothing_is_written_twice(
        self, arrangement: Arrangement, swaps: list[Swap], frames: list[tuple[float, float]]
    ) -> None:
        found = used(arrangement, swaps, frames)
        whole_mb, of_slots = sum(mb for _, mb in frames), {1: 0.0, 2: 0.0}
        for one in found:
            of_slots[one.slot] += one.mb
        expected = {
            Arrangement.MIRROR: (whole_mb, whole_mb),
            Arrangement.SPLIT: (0.75 * whole_mb, 0.25 * whole_mb),
        }.get(arrangement, (whole_mb - of_slots[2], whole_mb - of_slots[1]))
        np.testing.assert_allclose(expected, (of_slots[1], of_slots[2]))
        copies = 2 if arrangement.writes_both else 1
        self.assertEqual(copies * len(frames), sum(one.frames for one in found))

    @given(st.sampled_from(Arrangement), SWAPS, FRAMES)
    def test_a_card_has_the_frames_from_when_it_goes_in_until_it_comes_out(
        self, arrangement: Arrangement, swaps: list[Swap], frames: list[tuple[float, float]]
    ) -> None:
        found = used(arrangement, swaps, frames)
        for slot in range(1, arrangement.slots_used + 1):
            of_slot = [one for one in found if one.slot == slot]
            self.assertEqual((None, None), (of_slot[0].from_s, of_slot[-1].until_s))
            self.assertTrue(all(one.until_s == after.from_s for one, after in pairwise(of_slot)))
        for one in found:
            between = [
                taken_s for taken_s, _ in frames
                if (one.from_s is None or one.from_s <= taken_s)
                and (one.until_s is None or taken_s < one.until_s)
            ]  # fmt: skip
            if arrangement is Arrangement.OVERFLOW:
                self.assertLessEqual(one.frames, len(between))
            else:
                self.assertEqual(len(between), one.frames)

    @given(SWAPS, FRAMES)
    def test_in_overflow_the_first_slot_takes_what_it_has_room_for(
        self, swaps: list[Swap], frames: list[tuple[float, float]]
    ) -> None:
        for one in used(Arrangement.OVERFLOW, swaps, frames):
            if one.slot == 1:
                self.assertLessEqual(one.mb, ROOM_MB)
