"""The choice against brute force: every option by itself, with `simulate`."""

from dataclasses import replace
from itertools import product
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from engine import File, InvalidScenario, Slot, simulate
from engine.block import evaluate
from engine.candidates import Camera, Candidate, Option, Side, Way
from engine.choose import Choice, choose
from engine.need import Goal, Need
from engine.options import NONE, Evaluation
from engine.pairs import SEED, own_luck
from engine.plan import plan_of
from engine.scenario import ARRANGEMENTS, COUPLINGS
from engine.sweep import _shoot_all, luck_of
from engine.units import NS_IN_S

KITS = 300


class Kit:
    """A random body, its ways, cards and a need; without luck unless `spread` is given."""

    def __init__(self, seed: int, spread: float = 0.0) -> None:
        self.random = np.random.default_rng(seed)
        self.spread = spread
        pick, between = self.pick, self.between
        self.camera = Camera(
            memory_mb=pick(300, 700, 1250),
            arrangements=tuple((kind, pick(*COUPLINGS)) for kind in ARRANGEMENTS),
            memory_source=spread,
            resume_free_frames=pick(1, 1, 1, 3),
            locks_playback=pick(True, False),
        )
        self.ways = tuple(self.way(number) for number in range(pick(1, 2)))
        self.overheads_s = [pick((0.0,), (0.01,), (0.0, 0.01)) for _ in range(2)]
        self.cards = tuple(self.card(number) for number in range(pick(2, 3, 4)))
        lasts_s = between(0.5, 6)
        asked = {
            "full_rate_s": between(0.1, lasts_s), "frames": pick(10, 30, 60, 100),
            "ready_s": between(0, 12), "frames_a_day": pick(20, 400, 2_000), "copies": 2,
            "copied_min": between(1, 20), "budget_cents": pick(0, 8_000, 20_000),
        }  # fmt: skip
        chosen = {key: value for key, value in asked.items() if self.random.random() < 0.45}
        self.need = Need(
            lasts_s=lasts_s,
            frames_in_s=pick(None, between(0.1, lasts_s)),
            ready_for=pick("next burst", "first picture"),
            **chosen,
        )

    def pick(self, *choices):
        return choices[self.random.integers(len(choices))]

    def between(self, low: float, high: float) -> float:
        return float(np.round(self.random.uniform(low, high), 2))

    def way(self, number: int) -> Way:
        sizes = self.pick((25,), (40,), (30, 10), (18, 18))
        return Way(
            name=f"way {number}",
            frame_rate_fps=self.pick(8, 12, 20, 30),
            files=tuple(File(name=f"file {n}", mb=mb) for n, mb in enumerate(sizes)),
            held_mb=self.pick(0, 45),
            process_fps=self.pick(None, 15, 25),
            file_source=self.spread,
            encoder_source=self.spread,
            frame_to_frame=self.pick(0.0, self.spread),
        )

    def card(self, number: int) -> Candidate:
        return Candidate(
            name=f"card {number}",
            sides=tuple(
                self.side(slot) if self.random.random() < 0.8 else None for slot in range(2)
            ),
            price_cents=self.pick(None, *range(1_000, 16_000, 1_000)),
            owned=self.random.random() < 0.25,
            copy_mb_s=self.pick(None, 90, 250, 800),
        )

    def side(self, number: int) -> Side:
        free_mb = self.pick(500, 3_000, 64_000, 256_000)
        cache, slow = self.pick(0, 0, 400), self.pick(0, 0, free_mb - 300)
        slot = Slot(
            write_mb_s=self.pick(60, 90, 180, 240, 240, 700),
            overhead_s=self.pick(*self.overheads_s[number]),
            free_mb=free_mb,
            cache_mb=cache,
            cache_write_mb_s=500 if cache else None,
            slow_below_free_mb=slow,
            slow_factor=0.5 if slow else 1.0,
        )
        return Side(slot=slot, source=self.pick(self.spread, 2 * self.spread),
                    own_pace=self.pick(True, False))  # fmt: skip

    def options(self):
        """Every option, one by one."""
        for way, (kind, coupling) in product(self.ways, self.camera.arrangements):
            if (kind, coupling) in self.camera.arrangements_of(way):
                firsts = [card for card in self.cards if card.sides[0]]
                seconds = [card for card in self.cards if card.sides[1]]
                for cards in product(firsts) if kind == "single" else product(firsts, seconds):
                    yield Option(way, kind, coupling, cards, self.camera)

    def choice(self, **options) -> Choice:
        return choose(self.camera, self.ways, self.cards, self.need, **options)


