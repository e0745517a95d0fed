"""One block of options measured against a need: what is certain first, then bursts."""

from collections.abc import Iterator
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine import burst, pair_loop
from engine.certain import Certain
from engine.copying import S_IN_MINUTE
from engine.event_loop import NEVER
from engine.need import Goal
from engine.options import GOALS, NONE, Block, Evaluation, Options, at_full_speed
from engine.pairs import Pairs, Real, Whole
from engine.scenario import InvalidScenario
from engine.units import ns_of

_NO_LIMIT = 2**62
_OF_BURST = {Goal.FULL_RATE: burst.FULL_RATE, Goal.FRAMES: burst.ENOUGH, Goal.READY: burst.READY}


def evaluate(evaluation: Evaluation, block: Block) -> Options:
    """Every option of `block`; none where memory can't hold a frame of its way."""
    way, memo = evaluation.ways[block.way], _Memo()
    found = [Options.nothing()]
    for number, arrangement in enumerate(evaluation.camera.arrangements):
        if arrangement in evaluation.camera.arrangements_of(way):
            seconds = (NONE,) if arrangement[0] == "single" else block.seconds
            both = np.meshgrid(block.firsts, seconds, indexing="ij")
            numbers = np.stack(both, axis=-1).reshape(-1, 2).astype(np.int64)
            found.append(_measured(Pairs(evaluation, block.way, number, numbers), memo))
    return Options.joined(found)


def outcomes(evaluation: Evaluation, options: Options) -> Whole:
    """What comes of a burst of each of `options` in every draw (axes: option, draw, outcome).

    A draw is the same for all of them, but for what cards do each in their own way.
    """
    shape = (len(options), evaluation.draws, burst.OUTCOME_LENGTH)
    found = np.empty(shape, dtype=np.int64)
    kinds = np.stack([options.way, options.arrangement], axis=-1)
    for way, arrangement in np.unique(kinds, axis=0):
        places = np.flatnonzero((kinds == (way, arrangement)).all(axis=1))
        numbers = np.stack([options.first, options.second], axis=-1)[places].astype(np.int64)
        pairs = Pairs(evaluation, int(way), int(arrangement), numbers)
        _, found[places] = _Bursts(pairs, _Memo()).shoot(pairs.luck, np.arange(len(pairs)))
    return found


class _Memo:
    """What was shot in one way already: most arrangements ask for the same cards alone."""

    def __init__(self) -> None:
        self._known: dict[tuple[object, ...], pair_loop.Alone] = {}

    def alone(
        self, bursts: "_Bursts", cards: pair_loop.Cards, luck: pair_loop.Luck, used: Whole
    ) -> pair_loop.Alone:
        """What comes of each of `cards` alone; those that are not `used` are left as they are."""
        if len(luck.shared) == 1:
            cards = pair_loop.Cards(cards.rows, cards.deviations * 0, cards.luck[:, :1] * 0)
        key = (len(luck.shared), *(part.tobytes() for part in (*cards, used)))
        if key not in self._known:
            places = pair_loop.draw_cards(cards, luck)
            self._known[key] = pair_loop.shoot_alone(
                bursts.pairs.plan, places, used, luck, bursts.asked, bursts.due
            )
        return self._known[key]


