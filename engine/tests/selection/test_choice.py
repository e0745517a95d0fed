"""The choice against brute force: every option by itself, with `simulate`."""

from dataclasses import replace
from itertools import product
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from engine import File, InvalidScenario, LoadedSlot
from engine.burst.arrangement import Arrangement
from engine.burst.scenario import ARRANGEMENTS, COUPLINGS, Hold, Scenario
from engine.burst.simulate import simulate
from engine.figures.uncertainty import MEASURED_HERE, LogNormal
from engine.quantities import NS_IN_S
from engine.selection import goals
from engine.selection.candidates import (
    Camera,
    Candidate,
    CandidateSide,
    Option,
    ShootingMode,
    SlotUse,
)
from engine.selection.choice import Choice
from engine.selection.evaluate import evaluate
from engine.selection.goals import GOALS, columns_of, goals_of
from engine.selection.kernels.pair_search import shoot_pairs
from engine.selection.options import NONE, Evaluation
from engine.selection.requirements import Need
from engine.selection.steps import ALL_AT_ONCE, Stage, Steps, choose
from engine.uncertainty.draws import Draws
from engine.uncertainty.intervals import confidence, draws_for
from engine.uncertainty.sources import FILES, SlotSources
from engine.uncertainty.sweep import sweep
from engine.uncertainty.tables import drawn_plans

KITS = 120


class Kit:
    """A random body, its modes, cards and a need; all known exactly unless `spread` is given."""

    def __init__(self, seed: int, spread: float = 0.0) -> None:
        self.random = np.random.default_rng(seed)
        self.spread = spread
        pick, between = self.pick, self.between
        self.camera = Camera(
            memory_mb=pick(300, 700, 1250),
            uses=tuple(SlotUse(kind, pick(*COUPLINGS)) for kind in ARRANGEMENTS),
            memory_source=LogNormal(spread),
            resume_free_frames=pick(1, 1, 1, 3),
            locks_playback=pick(True, False),
        )
        self.modes = tuple(self.mode(number) for number in range(pick(1, 2)))
        self.overheads_s = [pick((0.0,), (0.01,), (0.0, 0.01)) for _ in range(2)]
        self.cards = tuple(self.card(number) for number in range(pick(2, 3, 4)))
        lasts_s = between(0.5, 6)
        asked = {
            "full_rate_s": between(0.1, lasts_s), "frames": pick(10, 30, 60, 100),
            "light_out_s": between(0, 12), "picture_s": between(0, 9),
            "frames_a_day": pick(20, 400, 2_000), "copies": 2,
            "copied_min": between(1, 20), "budget_cents": pick(0, 8_000, 20_000),
        }  # fmt: skip
        every_s = pick(None, lasts_s, lasts_s + between(0, 8))
        chosen = {key: value for key, value in asked.items() if self.random.random() < 0.45}
        self.need = Need(
            lasts_s=lasts_s,
            frames_in_s=pick(None, between(0.1, lasts_s)),
            picture=pick("first", "last"),
            every_s=every_s,
            goes_on_min=every_s and max(pick(1, 2, 4) * every_s / 60, 0.01),
            free_gb=pick(None, None, 2, 30),
            **chosen,
        )

    def pick(self, *choices):
        return choices[self.random.integers(len(choices))]

    def between(self, low: float, high: float) -> float:
        return float(np.round(self.random.uniform(low, high), 2))

    def mode(self, number: int) -> ShootingMode:
        sizes = self.pick((25,), (40,), (30, 10), (18, 18))
        return ShootingMode(
            name=f"way {number}",
            frame_rate_fps=self.pick(8, 12, 20, 30),
            files=tuple(File(name=f"file {n}", mb=mb) for n, mb in enumerate(sizes)),
            held_mb=self.pick(0, 45),
            process_fps=self.pick(None, 15, 25),
            rate_source=LogNormal(self.spread),
            held_source=LogNormal(self.spread),
            file_source=LogNormal(self.spread),
            encoder_source=LogNormal(self.spread),
            file_to_file=self.pick(0.0, self.spread),
        )

    def card(self, number: int) -> Candidate:
        return Candidate(
            key=f"card {number}",
            sides=tuple(
                self.side(slot) if self.random.random() < 0.8 else None for slot in range(2)
            ),
            price_cents=self.pick(None, *range(1_000, 16_000, 1_000)),
            owned=self.random.random() < 0.25,
            copy_mb_s=self.pick(None, 90, 250, 800),
        )

    def side(self, number: int) -> CandidateSide:
        free_mb = self.pick(500, 3_000, 64_000, 256_000)
        cache, slow = self.pick(0, 0, 400), self.pick(0, 0, free_mb - 300)
        slot = LoadedSlot(
            write_mb_s=self.pick(60, 90, 180, 240, 240, 700),
            overhead_s=self.pick(*self.overheads_s[number]),
            free_mb=free_mb,
            cache_mb=cache,
            cache_write_mb_s=800 if cache else None,
            slow_below_free_mb=slow,
            slow_factor=0.5 if slow else 1.0,
        )
        spread = self.pick(self.spread, 2 * self.spread)
        limit = self.pick(None, 200)
        slot = replace(slot, slot_limit_mb_s=limit)
        sources = SlotSources(write_mb_s=LogNormal(spread), slot_limit_mb_s=LogNormal(self.spread))
        return CandidateSide(slot=slot, sources=sources)

    def options(self):
        """Every option, one by one."""
        for mode in self.modes:
            for _, use in self.camera.uses_for(mode):
                firsts = [card for card in self.cards if card.sides[0]]
                seconds = [card for card in self.cards if card.sides[1]]
                single = use.arrangement == "single"
                for cards in product(firsts) if single else product(firsts, seconds):
                    yield Option(mode, use, cards, self.camera)

    def choice(self, draws: int) -> Choice:
        """With so many draws for everything."""
        with patch("engine.selection.evaluate.draws_for", return_value=draws):
            return choose(self.camera, self.modes, self.cards, self.need, draws)