def price_of(cards) -> int | None:
    costs = [0 if card.owned else card.price_cents for card in cards]
    if len(cards) == 2 and cards[0] is cards[1]:
        costs[1] = cards[1].price_cents
    return None if None in costs else sum(costs)


def day_of(option: Option, scenario) -> tuple[int, float]:
    """Frames that the cards have room for, and the seconds that copying the day's takes."""
    rooms = [round(side.slot.free_mb * 1e6) // scenario.bytes_to(n)
             for n, side in enumerate(option.sides)]  # fmt: skip
    room = {"overflow": sum, "mirror": min, "split": min, "single": sum}[option.arrangement](rooms)
    return room, rooms


def judged(option: Option, need: Need):
    """The first goal that it misses with what it reaches, and what comes of its burst."""
    scenario = option.scenario(need.lasts_s)
    shot = simulate(scenario)
    room, rooms = day_of(option, scenario)
    wanted = room if need.frames_a_day is None else min(need.frames_a_day, room)
    sizes = [scenario.bytes_to(number) for number in range(len(rooms))]
    times = [size / (card.copy_mb_s * 1e6) if card.copy_mb_s else np.inf
             for size, card in zip(sizes, option.cards, strict=True)]  # fmt: skip
    if option.arrangement == "mirror":
        copy_s = wanted * min(times)
    else:
        on = [min(wanted, rooms[0]), wanted - min(wanted, rooms[0])]
        counts = on if option.arrangement == "overflow" else [wanted] * len(times)
        copy_s = sum(n * time for n, time in zip(counts, times, strict=True) if n)
    depth = shot.frames_at_full_speed
    full_s = (shot.frames if depth is None else depth) / option.way.frame_rate_fps
    first_ns = max(0, min(map(int, shot.written_ns), default=0) - scenario.hold_ns)
    look = need.ready_for == "first picture" and not option.camera.locks_playback
    ready_s = first_ns / NS_IN_S if look else shot.clear_s
    counted = shot.frames_taken_before(round(need.counted_in_s * NS_IN_S))
    price = price_of(option.cards)
    met = {
        Goal.COPIES: option.arrangement == "mirror",
        Goal.BUDGET: price is not None and price <= (need.budget_cents or 0),
        Goal.DAY: room >= (need.frames_a_day or 0),
        Goal.COPIED: copy_s <= (need.copied_min or 0) * 60,
        Goal.FULL_RATE: full_s >= (need.full_rate_s or 0) - 1e-9,
        Goal.FRAMES: counted >= (need.frames or 0),
        Goal.READY: ready_s <= (need.ready_s or 0),
    }
    missed = next((goal for goal in need.goals if not met[goal]), None)
    reached = {Goal.COPIES: 1, Goal.BUDGET: price, Goal.DAY: room, Goal.COPIED: copy_s / 60,
               Goal.FULL_RATE: full_s, Goal.FRAMES: counted, Goal.READY: ready_s}  # fmt: skip
    usable = price is not None and all(
        met[goal] for goal in need.goals if goal in (Goal.COPIES, Goal.DAY, Goal.COPIED)
    )
    full_speed = shot.frames if depth is None else depth
    return missed, reached.get(missed), price, ready_s, full_speed, usable


def key(option: Option):
    return option.way.name, option.arrangement, tuple(card.name for card in option.cards)