class _Bursts:
    """The bursts of some pairs, and what of them is asked."""

    def __init__(self, pairs: Pairs, memo: _Memo) -> None:
        self.pairs, self.memo = pairs, memo
        self.due = pairs.scenario.frames_due

    @cached_property
    def asked(self) -> Whole:
        """What is asked of a burst, as the compiled loop wants it."""
        need, interval_ns = self.pairs.need, self.pairs.scenario.frame_interval_ns
        asked = np.zeros(burst.ASKED_LENGTH, dtype=np.int64)
        asked[burst.FULL_FRAMES] = -(-ns_of(need.full_rate_s or 0) // interval_ns)
        asked[burst.LEAST_FRAMES] = need.frames or 0
        asked[burst.WITHIN_NS] = ns_of(need.counted_in_s)
        asked[burst.MOST_READY_NS] = _NO_LIMIT if need.ready_s is None else ns_of(need.ready_s)
        locked = self.pairs.evaluation.camera.locks_playback
        asked[burst.FIRST_PICTURE] = need.ready_for == "first picture" and not locked
        return asked

    def shoot(
        self, luck: pair_loop.Luck, places: Whole, *, keep: bool = True
    ) -> tuple[Whole, Whole]:
        """How many draws of the pairs at `places` meet what is asked; and what came of each."""
        numbers = [slot.place[places] for slot in self.pairs.slots]
        alone = [
            self.memo.alone(
                self, slot.cards, luck, number[:0] if self._in_turn else np.unique(number)
            )
            for slot, number in zip(self.pairs.slots, numbers, strict=True)
        ]
        if len(self.pairs.slots) == 1:
            return alone[0].counted[numbers[0]], alone[0].outcomes[numbers[0]]
        counted = np.zeros((len(places), burst.MET_LENGTH), dtype=np.int64)
        shape = (len(places) if keep else 0, len(luck.shared), burst.OUTCOME_LENGTH)
        came = np.empty(shape, dtype=np.int64)
        pairs = np.ascontiguousarray(np.stack(numbers, axis=-1))
        is_shot = self._is_shot(*numbers)
        if self._paced and not keep:
            pair_loop.count_paced(
                self.pairs.plan, pairs, alone[0], alone[1], is_shot, luck, self.asked, self.due,
                counted,
            )  # fmt: skip
        else:
            is_shot |= self._in_turn
            pair_loop.shoot_pairs(
                self.pairs.plan, pairs, alone[0], alone[1], is_shot, luck, self.asked, self.due,
                counted, came,
            )  # fmt: skip
        return counted, came

    @property
    def _in_turn(self) -> bool:
        """Whether one writer serves both slots in turn."""
        return self.pairs.coupling == "serial" and self.pairs.kind in ("mirror", "split")

    @property
    def _paced(self) -> bool:
        """Whether the pace of that writer tells what a pair meets."""
        return self._in_turn and self.pairs.evaluation.camera.resume_free_frames == 1

    def _is_shot(self, first: Whole, second: Whole) -> NDArray[np.bool_]:
        """Which pairs have to be shot in every draw."""
        may_fill = self.pairs.slots[0].may_fill[first]
        if self.pairs.kind == "overflow":
            return may_fill
        varies = [
            slot.varies[number]
            for slot, number in zip(self.pairs.slots, (first, second), strict=True)
        ]
        may_fill = may_fill | self.pairs.slots[1].may_fill[second]
        return may_fill | (varies[0] | varies[1]) if self._in_turn else may_fill


def _measured(pairs: Pairs, memo: _Memo) -> Options:
    """Every pair against the need; what is missed for sure is not drawn."""
    if not len(pairs):
        return Options.nothing()
    try:
        return _options(pairs, Certain(pairs), _Bursts(pairs, memo))
    except InvalidScenario:
        return Options.nothing()


def _options(pairs: Pairs, certain: Certain, bursts: _Bursts) -> Options:
    need, draws = pairs.need, pairs.evaluation.draws
    chance = np.full((len(pairs), len(GOALS)), np.nan, dtype=np.float32)
    for goal, share in certain.chances().items():
        chance[:, GOALS.index(goal)] = share
    alive = ~(chance < need.sure).any(axis=1)
    _, came = bursts.shoot(pairs.no_luck, np.arange(len(pairs)))
    middle = came[:, 0]
    no_wall = (middle[:, burst.DEPTH] == NEVER).astype(np.float32)
    goals = [goal for goal in need.goals if goal in _OF_BURST]
    if goals and alive.any():
        met, _ = bursts.shoot(pairs.luck, np.flatnonzero(alive), keep=False)
        for goal in goals:
            chance[alive, GOALS.index(goal)] = met[:, _OF_BURST[goal]] / draws
        no_wall[alive] = met[:, burst.NO_WALL] / draws
    misses = chance < need.sure
    return Options(
        way=np.full(len(pairs), pairs.way_number, dtype=np.int16),
        arrangement=np.full(len(pairs), pairs.arrangement_number, dtype=np.int16),
        first=pairs.numbers[:, 0].astype(np.int32),
        second=pairs.numbers[:, 1].astype(np.int32),
        price_cents=certain.price_cents,
        chance=chance,
        missed=np.where(misses.any(axis=1), misses.argmax(axis=1), NONE).astype(np.int8),
        frames=middle[:, burst.FRAMES].astype(np.int32),
        counted=middle[:, burst.COUNTED].astype(np.int32),
        depth=middle[:, burst.DEPTH].astype(np.int32),
        clear_ns=middle[:, burst.CLEAR_NS],
        ready_ns=middle[:, burst.READY_NS],
        day_frames=certain.day_frames,
        copy_s=certain.copy_s.astype(np.float32),
        no_wall=no_wall,
        margin=_margin(certain, bursts.asked, middle),
    )


def _margin(certain: Certain, asked: Whole, middle: Whole) -> NDArray[np.float32]:
    """How far each exceeds what is asked, where it does so least; below 0 where it misses."""
    goals = certain.need.goals
    margins = [margin for goal in goals for margin in _margin_of(goal, certain, asked, middle)]
    least = np.min(margins, axis=0) if margins else np.zeros(len(middle))
    return least.astype(np.float32)


def _margin_of(goal: Goal, certain: Certain, asked: Whole, middle: Whole) -> Iterator[Real]:
    need = certain.need
    if goal is Goal.DAY and need.frames_a_day:
        yield certain.day_frames / need.frames_a_day - 1
    elif goal is Goal.COPIED and need.copied_min:
        yield 1 - certain.copy_s / (need.copied_min * S_IN_MINUTE)
    elif goal is Goal.FULL_RATE:
        reached = at_full_speed(middle[:, burst.DEPTH], middle[:, burst.FRAMES])
        yield reached / asked[burst.FULL_FRAMES] - 1
    elif goal is Goal.FRAMES:
        yield middle[:, burst.COUNTED] / asked[burst.LEAST_FRAMES] - 1
    elif goal is Goal.READY:
        yield 1 - middle[:, burst.READY_NS] / max(asked[burst.MOST_READY_NS], 1)
