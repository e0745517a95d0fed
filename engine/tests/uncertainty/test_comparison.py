"""Differences are called only where they are real."""

from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from engine.burst.scenario import Scenario
from engine.burst.simulate import simulate
from engine.figures.key import Factor, FigureKind
from engine.figures.uncertainty import ESTIMATED, MEASURED_ELSEWHERE, MEASURED_HERE, Uncertainty
from engine.tests.builders import scenario, sources
from engine.uncertainty.comparison import Comparison, compare
from engine.uncertainty.sources import COUPLING, Sources

CARDS = frozenset({Factor(FigureKind.CARD, 1), Factor(FigureKind.CARD, 2)})


def side(write: Uncertainty | float = MEASURED_HERE, **changes: float) -> tuple[Scenario, Sources]:
    burst = scenario(**changes)
    return burst, sources(
        burst, write_mb_s=write, files=MEASURED_HERE, memory_mb=MEASURED_ELSEWHERE,
        process_fps=MEASURED_HERE, file_to_file=0.1,
    )  # fmt: skip


def noticed_in_anything(found: Comparison) -> bool:
    return any(one.noticed for one in (found.frames, found.frames_at_full_speed, found.clear_s))


class Comparing(TestCase):
    def test_a_set_up_does_not_differ_from_itself(self) -> None:
        found = compare(side(), side(), frozenset())
        self.assertFalse(noticed_in_anything(found))
        self.assertEqual((0, 0), (found.frames.low, found.frames.high))

    def test_differences_are_noticed_only_if_they_are_certain_and_large_enough(self) -> None:
        for words, first, second, noticed in (
            ("twice as fast", side(write_mb_s=230), side(write_mb_s=460), True),
            ("a few per cent faster", side(write_mb_s=230), side(write_mb_s=237), False),
            ("faster, if the marks are right", side(ESTIMATED, write_mb_s=230),
             side(0.5, write_mb_s=300), False),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIs(noticed, compare(first, second, CARDS).frames.noticed)

    def test_either_way_round_is_the_same_with_the_other_sign(self) -> None:
        slow, fast = side(write_mb_s=200), side(write_mb_s=400)
        there, back = (compare(*pair, frozenset()).frames for pair in ((slow, fast), (fast, slow)))
        self.assertGreater(there.predicted, 0)
        self.assertEqual((there.low, there.high), (-back.high, -back.low))

    def test_cards_drawn_independently_are_harder_to_tell_apart_than_one_body(self) -> None:
        first, second = side(0.2, write_mb_s=230), side(0.2, write_mb_s=260)
        together, apart = (compare(first, second, own).frames for own in (frozenset(), CARDS))
        self.assertLess(together.high - together.low, apart.high - apart.low)

    def test_two_bodies_may_share_the_work_among_their_slots_in_different_ways(self) -> None:
        slots = scenario(write_mb_s=230).slots * 2
        burst = scenario(slots=slots, arrangement="mirror")
        copied = (burst, sources(burst, knows_coupling=False))
        same, other = (compare(copied, copied, frozenset(own)).frames for own in ((), (COUPLING,)))
        self.assertEqual((0, 0), (same.low, same.high))
        self.assertTrue(other.low < 0 < other.high)

    @settings(deadline=None)
    @given(st.floats(100, 900), st.floats(100, 900))
    def test_of_what_is_known_exactly_it_is_the_difference_of_two_bursts(
        self, slower: float, faster: float
    ) -> None:
        bursts = [scenario(write_mb_s=mb_s) for mb_s in (slower, faster)]
        first, second = map(simulate, bursts)
        found = compare(*((burst, sources(burst)) for burst in bursts), frozenset())
        depths = [one.frames_at_full_speed or one.frames_due for one in (first, second)]
        for difference, value in (
            (found.frames, second.frames - first.frames),
            (found.frames_at_full_speed, depths[1] - depths[0]),
            (found.clear_s, second.clear_s - first.clear_s),
        ):
            for end in (difference.low, difference.predicted, difference.high):
                self.assertAlmostEqual(value, end, places=6)
        larger = max(first.clear_s, second.clear_s)
        self.assertEqual(
            abs(second.clear_s - first.clear_s) >= max(0.3, 0.1 * larger), found.clear_s.noticed
        )

    def test_other_holds_are_compared_in_the_shorter(self) -> None:
        found = compare(side(hold_s=4), side(hold_s=9), frozenset())
        self.assertEqual((4, False), (found.hold_s, noticed_in_anything(found)))