def price_of(cards, sets: int) -> int | None:
    total = 0
    for card in set(cards):
        pieces = cards.count(card) * sets - card.owned
        if pieces and card.price_cents is None:
            return None
        total += pieces * (card.price_cents or 0)
    return total


def rooms_of(scenario: Scenario) -> list[int]:
    """Frames that each card has room for."""
    return [round(slot.free_mb * 1e6) // scenario.bytes_to(n)
            for n, slot in enumerate(scenario.slots)]  # fmt: skip


def with_free(scenario: Scenario, free_bytes) -> Scenario:
    slots = [
        replace(slot, free_mb=free / 1e6)
        for slot, free in zip(scenario.slots, free_bytes, strict=True)
    ]
    return replace(scenario, slots=tuple(slots))


def days(scenario: Scenario, day: int, bursts: int):
    """The series that are judged: in the morning, and where the day ends on each card."""
    room, due = rooms_of(scenario), scenario.frames_due
    if scenario.arrangement == "overflow":
        alone = [replace(scenario, arrangement="single", slots=(slot,)) for slot in scenario.slots]
        yield from [(scenario, 1)] if room[0] < due else days(alone[0], day, bursts)
        if day > room[0]:
            yield from days(alone[1], day - room[0], bursts)
        return
    used = len(room) if scenario.arrangement != "single" else 1
    fits = min(room[:used])
    if fits < due:
        yield scenario, 1
        return
    roomy = tuple(replace(s, free_mb=None, slow_below_free_mb=0) for s in scenario.slots)
    yield replace(scenario, slots=roomy), bursts
    before = max(min(max(day, bursts * due), fits) - bursts * due, 0)
    free = [round(slot.free_mb * 1e6) - before * scenario.bytes_to(number) * (number < used)
            for number, slot in enumerate(scenario.slots)]  # fmt: skip
    yield with_free(scenario, free), bursts


