"""A plan is simulated as days are, and its cards, copies and losses add up."""

import tracemalloc
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from itertools import groupby
from operator import ne
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from engine import File, Scenario
from engine.day.frames_taken import REPRESS_S
from engine.day.odds import SureSetup
from engine.day.plan import MOST_PERIODS, Period, Plan, TakenCard
from engine.day.plan_simulation import DAYS, named, simulate_plan
from engine.day.planned_day import PlannedDay, queues_of, range_of
from engine.day.planned_presses import planned_presses
from engine.day.presses import InvalidDay, Presses
from engine.day.replay import replay
from engine.quantities import MB_IN_GB
from engine.tests.builders import scenario, sources

(USUAL,), (SLOW,) = (
    scenario().slots,
    scenario(write_mb_s=60, cache_mb=900, cache_write_mb_s=150).slots,
)
SLOTS = (USUAL, USUAL)
FILES = (File(name="raw", mb=50), File(name="jpeg", mb=10))
RAW_SHARE = 50 / 60
WIDE = 1e-6  # MB that sums of very many may differ by


def period(**changes: object) -> Period:
    return Period(**{"name": "heat", "minutes": 60, "bursts_an_hour": 20} | changes)


def cards(*free_mb: float, kind: str = "") -> list[TakenCard]:
    return [TakenCard(one, kind) for one in free_mb]


def plan(*periods: Period, **changes: object) -> Plan:
    return Plan(**{"periods": periods or (period(),), "cards": (cards(1e6),)} | changes)


def sure(shot: Scenario) -> SureSetup:
    return SureSetup(shot, sources(shot))


def planned(day: Plan, **changes: object) -> PlannedDay:
    return simulate_plan(day, named({"": sure(scenario(**changes))}))


periods = st.builds(
    period,
    minutes=st.floats(1, 90),
    bursts_an_hour=st.floats(0, 120),
    hold_s=st.floats(0.2, 2),
    long_hold_s=st.floats(2, 8),
    singles_an_hour=st.floats(0, 60),
    copies=st.booleans(),
)
plans = st.builds(
    lambda some, free_mb: plan(*some, period(minutes=30), cards=(cards(*free_mb),), copy_mb_s=200),
    st.lists(periods, max_size=3),
    st.lists(st.floats(2_000, 60_000), min_size=1, max_size=4),
)
any_cards = st.lists(
    st.builds(TakenCard, st.floats(500, 30_000), st.sampled_from(["", "slow"])),
    min_size=1, max_size=5,
)  # fmt: skip


def in_a_row(found: PlannedDay, draw: int) -> Iterator[tuple[list[str], list[int]]]:
    """The real presses of a day, by the kinds of the cards that were in; parted by their swaps."""
    queues = queues_of(found.plan, found.arrangements)
    in_order = [[(slot, card.kind) for slot, card in queue] for queue in queues]

    def cards_at(place: int) -> list[tuple[int, str]]:
        """Of each queue how often the kind has changed by then, and the kind."""
        cards = []
        for kinds, queue in zip(in_order, found.queues, strict=True):
            number = min(sum(card.last[draw] <= place for card in queue), len(queue) - 1)
            changes = sum(map(ne, kinds[:number], kinds[1 : number + 1]))
            cards.append((changes, kinds[number][1]))
        return cards

    for cards, some in groupby(np.flatnonzero(found.presses.is_real[draw]).tolist(), cards_at):
        yield [kind for _, kind in cards], list(some)


class Memory(TestCase):
    def test_many_at_once_take_little_more_memory_than_one(self) -> None:
        day = plan(period(minutes=600, bursts_an_hour=200, hold_s=0.05))

        def most_bytes(count: int) -> int:
            tracemalloc.start()
            with ThreadPoolExecutor(count) as pool:
                list(pool.map(lambda _: planned(day).frames.sum(), range(count)))
            _, most = tracemalloc.get_traced_memory()
            tracemalloc.stop()
            return most

        self.assertLess(most_bytes(4), 1.5 * most_bytes(1))


