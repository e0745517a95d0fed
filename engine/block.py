"""One block of options measured against a need: what is certain first, then bursts."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from engine import pair_loop as loop
from engine.candidates import Side
from engine.confidence import spread_of
from engine.event_loop import NEVER
from engine.need import Goal
from engine.options import GOALS, NONE, Block, Evaluation, Options
from engine.plan import (
    CACHE_BYTES,
    CACHED_NS,
    FREE_BYTES,
    OVERHEAD_NS,
    SLOT_LENGTH,
    SLOW_BELOW_BYTES,
    TRANSFER_NS,
    plan_of,
    slot_row,
)
from engine.scenario import InvalidScenario, Scenario
from engine.sweep import LEAST, luck_of
from engine.units import BYTES_IN_MB, ns_of

Whole = NDArray[np.int64]
Real = NDArray[np.float64]
Share = NDArray[np.float32]

SEED = 0
RARE = 5.5  # standard deviations that no draw goes beyond
S_IN_MINUTE = 60
_NO_LIMIT = 2**62
_OF_BURST = {Goal.FULL_RATE: loop.FULL_RATE, Goal.FRAMES: loop.ENOUGH, Goal.READY: loop.READY}


def evaluate(evaluation: Evaluation, block: Block) -> Options:
    """Every option of `block`; none where memory can't hold a frame of its way."""
    way, memo = evaluation.ways[block.way], _Memo()
    found = [Options.nothing()]
    for number, arrangement in enumerate(evaluation.camera.arrangements):
        if arrangement in evaluation.camera.arrangements_of(way):
            seconds = (NONE,) if arrangement[0] == "single" else block.seconds
            both = np.meshgrid(block.firsts, seconds, indexing="ij")
            pairs = np.stack(both, axis=-1).reshape(-1, 2).astype(np.int64)
            found.append(_measured(_Measuring(evaluation, block.way, number, pairs, memo)))
    return Options.joined(found)


def _measured(measuring: "_Measuring") -> Options:
    try:
        return measuring.options() if len(measuring.pairs) else Options.nothing()
    except InvalidScenario:
        return Options.nothing()


def outcomes(evaluation: Evaluation, options: Options) -> Whole:
    """What comes of a burst of each of `options` in every draw (axes: option, draw, outcome).

    A draw is the same for all of them, but for what cards do each in their own way.
    """
    shape = (len(options), evaluation.draws, loop.OUTCOME_LENGTH)
    found = np.empty(shape, dtype=np.int64)
    kinds = np.stack([options.way, options.arrangement], axis=-1)
    for way, arrangement in np.unique(kinds, axis=0):
        places = np.flatnonzero((kinds == (way, arrangement)).all(axis=1))
        pairs = np.stack([options.first, options.second], axis=-1)[places].astype(np.int64)
        found[places] = _Measuring(
            evaluation, int(way), int(arrangement), pairs, _Memo()
        ).drawn_outcomes()
    return found


@dataclass(frozen=True, eq=False)
class _Slot:
    """The cards that one slot may get: their numbers, and where each pair finds its own."""

    sides: list[Side]
    cards: loop.Cards
    may_fill: NDArray[np.bool_]
    capacity_bytes: Whole
    copy_mb_s: Real
    place: Whole


class _Memo:
    """What was shot in one way already: most arrangements ask for the same cards alone."""

    def __init__(self) -> None:
        self._known: dict[tuple[object, ...], loop.Alone] = {}

    def alone(
        self, measuring: "_Measuring", cards: loop.Cards, luck: loop.Luck, used: Whole
    ) -> loop.Alone:
        """What comes of each of `cards` alone; those that are not `used` are left as they are."""
        if len(luck.shared) == 1:
            cards = loop.Cards(cards.rows, cards.deviations * 0, cards.luck[:, :1] * 0)
        key = (len(luck.shared), *(part.tobytes() for part in (*cards, used)))
        if key not in self._known:
            places = loop.draw_cards(cards, luck)
            due = measuring.scenario.frames_due
            self._known[key] = loop.shoot_alone(
                measuring.plan, places, used, luck, measuring.asked, due
            )
        return self._known[key]