def worst_burst(option: Option, need: Need):
    """The worst of every burst of the day: at full speed, counted, frames, light out, picture."""
    scenario = option.scenario(need.lasts_s)
    if need.free_gb is not None:
        free = [min(round(slot.free_mb * 1e6), need.free_gb * 10**9) for slot in scenario.slots]
        scenario = with_free(scenario, free)
    day = need.day_frames(scenario.frame_rate_fps) or 0
    presses_ns = need.presses_ns(scenario.frame_rate_fps)
    found = []
    for shot_once, bursts in days(scenario, day, len(presses_ns)):
        later = [Hold(press_s=press / NS_IN_S, hold_s=need.lasts_s)
                 for press in presses_ns[1:bursts]]  # fmt: skip
        result = simulate(replace(shot_once, later_holds=tuple(later)))
        full_ns = result.card_full_ns
        for hold in result.holds:
            if hold.first_frame and full_ns is not None and full_ns < hold.hold.finger_up_ns:
                break  # the card was swapped before
            frames = slice(hold.first_frame, hold.first_frame + hold.frames)
            taken, written = result.taken_ns[frames], result.written_ns[frames]
            until_ns = hold.hold.press_ns + round(need.counted_in_s * NS_IN_S)
            depth = result.full_speed_frames_of(hold)
            wanted = written[:1] if need.picture == "first" else written[-1:]
            seen_ns = hold.all_written_ns if option.camera.locks_playback else wanted.max(initial=0)
            found.append((
                hold.frames if depth is None else depth,
                int((taken < until_ns).sum()),
                hold.frames,
                -hold.clear_s,
                -max(0, int(seen_ns) - hold.hold.finger_up_ns) / NS_IN_S,
            ))  # fmt: skip
    full_speed, counted, frames, clear_s, picture_s = np.min(found, axis=0)
    return scenario, full_speed, counted, frames, -clear_s, -picture_s