class PlannedDays(TestCase):
    @settings(max_examples=25)
    @given(plans, any_cards, any_cards, st.sampled_from(["single", "mirror", "overflow"]))
    def test_each_day_of_it_is_shot_as_a_day_is_on_the_cards_that_are_in(
        self, day: Plan, first: list[TakenCard], second: list[TakenCard], way: str
    ) -> None:
        of_kinds = {"": USUAL, "slow": SLOW}
        set_ups = {
            kind: sure(
                scenario(slots=(slot,) if way == "single" else (slot, slot), arrangement=way)
            )
            for kind, slot in of_kinds.items()
        }
        found = simulate_plan(replace(day, cards=(first, second)), named(set_ups))
        presses, seen = found.presses, 0
        for draw in (0, DAYS // 2, DAYS - 1):
            for kinds, some in in_a_row(found, draw):
                slots = tuple(of_kinds[kind] for kind in kinds)
                shot = scenario(slots=slots, arrangement="mirror" if way == "mirror" else "single")
                press_ns, up_ns = presses.press_ns[draw][some], presses.up_ns[draw][some]
                moments = Presses(press_ns=press_ns, finger_up_ns=up_ns, sizes=np.ones(len(some)))
                once = replay(shot, moments)
                np.testing.assert_array_equal(once.frames_of_bursts, found.frames[draw][some])
                np.testing.assert_array_equal(once.missed_of_bursts, found.missed[draw][some])
                np.testing.assert_allclose(once.clear_s, found.clear_s[draw][some])
                seen += len(some)
        self.assertEqual(seen, sum(presses.is_real[d].sum() for d in (0, DAYS // 2, DAYS - 1)))

    @given(plans)
    def test_presses_are_a_hands_and_in_their_periods(self, day: Plan) -> None:
        presses = planned_presses(day, 20)
        gaps_s = presses.press_s[:, 1:] - presses.up_s[:, :-1]
        self.assertGreater(gaps_s.min(initial=REPRESS_S), REPRESS_S - 1e-6)
        mean = sum(one.bursts + one.singles for one in day.periods)
        counts = presses.is_real.sum(axis=1)
        self.assertAlmostEqual(mean, float(counts.mean()), delta=1 + 1.2 * mean**0.5 + mean / 10)
        self.assertTrue((np.diff(presses.is_real.astype(int), axis=1) <= 0).all())

    @settings(max_examples=15)
    @given(plans)
    def test_cards_take_what_they_have_room_for_and_periods_add_up(self, day: Plan) -> None:
        found = planned(day)
        (queue,) = found.queues
        taken = np.zeros(DAYS, dtype=np.int64)
        for card, taken_card in zip(queue, day.cards[0], strict=True):
            np.testing.assert_array_equal(taken, card.first)
            taken = card.last
            for draw in range(0, DAYS, 40):
                on_it_mb = found.mb[draw, card.first[draw] : card.last[draw]].sum()
                self.assertLessEqual(on_it_mb, taken_card.free_mb + WIDE)
        left = found.frames.sum(axis=1) - found.left_out
        self.assertTrue((left >= 0).all())
        gb = found.mb[found.presses.is_real].sum() / MB_IN_GB
        self.assertAlmostEqual(gb, found.mb.sum() / MB_IN_GB)

    @settings(max_examples=15)
    @given(plans, st.floats(2_000, 60_000), st.floats(1.01, 5))
    def test_more_cards_and_faster_copying_make_no_day_worse(
        self, day: Plan, more_mb: float, faster: float
    ) -> None:
        found = planned(day)
        richer = found.with_cards(((*day.cards[0], *cards(more_mb)),))
        quicker = replace(found, plan=replace(day, copy_mb_s=200 * faster))
        self.assertTrue((richer.left_out <= found.left_out).all())
        for slow, quick in zip(found.copyings, quicker.copyings, strict=True):
            self.assertLessEqual(slow.in_time_share, quick.in_time_share)

    def test_two_halves_are_as_much_as_the_whole(self) -> None:
        whole = planned(plan(period(minutes=240, bursts_an_hour=40)))
        halves = planned(plan(*[period(minutes=120, bursts_an_hour=40)] * 2))
        for name in ("frames", "missed", "mb", "clear_s"):
            one, other = (float(getattr(day, name).sum()) for day in (whole, halves))
            with self.subTest(name):
                self.assertAlmostEqual(1, other / one, delta=0.06)

    def test_four_days_in_five_lie_within_the_range(self) -> None:
        """Of days that the range was not made of."""
        held = []
        for bursts_an_hour in (5, 20, 60):
            day = planned(plan(period(minutes=180, bursts_an_hour=bursts_an_hour)))
            for values in (day.frames.sum(axis=1), day.missed.sum(axis=1), day.mb.sum(axis=1)):
                found, others = range_of(values[::2]), values[1::2]
                held.append(np.mean((found.low <= others) & (others <= found.high)))
        self.assertAlmostEqual(0.8, float(np.mean(held)), delta=0.06)

    def test_days_unlike_the_plan_still_lie_in_its_range_most_times(self) -> None:
        """Days that are up to a half busier or quieter, in a way that no draw knows."""
        held = []
        for heats in (1, 4):
            busy = [period(minutes=180 / heats, bursts_an_hour=40)] * heats
            found = planned(plan(*busy)).frames_range
            for ratio in np.linspace(0.65, 1.5, 12).tolist():
                other = [replace(one, bursts_an_hour=ratio * one.bursts_an_hour) for one in busy]
                frames = planned(plan(*other)).frames.sum(axis=1)[:: DAYS // 10]
                held.append(np.mean((found.low <= frames) & (frames <= found.high)))
        self.assertGreater(float(np.mean(held)), 0.55)

    @settings(max_examples=15)
    @given(st.lists(st.floats(0.1, 9), min_size=1, max_size=30), st.booleans())
    def test_listed_bursts_are_those_on_every_day(self, listed_s: list[float], other: bool) -> None:
        day = [period(bursts_an_hour=0, listed_s=listed_s, singles_an_hour=9), period()]
        presses = planned_presses(plan(*day[::-1] if other else day), 20)
        is_its = (presses.period == int(other)) & presses.is_real & ~presses.is_single
        for draw in range(20):
            np.testing.assert_allclose(presses.hold_s[draw][is_its[draw]], listed_s)

    def test_a_lost_card_costs_what_is_on_it_alone(self) -> None:
        day = (period(minutes=120, bursts_an_hour=60), period(minutes=30, bursts_an_hour=0))
        large = planned(plan(*day))
        self.assertEqual(large.frames_range, large.lost_range)
        small = planned(plan(*day, cards=(cards(20_000) * 40,)))
        self.assertLess(small.lost_range.high, 20_000 / 50 + 1)
        noon = replace(day[1], copies=True)
        copied = planned(plan(*day, noon, *day, copy_mb_s=1_000))
        in_all = float(np.median(copied.frames.sum(axis=1)))
        self.assertLess(copied.lost_range.middle, 0.7 * in_all)
        mirrored = planned(plan(*day, cards=(cards(1e6), cards(1e6))), arrangement="mirror",
                           slots=SLOTS)  # fmt: skip
        self.assertEqual(0, mirrored.lost_range.high)

    @settings(max_examples=15)
    @given(st.lists(st.sampled_from(["single", "mirror", "split"]), min_size=1, max_size=5))
    def test_each_slot_takes_what_its_periods_write_to_it(self, arranged: list[str]) -> None:
        shot = {way: sure(scenario(slots=SLOTS, arrangement=way, files=FILES)) for way in arranged}
        day = plan(*[period(set_up=way) for way in arranged], cards=(cards(1e7), cards(1e7)))
        found = simulate_plan(day, named(shot))
        mb_of = [float(found.mb[found.presses.period == n].sum()) for n in range(len(arranged))]
        parts = {"single": (1, 0), "mirror": (1, 1), "split": (RAW_SHARE, 1 - RAW_SHARE)}
        for slot, written in enumerate(found.written):
            parts_mb = [mb * parts[way][slot] for mb, way in zip(mb_of, arranged, strict=True)]
            self.assertAlmostEqual(sum(parts_mb), float(written.mb[:, -1].sum()), places=3)
        is_only = [n for n, way in enumerate(arranged) if way != "mirror"]
        alone = (found.frames * np.isin(found.presses.period, is_only)).sum(axis=1)
        self.assertEqual(range_of(alone), found.lost_range)
        none_left = found.with_cards([cards(1e7), cards(0.0)][: len(found.queues)])
        both = [n for n, way in enumerate(arranged) if way != "single"]
        without = (found.frames * np.isin(found.presses.period, both)).sum(axis=1)
        np.testing.assert_array_equal(without, none_left.left_out)

    def test_a_card_is_swapped_in_the_last_pause_before_it_is_full(self) -> None:
        heats = [period(minutes=60, bursts_an_hour=60) for _ in range(4)]
        found = planned(plan(*heats))
        mb_of_heat = float(found.mb.sum(axis=1).mean()) / 4
        few = planned(plan(*heats, cards=(cards(3 * mb_of_heat, 1e6),)))
        self.assertEqual([[7_200]], few.swaps_s)
        self.assertGreater(few.queues[0][0].full_share, 0.7)
        long = planned(plan(period(minutes=240, bursts_an_hour=60),
                            cards=(cards(2.6 * mb_of_heat, 1e6),)))  # fmt: skip
        ((swap_s,),) = long.swaps_s  # there is no pause
        self.assertAlmostEqual(0.1, float((long.queues[0][0].full_s < swap_s).mean()), delta=0.01)
        never = planned(plan(*heats, cards=(cards(1e6, 1e6),)))
        self.assertEqual([[]], never.swaps_s)
        self.assertEqual(0, never.queues[0][1].used_share)

    def test_what_makes_no_plan_is_said(self) -> None:
        for faulty, words in (
            (lambda: plan(*[period()] * (MOST_PERIODS + 1)), "periods must be 1 to"),
            (lambda: plan(*[period(minutes=1_000)] * 3), "longer than 48 hours"),
            (lambda: plan(period(bursts_an_hour=0)), "a burst or a single frame"),
            (lambda: plan(cards=((),)), "cards must be 1 to"),
            (lambda: plan(cards=(cards(0), cards(0))), "not all be full from the start"),
            (lambda: plan(cards=(cards(float("nan")),)), "cards must each have room"),
            (lambda: plan(period(copies=True)), "copy_mb_s must be given"),
            (lambda: period(minutes=0), "minutes must be from 1"),
            (lambda: period(hold_s=4, long_hold_s=3), "long_hold_s must not be shorter"),
            (lambda: period(listed_s=[1]), "listed_s must be left out"),
            (lambda: period(bursts_an_hour=0, listed_s=[1, 0]), "listed_s must be from"),
            (lambda: plan(period(minutes=2_880, bursts_an_hour=3_600)), "4,000 presses"),
            (lambda: planned(plan(period(bursts_an_hour=2_000, hold_s=3, long_hold_s=3))),
             "frames a day"),
            (lambda: planned(plan(period(set_up="heron"))), "a set-up that there is, not heron"),
            (lambda: planned(plan(), arrangement="mirror", slots=SLOTS), "each of the 2 slots"),
            (lambda: simulate_plan(
                plan(period(), period(set_up="in turn"), cards=(cards(9), cards(9))),
                named({"": sure(scenario()),
                       "in turn": sure(scenario(arrangement="overflow", slots=SLOTS))}),
             ), "in turn in all of them, or in none"),
            (lambda: planned(plan(cards=(cards(1e6, 9, kind="heron"),))),
             "cards must name a set-up that there is, not heron"),
            (lambda: simulate_plan(
                plan(cards=(cards(1e6), cards(9, kind="one"))),
                named({"": sure(scenario(slots=SLOTS, arrangement="mirror")),
                       "one": sure(scenario())}),
             ), "a set-up that writes to slot 2, not one"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(InvalidDay, words):
                faulty()