class BruteForceTests(TestCase):
    def test_the_answer_is_that_of_every_option_shot_by_itself(self) -> None:
        passing_kits = 0
        for seed in range(KITS):
            kit = Kit(seed)
            with self.subTest(kit=seed):
                passing_kits += bool(self.check(kit))
        self.assertGreater(passing_kits, KITS / 10)
        self.assertLess(passing_kits, KITS * 9 / 10)

    def check(self, kit: Kit) -> int:
        judgements = {}
        for option in kit.options():
            try:
                judgements[key(option)] = judged(option, kit.need)
            except InvalidScenario:
                continue  # memory can't hold a frame of this way
        choice = kit.choice()
        self.assertEqual(len(judgements), choice.found.counted)
        passing = {name for name, (missed, *_) in judgements.items() if missed is None}
        self.assertEqual(passing, {key(choice.option(place)) for place in choice.passing})
        prices = [judgements[key(choice.option(place))][2] for place in choice.passing]
        self.assertEqual(prices, sorted(prices, key=lambda p: (p is None, p)))
        for place in choice.best_of_cards.values():
            missed, reached, *_ = judgements[key(choice.option(place))]
            miss = choice.miss(place)
            self.assertEqual(missed, miss and miss.goal)
            if miss and reached is not None and miss.reached is not None:
                self.assertAlmostEqual(reached, miss.reached, delta=1e-5 * (1 + reached))
        fitting = {card.name for name in judgements for card in kit.cards if card.name in name[2]}
        self.assertEqual(fitting, {kit.cards[number].name for number in choice.best_of_cards})
        self.check_front(judgements, choice, choice.readiness_front, 3, -1)
        self.check_front(judgements, choice, choice.full_speed_front, 4, 1)
        return len(passing)

    def check_front(self, judgements, choice, front, place, sign) -> None:
        points = {(j[2], sign * j[place]) for j in judgements.values() if j[5]}
        beaten = {
            a for a in points if any(b != a and b[0] <= a[0] and b[1] >= a[1] for b in points)
        }
        shown = [judgements[key(choice.option(one))] for one in front]
        self.assertEqual(sorted(points - beaten), [(j[2], sign * j[place]) for j in shown])

    def test_chances_are_those_of_every_pair_shot_in_every_draw(self) -> None:
        for seed in range(60):
            kit = Kit(seed, spread=0.08)
            kit.need = Need(lasts_s=kit.need.lasts_s, full_rate_s=kit.need.lasts_s / 2, ready_s=2)
            choice = kit.choice(draws=30)
            with self.subTest(kit=seed):
                self.check_chances(kit, choice)

    def test_asking_for_less_never_takes_an_option_away(self) -> None:
        for seed in range(40):
            kit = Kit(seed, spread=0.08)
            asked = self.passing(kit)
            # Without frames a day, copying is of a full card, which asks for more.
            for fields in (("full_rate_s",), ("frames",), ("ready_s",), ("copied_min",),
                           ("frames_a_day", "copied_min"), ("budget_cents",)):  # fmt: skip
                with self.subTest(kit=seed, without=fields):
                    less = Kit(seed, spread=0.08)
                    less.need = replace(kit.need, **dict.fromkeys(fields))
                    self.assertLessEqual(asked, self.passing(less))

    def passing(self, kit: Kit) -> set[object]:
        choice = kit.choice(draws=20)
        return {key(choice.option(place)) for place in choice.passing}

    def test_the_pace_of_one_writer_tells_what_its_pairs_would_if_they_were_shot(self) -> None:
        for seed in range(60):
            kit = Kit(seed, spread=0.06)
            kit.camera = replace(
                kit.camera, arrangements=(("mirror", "serial"),), resume_free_frames=1
            )
            speeds = kit.random.uniform(40, 900, 8)
            kit.cards = tuple(card(float(speed), 1_000, slots=2) for speed in speeds)
            kit.need = replace(
                kit.need, full_rate_s=kit.need.lasts_s / 2, frames=20, ready_s=kit.between(1, 9),
                copies=2, budget_cents=None, frames_a_day=None, copied_min=None,
            )  # fmt: skip
            evaluation = Evaluation(kit.camera, kit.ways, kit.cards, kit.need, 30)
            with self.subTest(kit=seed):
                told = [evaluate(evaluation, block).chance for block in evaluation.blocks]
                with patch("engine.block._Bursts._paced", False):
                    shot = [evaluate(evaluation, block).chance for block in evaluation.blocks]
                np.testing.assert_array_equal(shot, told)

    def check_chances(self, kit: Kit, choice: Choice) -> None:
        shared, noise = luck_of(30, SEED)
        for place in range(len(choice.options)):
            option = choice.option(place)
            numbers = [kit.cards.index(card) for card in option.cards]
            luck = shared.copy()
            for slot, (number, side) in enumerate(zip(numbers, option.sides, strict=True)):
                if side.own_pace:
                    luck[:, 1 + slot] = own_luck(number, 30)
            spread = option.sources.spread()
            deviations = np.array([[spread.frame_to_frame, spread.file_size, spread.write_1,
                                    spread.write_2, spread.memory, spread.encoder]])  # fmt: skip
            scenario = option.scenario(kit.need.lasts_s)
            came = np.empty((4, 1, 30), dtype=np.int64)
            _shoot_all(plan_of(scenario)[None], deviations, luck[None], np.zeros(1, np.int64),
                       noise, scenario.frames_due, came)  # fmt: skip
            frames, depth, clear_ns, _ = came[:, 0]
            full = np.where(depth < 0, frames, depth)
            due = -(-round(kit.need.full_rate_s * NS_IN_S) // scenario.frame_interval_ns)
            chance = choice.options.chance[place]
            self.assertAlmostEqual((full >= due).mean(), chance[4], places=5)
            self.assertAlmostEqual((clear_ns <= 2 * NS_IN_S).mean(), chance[6], places=5)


def card(write_mb_s: float, price_cents: int | None, slots: int = 1, **changes) -> Candidate:
    side = Side(slot=Slot(write_mb_s=write_mb_s, free_mb=64_000), source="measured_here")
    return Candidate(**{"name": f"{write_mb_s:g}", "sides": (side,) * slots,
                        "price_cents": price_cents, "copy_mb_s": 100} | changes)  # fmt: skip


WAY = Way(name="raw", frame_rate_fps=20, files=(File(name="raw", mb=50),), frame_to_frame=0.05)
CAMERA = Camera(memory_mb=1_250)


class ChoiceTests(TestCase):
    def chosen(self, *cards: Candidate, **need) -> Choice:
        return choose(CAMERA, [WAY], cards, Need(**{"lasts_s": 4} | need))

    def names(self, choice: Choice, places) -> list[str]:
        return [choice.option(place).cards[0].name for place in places]

    def test_cards_that_nobody_could_tell_apart_are_one_group_led_by_the_cheapest(self) -> None:
        choice = self.chosen(card(600, 9_000), card(590, 3_000), card(200, 1_000), ready_s=9)
        self.assertEqual([["200"], ["590", "600"]],
                         [self.names(choice, group) for group in choice.ties])  # fmt: skip

    def test_one_that_costs_more_and_is_nowhere_better_is_dominated(self) -> None:
        choice = self.chosen(card(600, 9_000), card(400, 9_500), card(300, 1_000), ready_s=9)
        self.assertEqual(["400"], self.names(choice, choice.dominated))

    def test_what_is_owned_costs_nothing_and_is_kept_where_it_does(self) -> None:
        owned, dear = card(400, 5_000, owned=True), card(800, 9_000)
        self.assertTrue(self.chosen(owned, dear, ready_s=4).keeps)
        self.assertFalse(self.chosen(owned, dear, ready_s=2).keeps)

    def test_a_second_one_of_an_owned_card_has_to_be_bought(self) -> None:
        side = card(400, 0).sides[0]
        camera = Camera(memory_mb=1_250, arrangements=(("mirror", "parallel"),))
        both = card(400, 5_000, owned=True, sides=(side, side))
        choice = choose(camera, [WAY], [both], Need(lasts_s=1, copies=2))
        self.assertEqual(5_000, choice.options.price_cents[choice.answer])

    def test_an_action_that_memory_outlasts_with_every_card_needs_no_fast_one(self) -> None:
        self.assertTrue(self.chosen(card(20, 500), card(600, 9_000), lasts_s=0.8).never_full)
        self.assertFalse(self.chosen(card(20, 500), card(600, 9_000)).never_full)

    def test_steps_tell_what_more_money_buys_and_where_it_is_wasted(self) -> None:
        capped = Side(slot=Slot(write_mb_s=500, free_mb=64_000), source=0.02, own_pace=False)
        best, same = (card(500, price, name=str(price), sides=(capped,), copy_mb_s=copy)
                      for price, copy in ((6_000, 100), (20_000, 800)))  # fmt: skip
        choice = self.chosen(card(200, 2_000), best, same, ready_s=60, frames_a_day=1_000)
        (step,) = choice.readiness_steps
        self.assertEqual((4_000, "6000"), (step.more_cents, self.names(choice, [step.place])[0]))
        self.assertGreater(step.sooner_s, 0)
        self.assertEqual(6_000, choice.wasted_above_cents)
        (copying,) = choice.copying_steps
        self.assertEqual("20000", self.names(choice, [copying.place])[0])
        self.assertAlmostEqual(437.5, copying.copied_sooner_s, delta=0.1)

    def test_a_card_without_a_price_comes_last_and_is_no_answer_to_a_budget(self) -> None:
        choice = self.chosen(card(600, None), card(500, 5_000), ready_s=9)
        self.assertEqual(["500", "600"], self.names(choice, choice.passing))
        miss = self.chosen(card(600, None), budget_cents=10_000).miss(0)
        self.assertEqual((Goal.BUDGET, 10_000, None), (miss.goal, miss.wanted, miss.reached))

    def test_no_card_at_all_is_no_answer(self) -> None:
        choice = self.chosen(card(600, 1_000, sides=(None,)), ready_s=3)
        self.assertIsNone(choice.answer)
        self.assertEqual((0, False, []), (choice.found.counted, choice.never_full, choice.ties))
        self.assertEqual(NONE, -1)