class _Measuring:
    """The measuring of some pairs of cards, given by numbers of candidates, in one arrangement."""

    def __init__(
        self, evaluation: Evaluation, way: int, arrangement: int, pairs: Whole, memo: "_Memo"
    ) -> None:
        self.evaluation, self.need, self.pairs = evaluation, evaluation.need, pairs
        self.memo = memo
        self.way_number, self.arrangement_number = way, arrangement
        self.way = evaluation.ways[way]
        self.kind, self.coupling = evaluation.camera.arrangements[arrangement]

    # --- what is measured of

    @cached_property
    def scenario(self) -> Scenario:
        """A hold of the first pair; the others differ in their slots only."""
        first, second = map(int, self.pairs[0])
        option = self.evaluation.option(self.way_number, self.arrangement_number, first, second)
        return option.scenario(self.need.lasts_s)

    @cached_property
    def plan(self) -> Whole:
        return plan_of(self.scenario)

    @cached_property
    def slots(self) -> list[_Slot]:
        used = 1 if self.kind == "single" else 2
        slots = [self._slot(number) for number in range(used)]
        if self.coupling == "slowest" and self.kind in ("mirror", "split"):
            self._share_overhead(slots)
        return slots

    def _slot(self, number: int) -> _Slot:
        numbers, place = np.unique(self.pairs[:, number], return_inverse=True)
        candidates = [self.evaluation.candidates[one] for one in numbers]
        sides = [side for card in candidates if (side := card.sides[number]) is not None]
        rows = np.array([self._row(side, number) for side in sides], dtype=np.int64).reshape(
            -1, SLOT_LENGTH
        )
        free_bytes = rows[:, FREE_BYTES].copy()
        may_fill = self._most_bytes(number) > free_bytes
        _settle(rows, self._most_bytes(number))
        shared, _ = luck_of(self.evaluation.draws, SEED)
        luck = [
            _own_luck(int(one), len(shared)) if side.own_pace else shared[:, 1 + number]
            for one, side in zip(numbers, sides, strict=True)
        ]
        deviations = np.array([spread_of(side.source) for side in sides])
        return _Slot(
            sides=sides,
            cards=loop.Cards(rows, deviations, np.array(luck)),
            may_fill=may_fill,
            capacity_bytes=free_bytes,
            copy_mb_s=np.array([card.copy_mb_s or 0.0 for card in candidates]),
            place=place.reshape(-1).astype(np.int64),
        )

    def _row(self, side: Side, number: int) -> list[int]:
        return slot_row(
            side.slot, self.scenario.bytes_to(number), self.scenario.timed_bytes(number)
        )

    def _most_bytes(self, number: int) -> int:
        """More than any draw of the hold brings to a slot."""
        largest = (1 + RARE * self.way.frame_to_frame) * (1 + RARE * self._file_spread)
        return int(self.scenario.frames_due * self.scenario.bytes_to(number) * largest)

    @property
    def _file_spread(self) -> float:
        return spread_of(self.way.file_source)

    @staticmethod
    def _share_overhead(slots: list[_Slot]) -> None:
        """One writer waits the longer of two overheads; where they vary, pairs are shot."""
        overheads = [np.unique(slot.cards.rows[:, OVERHEAD_NS]) for slot in slots]
        for slot in slots:
            if any(len(one) > 1 for one in overheads):
                slot.may_fill[:] = True
            else:
                slot.cards.rows[:, OVERHEAD_NS] = max(int(one[0]) for one in overheads)

    # --- luck

    @cached_property
    def luck(self) -> loop.Luck:
        shared, noise = luck_of(self.evaluation.draws, SEED)
        camera, way = self.evaluation.camera, self.way
        memory, encoder = map(spread_of, (camera.memory_source, way.encoder_source))
        spreads = [way.frame_to_frame, self._file_spread, 0.0, 0.0, memory, encoder]
        return loop.Luck(shared, noise, np.array(spreads))

    @cached_property
    def no_luck(self) -> loop.Luck:
        return loop.Luck(np.zeros((1, 5)), np.zeros((1, 1), dtype=np.float32), np.zeros(6))

    @cached_property
    def file_factors(self) -> Real:
        """File size over its middle, in every draw, the smallest first."""
        shared, _ = luck_of(self.evaluation.draws, SEED)
        return np.sort(np.maximum(1 + self._file_spread * shared[:, 0], LEAST))

    # --- what is certain but for the size of files

    @cached_property
    def price_cents(self) -> Whole:
        """What has to be bought; a card that is to go into both slots is needed twice."""
        candidates = self.evaluation.candidates
        price = np.array([NONE if c.price_cents is None else c.price_cents for c in candidates])
        cost = np.where([card.owned for card in candidates], 0, price)
        first, second = self.pairs.T
        alone = second == NONE
        one = cost[first]
        other = np.where(alone, 0, np.where(first == second, price[second], cost[second]))
        return np.where((one == NONE) | (other == NONE), NONE, one + other)

    @cached_property
    def day_frames(self) -> Whole:
        """Frames that the cards have room for."""
        return self._day_frames(1.0)

    def _day_frames(self, factor: float | Real) -> Whole:
        """The same where files are `factor` of their middle size, for all pairs or for each."""
        held = [
            slot.capacity_bytes[slot.place] // self._drawn_bytes(number, factor)
            for number, slot in enumerate(self.slots)
        ]
        if self.kind == "single":
            return held[0]
        return held[0] + held[1] if self.kind == "overflow" else np.minimum(*held)

    def _drawn_bytes(self, number: int, factor: float | Real) -> Whole:
        size_bytes = np.asarray(self.scenario.bytes_to(number) * np.asarray(factor))
        return np.maximum(size_bytes.astype(np.int64), 1)

    @cached_property
    def copy_s(self) -> Real:
        """Seconds that copying takes, of the day's frames or else of all that fits; inf: none can.

        Of two copies one is enough, the one that is read faster; else one card after the other.
        """
        frames = self.need.frames_a_day
        wanted = self.day_frames if frames is None else np.minimum(frames, self.day_frames)
        speeds = [slot.copy_mb_s[slot.place] * BYTES_IN_MB for slot in self.slots]
        sizes = [float(self.scenario.bytes_to(number)) for number in range(len(self.slots))]
        with np.errstate(divide="ignore", invalid="ignore"):
            if self.kind == "mirror":
                return wanted * sizes[0] / np.maximum(*speeds)
            on_cards = [wanted] * len(speeds)
            if self.kind == "overflow":
                first = self.slots[0]
                on_cards[0] = np.minimum(wanted, (first.capacity_bytes // sizes[0])[first.place])
                on_cards[1] = wanted - on_cards[0]
            each = [
                np.where(n > 0, n * size / speed, 0.0)
                for n, size, speed in zip(on_cards, sizes, speeds, strict=True)
            ]
        return np.asarray(np.sum(each, axis=0))

    def _certain_chances(self) -> dict[Goal, Real]:
        need = self.need
        chances: dict[Goal, Real] = {
            Goal.COPIES: np.full(len(self.pairs), float(self.kind == "mirror"))
        }
        if need.budget_cents is not None:
            known = self.price_cents != NONE
            chances[Goal.BUDGET] = (known & (self.price_cents <= need.budget_cents)).astype(float)
        if need.frames_a_day is not None:
            chances[Goal.DAY] = self._day_chance(need.frames_a_day)
        if need.copied_min is not None:
            largest = need.copied_min * S_IN_MINUTE / np.maximum(self.copy_s, 1e-9)
            in_time = np.searchsorted(self.file_factors, largest, side="right")
            chances[Goal.COPIED] = in_time / len(self.file_factors)
        return {goal: chance for goal, chance in chances.items() if goal in need.goals}

    def _day_chance(self, frames: int) -> Real:
        """The share of draws in which the cards have room for `frames`."""
        if self.kind == "overflow":
            return self._first_draws(lambda factor: self._day_frames(factor) >= frames)
        # Each card alone: larger files leave less room on all of them, in the same draws.
        alone = [
            (slot.capacity_bytes[:, None] // self._drawn_bytes(number, self.file_factors) >= frames)
            .mean(axis=1)[slot.place]
            for number, slot in enumerate(self.slots)
        ]  # fmt: skip
        return np.asarray(np.min(alone, axis=0))

    def _first_draws(self, has_room: Callable[[Real], NDArray[np.bool_]]) -> Real:
        """The share of the draws, sorted by file size, up to the last that has room."""
        draws = len(self.file_factors)
        low, high = np.zeros(len(self.pairs), np.int64), np.full(len(self.pairs), draws)
        while (unsettled := low < high).any():
            middle = (low + high) // 2
            fits = has_room(self.file_factors[np.minimum(middle, draws - 1)])
            low = np.where(unsettled & fits, middle + 1, low)
            high = np.where(unsettled & ~fits, middle, high)
        return low / draws

    # --- bursts

    @cached_property
    def asked(self) -> Whole:
        need, interval_ns = self.need, self.scenario.frame_interval_ns
        asked = np.zeros(loop.ASKED_LENGTH, dtype=np.int64)
        asked[loop.FULL_FRAMES] = -(-ns_of(need.full_rate_s or 0) // interval_ns)
        asked[loop.LEAST_FRAMES] = need.frames or 0
        asked[loop.WITHIN_NS] = ns_of(need.counted_in_s)
        asked[loop.MOST_READY_NS] = _NO_LIMIT if need.ready_s is None else ns_of(need.ready_s)
        locked = self.evaluation.camera.locks_playback
        asked[loop.FIRST_PICTURE] = need.ready_for == "first picture" and not locked
        return asked

    def _shoot(self, luck: loop.Luck, places: Whole, *, keep: bool) -> tuple[Whole, Whole]:
        """How many draws of the pairs at `places` meet what is asked; and what came of each."""
        numbers = [slot.place[places] for slot in self.slots]
        alone = [
            self.memo.alone(self, slot.cards, luck, np.unique(number))
            for slot, number in zip(self.slots, numbers, strict=True)
        ]
        if len(self.slots) == 1:
            return alone[0].counted[numbers[0]], alone[0].outcomes[numbers[0]]
        counted = np.zeros((len(places), loop.MET_LENGTH), dtype=np.int64)
        shape = (len(places) if keep else 0, len(luck.shared), loop.OUTCOME_LENGTH)
        came = np.empty(shape, dtype=np.int64)
        pairs = np.ascontiguousarray(np.stack(numbers, axis=-1))
        due = self.scenario.frames_due
        loop.shoot_pairs(
            self.plan, pairs, alone[0], alone[1], self._is_shot(*numbers), luck, self.asked, due,
            counted, came,
        )  # fmt: skip
        return counted, came

    def _is_shot(self, first: Whole, second: Whole) -> NDArray[np.bool_]:
        """Which pairs have to be shot in every draw."""
        may_fill = self.slots[0].may_fill[first]
        if self.kind == "overflow":
            return may_fill
        return may_fill | self.slots[1].may_fill[second] | (self.coupling == "serial")

    def drawn_outcomes(self) -> Whole:
        """What comes of every pair in every draw."""
        _, came = self._shoot(self.luck, np.arange(len(self.pairs)), keep=True)
        return came

    # --- all of it

    def options(self) -> Options:
        """Every pair, measured."""
        chance = np.full((len(self.pairs), len(GOALS)), np.nan, dtype=np.float32)
        for goal, share in self._certain_chances().items():
            chance[:, GOALS.index(goal)] = share
        alive = ~(chance < self.need.sure).any(axis=1)
        _, came = self._shoot(self.no_luck, np.arange(len(self.pairs)), keep=True)
        middle = came[:, 0]
        no_wall = (middle[:, loop.DEPTH] == NEVER).astype(np.float32)
        bursts = [goal for goal in self.need.goals if goal in _OF_BURST]
        if bursts and alive.any():
            met, _ = self._shoot(self.luck, np.flatnonzero(alive), keep=False)
            for goal in bursts:
                chance[alive, GOALS.index(goal)] = met[:, _OF_BURST[goal]] / self.evaluation.draws
            no_wall[alive] = met[:, loop.NO_WALL] / self.evaluation.draws
        misses = chance < self.need.sure
        return Options(
            way=np.full(len(self.pairs), self.way_number, dtype=np.int16),
            arrangement=np.full(len(self.pairs), self.arrangement_number, dtype=np.int16),
            first=self.pairs[:, 0].astype(np.int32),
            second=self.pairs[:, 1].astype(np.int32),
            price_cents=self.price_cents,
            chance=chance,
            missed=np.where(misses.any(axis=1), misses.argmax(axis=1), NONE).astype(np.int8),
            frames=middle[:, loop.FRAMES].astype(np.int32),
            counted=middle[:, loop.COUNTED].astype(np.int32),
            depth=middle[:, loop.DEPTH].astype(np.int32),
            clear_ns=middle[:, loop.CLEAR_NS],
            ready_ns=middle[:, loop.READY_NS],
            day_frames=self.day_frames,
            copy_s=self.copy_s.astype(np.float32),
            no_wall=no_wall,
            margin=self._margin(middle),
        )

    def _margin(self, middle: Whole) -> Share:
        """How far each exceeds what is asked, where it does so least; below 0 where it misses."""
        margins = [margin for goal in self.need.goals for margin in self._margin_of(goal, middle)]
        least = np.min(margins, axis=0) if margins else np.zeros(len(middle))
        return least.astype(np.float32)

    def _margin_of(self, goal: Goal, middle: Whole) -> Iterator[Real]:
        need, asked = self.need, self.asked
        if goal is Goal.DAY and need.frames_a_day:
            yield self.day_frames / need.frames_a_day - 1
        elif goal is Goal.COPIED and need.copied_min:
            yield 1 - self.copy_s / (need.copied_min * S_IN_MINUTE)
        elif goal is Goal.FULL_RATE:
            depth = middle[:, loop.DEPTH]
            reached = np.where(depth == NEVER, middle[:, loop.FRAMES], depth)
            yield reached / asked[loop.FULL_FRAMES] - 1
        elif goal is Goal.FRAMES:
            yield middle[:, loop.COUNTED] / asked[loop.LEAST_FRAMES] - 1
        elif goal is Goal.READY:
            yield 1 - middle[:, loop.READY_NS] / max(asked[loop.MOST_READY_NS], 1)


def _settle(rows: Whole, most_bytes: int) -> None:
    """Takes a pace that never changes within the hold for the only one that a card has."""
    slow, cache = rows[:, SLOW_BELOW_BYTES], rows[:, CACHE_BYTES]
    slow[rows[:, FREE_BYTES] - most_bytes >= slow] = 0
    within_cache = (cache > 0) & (cache >= most_bytes)
    rows[within_cache, TRANSFER_NS] = rows[within_cache, CACHED_NS]
    cache[within_cache] = 0


@lru_cache(maxsize=4_096)
def _own_luck(number: int, draws: int) -> Real:
    """How one card writes in every draw, whatever the others do."""
    return np.random.Generator(np.random.PCG64((SEED, 2 + number))).standard_normal(draws)