def judged(option: Option, need: Need):
    """The first goal that it misses with what it reaches, and what comes of its worst burst."""
    scenario, full_speed, counted, _, clear_s, picture_s = worst_burst(option, need)
    rooms = rooms_of(scenario)
    day = need.day_frames(scenario.frame_rate_fps) or 0
    kind = option.use.arrangement
    room = {"overflow": sum, "mirror": min, "split": min, "single": sum}[kind](rooms)
    sets = max(1, -(-day // max(room, 1)))
    sets = 1 if sets > 8 else sets
    wanted = min(day, sets * room) if day else sets * room
    sizes = [scenario.bytes_to(number) for number in range(len(rooms))]
    times = [size / (card.copy_mb_s * 1e6) if card.copy_mb_s else np.inf
             for size, card in zip(sizes, option.cards, strict=True)]  # fmt: skip
    if kind == "mirror":
        copy_s = wanted * min(times)
    else:
        on_first = min(wanted, sets * rooms[0])
        counts = [on_first, wanted - on_first] if kind == "overflow" else [wanted] * len(times)
        copy_s = sum(n * time for n, time in zip(counts, times, strict=True) if n)
    full_s = full_speed / option.mode.frame_rate_fps
    price = price_of(option.cards, sets)
    met = {
        goals.COPIES: kind == "mirror",
        goals.BUDGET: price is not None and price <= (need.budget_cents or 0),
        goals.DAY: sets * room >= day,
        goals.COPIED: copy_s <= (need.copied_min or 0) * 60,
        goals.FULL_SPEED: full_s >= (need.full_rate_s or 0) - 1e-9,
        goals.FRAMES: counted >= (need.frames or 0),
        goals.PICTURE: picture_s <= (need.picture_s or 0),
        goals.LIGHT_OUT: clear_s <= (need.light_out_s or 0),
    }
    missed = next((goal for goal in goals_of(need) if not met[goal]), None)
    reached = {goals.COPIES: 1, goals.BUDGET: price, goals.DAY: sets * room,
               goals.COPIED: copy_s / 60, goals.FULL_SPEED: full_s, goals.FRAMES: counted,
               goals.PICTURE: picture_s, goals.LIGHT_OUT: clear_s}  # fmt: skip
    usable = price is not None and all(
        met[goal] for goal in goals_of(need) if goal in (goals.COPIES, goals.DAY, goals.COPIED)
    )
    ready_s = clear_s if need.picture_s is None else picture_s
    return missed, reached.get(missed), price, ready_s, full_speed, usable


def key(option: Option):
    return option.mode.name, option.use.arrangement, tuple(card.key for card in option.cards)


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
        choice = kit.choice(draws=10)
        self.assertEqual(len(judgements), choice.shortlist.counted)
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
        fitting = {card.key for name in judgements for card in kit.cards if card.key in name[2]}
        self.assertEqual(fitting, {kit.cards[number].key for number in choice.best_of_cards})
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
        for seed in range(25):
            kit = Kit(seed, spread=0.08)
            kit.need = Need(
                lasts_s=kit.need.lasts_s, full_rate_s=kit.need.lasts_s / 2, light_out_s=2
            )
            kit.camera = replace(
                kit.camera,
                uses=tuple(use._replace(knows_coupling=False) for use in kit.camera.uses),
            )
            kit.cards = tuple(replace(card, sides=tuple(map(roomy, card.sides)))
                              for card in kit.cards)  # fmt: skip
            choice = choose(kit.camera, kit.modes, kit.cards, kit.need, draws=30)
            with self.subTest(kit=seed):
                self.check_chances(kit, choice)

    def test_room_and_copying_do_in_the_share_of_file_sizes_in_which_they_do(self) -> None:
        """Of one card by itself: files may all be larger or smaller than the format says."""
        shares = []
        for seed in range(40):
            kit = Kit(seed, spread=0.2)
            kit.need = Need(lasts_s=1, frames_a_day=400, copied_min=2)
            choice = kit.choice(draws=10)
            for place in range(len(choice.options)):
                option, (card, *others) = choice.option(place), choice.option(place).cards
                if others or not card.copy_mb_s:
                    continue
                files_mb = sum(file.mb for file in option.mode.files)
                sizes_mb = files_mb * Draws(1_000).ratios(FILES, option.mode.file_source)
                room = card.sides[0].slot.free_mb // sizes_mb
                sets = -(-400 // np.sort(room)[199])  # in which four of five have room
                sets = sets if sets <= 8 else 1
                shot = min(400, sets * (card.sides[0].slot.free_mb // files_mb))
                day, copied = sets * room >= 400, shot * sizes_mb / card.copy_mb_s <= 120
                chance = choice.options.chance[place, columns_of([goals.DAY, goals.COPIED])]
                np.testing.assert_allclose(chance, [day.mean(), copied.mean()], atol=2e-3)
                shares += [*chance]
        self.assertGreater(sum(0 < share < 1 for share in shares), 10)

    def test_asking_for_less_never_takes_an_option_away(self) -> None:
        for seed in range(15):
            kit = Kit(seed, spread=0.08)
            asked = self.passing(kit)
            # Without frames a day, copying is of a full card, and without an end, the action comes
            # again for longer: both ask for more.
            for fields in (("full_rate_s",), ("frames",), ("light_out_s",), ("picture_s",),
                           ("copied_min",), ("budget_cents",), ("goes_on_min", "every_s"),
                           ("frames_a_day", "copied_min", "goes_on_min", "every_s")):  # fmt: skip
                with self.subTest(kit=seed, without=fields):
                    less = Kit(seed, spread=0.08)
                    less.need = replace(kit.need, **dict.fromkeys(fields))
                    self.assertLessEqual(asked, self.passing(less))

    def test_a_choice_depends_on_no_other_card_and_no_order_of_the_list(self) -> None:
        for seed in range(25):
            kit = Kit(seed, spread=0.1)
            before = self.odds(kit)
            kit.cards = (replace(kit.cards[0], key="twin"), *reversed(kit.cards))
            after = self.odds(kit)
            with self.subTest(kit=seed):
                self.assertLessEqual(before.items(), after.items())
                for (way, kind, cards), chance in after.items():
                    original = tuple("card 0" if card == "twin" else card for card in cards)
                    if original in {key[2] for key in after}:
                        self.assertEqual(chance, after[way, kind, original])

    def odds(self, kit: Kit) -> dict[object, tuple[float, ...]]:
        """The odds of every option, each goal's; what was not drawn is -1."""
        evaluation = Evaluation(kit.camera, kit.modes, kit.cards, kit.need, 20)
        found = {}
        for block in evaluation.blocks(0, ALL_AT_ONCE):
            options = evaluate(evaluation, block)
            for place in range(len(options)):
                asked = [goal for goal in goals_of(kit.need) if goal is not goals.BUDGET]
                columns = columns_of(asked)
                chances = np.nan_to_num(options.chance[place, columns], nan=-1)
                option = evaluation.option(*options.which(place))
                found[key(option)] = tuple(map(float, chances))
        return found

    def test_steps_of_any_size_come_to_the_same(self) -> None:
        for seed in range(40):
            kit = Kit(seed, spread=0.1)
            at_once = kit.choice(draws=20)
            evaluation = Evaluation(kit.camera, kit.modes, kit.cards, kit.need, 20)
            steps, shares = Steps(), [-1.0]
            with (
                self.subTest(kit=seed),
                patch("engine.selection.evaluate.draws_for", return_value=20),
            ):
                while steps.stage(evaluation) is not Stage.DONE:
                    shares.append(steps.share(evaluation))
                    steps = steps.next(evaluation, int(10 ** kit.random.uniform(1, 6)))
                in_steps = steps.choice(evaluation)
                self.assertEqual(sorted(set(shares)), shares)
                self.assertEqual(1, steps.share(evaluation))
                self.assertEqual(at_once.passing, in_steps.passing)
                self.assertEqual(at_once.ties, in_steps.ties)
                self.assertEqual(at_once.shortlist.passing, in_steps.shortlist.passing)
                for name in ("mode", "use", "first", "second", "chance", "ready_ns"):
                    one, other = (getattr(choice.options, name) for choice in (at_once, in_steps))
                    np.testing.assert_array_equal(one, other)

    def test_a_faster_card_never_turns_a_pass_into_a_fail(self) -> None:
        for seed in range(25):
            kit = Kit(seed, spread=0.1)
            kit.camera = replace(kit.camera, resume_free_frames=1)
            # What is missed for sure is not drawn, and a price is no matter of speed.
            kit.need = replace(kit.need, budget_cents=None, copied_min=None, every_s=None,
                               goes_on_min=None, copies=1)  # fmt: skip
            kit.cards = tuple(replace(card, sides=tuple(map(constant, card.sides)))
                              for card in kit.cards)  # fmt: skip
            slower = self.passing(kit)
            kit.cards = tuple(replace(card, sides=tuple(map(faster, card.sides)))
                              for card in kit.cards)  # fmt: skip
            with self.subTest(kit=seed):
                self.assertLessEqual(slower, self.passing(kit))

    def passing(self, kit: Kit) -> set[object]:
        choice = kit.choice(draws=20)
        return {key(choice.option(place)) for place in choice.passing}

    def test_the_pace_of_one_writer_tells_what_its_pairs_would_if_they_were_shot(self) -> None:
        for seed in range(10):
            kit = Kit(seed, spread=0.06)
            kit.camera = replace(
                kit.camera, uses=(SlotUse(Arrangement.MIRROR, "serial"),), resume_free_frames=1
            )
            speeds = kit.random.uniform(40, 900, 8)
            kit.cards = tuple(card(float(speed), 1_000, slots=2) for speed in speeds)
            kit.need = replace(
                kit.need, full_rate_s=kit.need.lasts_s / 2, frames=20,
                light_out_s=kit.between(1, 9), copies=2, budget_cents=None,
                frames_a_day=None, copied_min=None,
            )  # fmt: skip
            evaluation = Evaluation(kit.camera, kit.modes, kit.cards, kit.need, 30)
            with self.subTest(kit=seed):
                blocks = list(evaluation.blocks(0, ALL_AT_ONCE))
                told = [evaluate(evaluation, block).chance for block in blocks]
                with patch("engine.selection.kernels.pair_search.count_paced", shoot_all):
                    shot = [evaluate(evaluation, block).chance for block in blocks]
                # Of bursts that follow each other closely, to a thousandth of the pace.
                off = np.nan_to_num(np.abs(np.array(shot) - told))
                self.assertLessEqual(off.max(), 0.01 if kit.need.every_s else 0)
                self.assertLess((off > 0).mean(), 0.02)

    def check_chances(self, kit: Kit, choice: Choice) -> None:
        for place in range(len(choice.options)):
            option = choice.option(place)
            scenario = option.scenario(kit.need.lasts_s)
            full_ns = round(kit.need.full_rate_s * NS_IN_S)
            chance = choice.options.chance[place]

            draws = Draws(draws_for(scenario))
            came = sweep([scenario], [option.sources], draws)
            depths, frames = came.frames_at_full_speed[0], came.frames[0]
            full = np.where(depths < 0, frames, depths)
            in_time = came.clear_ns[0, :, 0] <= 2 * NS_IN_S
            interval_ns = drawn_plans(scenario, option.sources, draws)["interval_ns"]
            shares = [(full * interval_ns >= full_ns).mean(), in_time.mean()]
            of_burst = [GOALS.index(goals.FULL_SPEED), GOALS.index(goals.LIGHT_OUT)]
            np.testing.assert_allclose(shares, chance[of_burst], atol=1e-5)
            wall_share = confidence(scenario, option.sources).wall_share
            self.assertAlmostEqual(1 - wall_share, float(choice.options.no_wall[place]), places=5)


def roomy(side: CandidateSide | None) -> CandidateSide | None:
    """The same with a card that never fills."""
    return side and replace(side, slot=replace(side.slot, free_mb=None, slow_below_free_mb=0))


def constant(side: CandidateSide | None) -> CandidateSide | None:
    """The same with a card of one speed."""
    one_speed = {"cache_mb": 0, "cache_write_mb_s": None, "slow_below_free_mb": 0, "slow_factor": 1}
    return side and replace(side, slot=replace(side.slot, **one_speed))


def faster(side: CandidateSide | None) -> CandidateSide | None:
    """The same with a card that writes a little faster."""
    return side and replace(side, slot=replace(side.slot, write_mb_s=side.slot.write_mb_s * 1.07))


def shoot_all(drawn, pairs, first, second, is_shot, asked, frames, totals) -> None:
    """What `count_paced` adds up, of every pair simulated by itself."""
    nothing = np.empty((0, 0, 0), dtype=np.int64)
    shoot_pairs(drawn, pairs, first, second, is_shot | True, asked, frames, totals, nothing)


def card(write_mb_s: float, price_cents: int | None, slots: int = 1, **changes) -> Candidate:
    slot = LoadedSlot(write_mb_s=write_mb_s, free_mb=64_000)
    side = CandidateSide(slot=slot, sources=SlotSources(write_mb_s=MEASURED_HERE))
    return Candidate(**{"key": f"{write_mb_s:g}", "sides": (side,) * slots,
                        "price_cents": price_cents, "copy_mb_s": 100} | changes)  # fmt: skip


WAY = ShootingMode(
    name="raw", frame_rate_fps=20, files=(File(name="raw", mb=50),), file_to_file=0.07
)
CAMERA = Camera(memory_mb=1_250)


class ChoiceTests(TestCase):
    def chosen(self, *cards: Candidate, **need) -> Choice:
        return choose(CAMERA, [WAY], cards, Need(**{"lasts_s": 4} | need))

    def names(self, choice: Choice, places) -> list[str]:
        return [choice.option(place).cards[0].key for place in places]

    def test_cards_that_nobody_could_tell_apart_are_one_group_led_by_the_cheapest(self) -> None:
        choice = self.chosen(card(600, 9_000), card(590, 3_000), card(200, 1_000), light_out_s=9)
        self.assertEqual([["200"], ["590", "600"]],
                         [self.names(choice, group) for group in choice.ties])  # fmt: skip

    def test_one_that_costs_more_and_is_nowhere_better_is_dominated(self) -> None:
        choice = self.chosen(card(600, 9_000), card(400, 9_500), card(300, 1_000), light_out_s=9)
        self.assertEqual(["400"], self.names(choice, choice.dominated))

    def test_what_is_owned_costs_nothing_and_is_kept_where_it_does(self) -> None:
        owned, dear = card(400, 5_000, owned=True), card(800, 9_000)
        self.assertTrue(self.chosen(owned, dear, light_out_s=4).keeps)
        self.assertFalse(self.chosen(owned, dear, light_out_s=2).keeps)

    def test_an_owned_card_that_may_do_it_is_measured_before_another_is_bought(self) -> None:
        def own(write_mb_s: float, spread: float, *, is_tested: bool = False) -> Candidate:
            side = CandidateSide(
                slot=LoadedSlot(write_mb_s=write_mb_s, free_mb=64_000),
                sources=SlotSources(write_mb_s=LogNormal(spread)), is_tested=is_tested,
            )  # fmt: skip
            return card(write_mb_s, 9_000, owned=True, sides=(side,))

        dear = card(800, 9_000)
        unsure = self.chosen(own(500, 0.5), own(300, 0.4), dear, light_out_s=2.5)
        self.assertEqual(["800"], self.names(unsure, [unsure.answer]))
        self.assertEqual(["500"], self.names(unsure, [unsure.worth_measuring]))
        for hopeless in (own(100, 0.5), own(500, 0.5, is_tested=True), own(500, 0.02)):
            self.assertIsNone(self.chosen(hopeless, dear, light_out_s=2).worth_measuring)
        self.assertIsNone(self.chosen(own(2_000, 0.5), dear, light_out_s=2.5).worth_measuring)

    def test_a_second_one_of_an_owned_card_has_to_be_bought(self) -> None:
        side = card(400, 0).sides[0]
        camera = Camera(memory_mb=1_250, uses=(SlotUse(Arrangement.MIRROR, "parallel"),))
        both = card(400, 5_000, owned=True, sides=(side, side))
        choice = choose(camera, [WAY], [both], Need(lasts_s=1, copies=2))
        self.assertEqual(5_000, choice.options.price_cents[choice.answer])

    def test_an_action_that_memory_outlasts_with_every_card_needs_no_fast_one(self) -> None:
        self.assertTrue(self.chosen(card(20, 500), card(600, 9_000), lasts_s=0.8).never_full)
        self.assertFalse(self.chosen(card(20, 500), card(600, 9_000)).never_full)

    def test_steps_tell_what_more_money_buys_and_where_it_is_wasted(self) -> None:
        slot = LoadedSlot(write_mb_s=900, slot_limit_mb_s=500, free_mb=64_000)
        capped = CandidateSide(
            slot=slot, sources=SlotSources(write_mb_s=MEASURED_HERE, slot_limit_mb_s=MEASURED_HERE)
        )
        best, same = (card(500, price, key=str(price), sides=(capped,), copy_mb_s=copy)
                      for price, copy in ((6_000, 100), (20_000, 800)))  # fmt: skip
        choice = self.chosen(card(200, 2_000), best, same, light_out_s=60, frames_a_day=1_000)
        (step,) = choice.readiness_steps
        self.assertEqual((4_000, "6000"), (step.more_cents, self.names(choice, [step.place])[0]))
        self.assertGreater(step.sooner_s, 0)
        self.assertEqual(6_000, choice.wasted_above_cents)
        (copying,) = choice.copying_steps
        self.assertEqual("20000", self.names(choice, [copying.place])[0])
        self.assertAlmostEqual(437.5, copying.copied_sooner_s, delta=0.1)

    def test_a_smaller_card_is_not_copied_sooner_because_less_fits(self) -> None:
        known = SlotSources(write_mb_s=MEASURED_HERE)
        small, large = (
            CandidateSide(slot=LoadedSlot(write_mb_s=400, free_mb=gb * 1_000), sources=known)
            for gb in (32, 512)
        )
        cards = [card(400, price, key=str(price), sides=(side,), copy_mb_s=90)
                 for price, side in ((1_000, large), (3_000, small))]  # fmt: skip
        choice = self.chosen(*cards, light_out_s=30)
        self.assertEqual([], choice.copying_steps)
        self.assertEqual(["3000"], self.names(choice, choice.dominated))

    def test_a_card_without_a_price_comes_last_and_is_no_answer_to_a_budget(self) -> None:
        choice = self.chosen(card(600, None), card(500, 5_000), light_out_s=9)
        self.assertEqual(["500", "600"], self.names(choice, choice.passing))
        miss = self.chosen(card(600, None), budget_cents=10_000).miss(0)
        self.assertEqual((goals.BUDGET, 10_000, None), (miss.goal, miss.wanted, miss.reached))

    def test_no_card_at_all_is_no_answer(self) -> None:
        choice = self.chosen(card(600, 1_000, sides=(None,)), light_out_s=3)
        self.assertIsNone(choice.answer)
        self.assertEqual((0, False, []), (choice.shortlist.counted, choice.never_full, choice.ties))
        self.assertEqual(NONE, -1)
