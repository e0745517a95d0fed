"""One block of options measured against a need: criteria without bursts first, then bursts."""

from collections.abc import Iterable, Iterator
from dataclasses import replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.burst.arrangement import Arrangement
from engine.burst.plan import COUPLING_NUMBER, FILE_SIZE, NOMINAL, UNLIMITED_BYTES
from engine.burst.scenario import InvalidScenario
from engine.cores import on_all_cores
from engine.quantities import NS_IN_S, ns_of
from engine.selection.goals import GOALS, Goal, Reached, columns_of, goals_of
from engine.selection.kernels import pair_search, worst_burst
from engine.selection.options import NONE, REDRAWN_WITHIN, Block, Evaluation, Options
from engine.selection.pairs import DrawGroup, Pairs, Real, Whole
from engine.selection.requirements import Need
from engine.selection.simple_criteria import SimpleCriteria
from engine.uncertainty.draws import NOMINAL_DRAW, Draws
from engine.uncertainty.intervals import draws_for

_NO_LIMIT = 2**62
PART = 16  # pairs that one core shoots at once, of those that are kept
_PICTURE = {"first": worst_burst.FIRST_PICTURE, "last": worst_burst.LAST_PICTURE}


def evaluate(evaluation: Evaluation, block: Block) -> Options:
    """Every option of `block`; none where memory can't hold a frame of its mode."""
    memo: _Memo = {}
    found = [Options.nothing()]
    numbers = evaluation.numbers(block)
    alone = numbers[:, 1] == NONE
    for number, use in evaluation.camera.uses_for(evaluation.modes[block.mode]):
        of_use = numbers[alone if use.arrangement.slots_used == 1 else ~alone]
        found.append(_measured(Pairs(evaluation, block.mode, number, of_use), memo))
    return Options.joined(found)


def outcomes(evaluation: Evaluation, options: Options) -> Whole:
    """What comes of the worst burst of each of `options` (axes: option, draw, figure).

    A draw is the same for all of them, but for what cards do each in their own way.
    """
    kinds = list(_of_each_kind(evaluation, options))
    count = evaluation.draws_to_compare
    found = np.empty((len(options), count, worst_burst.OUTCOME_LENGTH), dtype=np.int64)

    def shoot(part: tuple[Whole, Pairs]) -> None:
        places, pairs = part
        found[places] = _Bursts(pairs, {}).outcomes(Draws(count), independent=True)

    on_all_cores(shoot, _in_parts(kinds))
    return found


def confirmed(evaluation: Evaluation, options: Options) -> Options:
    """`options` with odds from as many draws as `intervals` takes: both say the same.

    Whether an option passes is judged by these, too.
    """
    chance, no_wall = options.chance.copy(), options.no_wall.copy()

    def draw(of_kind: tuple[Whole, Pairs]) -> None:
        places, pairs = of_kind
        _draw(pairs, places, draws_for(pairs.scenario), {}, chance, no_wall)

    on_all_cores(draw, _in_parts(_of_each_kind(evaluation, options)))
    missed = _first_missed(chance, evaluation.need)
    return replace(options, chance=chance, no_wall=no_wall, missed=missed)


def _in_parts(kinds: Iterable[tuple[Whole, Pairs]]) -> Iterator[tuple[Whole, Pairs]]:
    """The same in pieces, so that no core is left without work."""
    for places, pairs in kinds:
        for part in np.array_split(np.arange(len(places)), -(-len(places) // PART)):
            yield places[part], pairs.at(part)


def _of_each_kind(evaluation: Evaluation, options: Options) -> Iterator[tuple[Whole, Pairs]]:
    """The places of `options` of one mode and use of the slots, and their pairs."""
    kinds = np.stack([options.mode, options.use], axis=-1)
    for mode, use in np.unique(kinds, axis=0):
        places = np.flatnonzero((kinds == (mode, use)).all(axis=1))
        numbers = np.stack([options.first, options.second], axis=-1)[places].astype(np.int64)
        yield places, Pairs(evaluation, int(mode), int(use), numbers)


_Memo = dict[tuple[object, ...], pair_search.SingleCards]  # most uses ask for the same cards alone


class _Bursts:
    """The bursts of some pairs, and what of them is asked."""

    def __init__(self, pairs: Pairs, memo: _Memo) -> None:
        self.pairs, self.memo = pairs, memo

    @cached_property
    def asked(self) -> Whole:
        """What is asked of a burst, as the compiled loop wants it."""
        need = self.pairs.need
        locked = self.pairs.evaluation.camera.locks_playback
        asked = np.zeros(worst_burst.ASKED_LENGTH, dtype=np.int64)
        asked[worst_burst.FULL_SPEED_NS] = ns_of(need.full_rate_s or 0)
        asked[worst_burst.LEAST_FRAMES] = need.frames or 0
        asked[worst_burst.MOST_CLEAR_NS] = _limit_ns(need.light_out_s)
        asked[worst_burst.MOST_PICTURE_NS] = _limit_ns(need.picture_s)
        asked[worst_burst.PICTURE] = worst_burst.AT_LIGHT_OUT if locked else _PICTURE[need.picture]
        asked[worst_burst.DAY_FRAMES] = self.pairs.day_frames
        return asked

    def outcomes(self, draws: Draws, *, independent: bool = False) -> Whole:
        """What comes of each pair in each draw; `independent` draws each card by itself."""
        came = np.empty((len(self.pairs), draws.count, worst_burst.OUTCOME_LENGTH), dtype=np.int64)
        for group in self.pairs.draw_groups(draws, independent=independent):
            came[:, group.chosen] = self._outcomes(group)
        return came

    def met(self, draws: Draws) -> Whole:
        """In how many draws each pair meets each thing that is asked."""
        if draws.count > worst_burst.MOST_DRAWS:
            raise ValueError(f"more than {worst_burst.MOST_DRAWS} draws can't be counted")
        totals = np.zeros(len(self.pairs), dtype=np.int64)
        for group in self.pairs.draw_groups(draws):
            self._add_met(group, totals)
        return worst_burst.counts_of(totals)

    def _outcomes(self, group: DrawGroup) -> Whole:
        alone, totals = self._alone(group), np.zeros(len(self.pairs), dtype=np.int64)
        shape = (len(self.pairs), len(group.chosen), worst_burst.OUTCOME_LENGTH)
        came = np.empty(shape, dtype=np.int64)
        drawn, asked, frames = group.drawn, self.asked, group.frames_kept
        if len(alone) == 1:
            place = self.pairs.slots[0].place
            pair_search.shoot_alone(drawn, place, alone[0], asked, frames, totals, came)
            return came
        first, second = alone
        pairs, is_shot = self._pairs, self._is_shot(group)
        paced = np.zeros_like(is_shot)
        if self._in_turn(group):
            paced = ~is_shot & group.is_nominal
            is_shot = np.ones_like(is_shot)
        if paced.any():
            writers, place = _writers(pairs[paced], first, second)
            of_paced = np.empty((len(place), *shape[1:]), dtype=np.int64)
            pair_search.shoot_alone(drawn, place, writers, asked, frames, totals, of_paced)
            came[paced] = of_paced
        of_others = np.empty((int((~paced).sum()), *shape[1:]), dtype=np.int64)
        pair_search.shoot_pairs(
            drawn,
            pairs[~paced],
            first,
            second,
            is_shot[~paced],
            asked,
            frames,
            totals,
            of_others,
        )
        came[~paced] = of_others
        return came

    def _add_met(self, group: DrawGroup, totals: Whole) -> None:
        alone, nothing = self._alone(group), np.empty((0, 0, 0), dtype=np.int64)
        drawn, asked, frames = group.drawn, self.asked, group.frames_kept
        if len(alone) == 1:
            place = self.pairs.slots[0].place
            pair_search.shoot_alone(drawn, place, alone[0], asked, frames, totals, nothing)
            return
        first, second = alone
        pairs, is_shot, in_turn = self._pairs, self._is_shot(group), self._in_turn(group)
        if in_turn and self.pairs.evaluation.camera.resume_free_frames == 1:
            pair_search.count_paced(drawn, pairs, first, second, is_shot, asked, frames, totals)
            return
        is_shot |= in_turn
        pair_search.shoot_pairs(
            drawn, pairs, first, second, is_shot, asked, frames, totals, nothing
        )

    @cached_property
    def _pairs(self) -> Whole:
        """The place of each card of a pair among those of its slot."""
        return np.ascontiguousarray(np.stack([slot.place for slot in self.pairs.slots], axis=-1))

    def _alone(self, group: DrawGroup) -> list[pair_search.SingleCards]:
        """The cards of each slot alone; what comes of them is simulated when it is first wanted."""
        found = []
        for places in group.places:
            key = (len(group.chosen), group.chosen.tobytes(), places.tobytes())
            if key not in self.memo:
                self.memo[key] = pair_search.cards_alone(places)
            found.append(self.memo[key])
        return found

    def _in_turn(self, group: DrawGroup) -> bool:
        """Whether one writer serves both slots in turn."""
        serial = group.coupling == COUPLING_NUMBER["serial"]
        return serial and self.pairs.kind.writes_both

    def _is_shot(self, group: DrawGroup) -> NDArray[np.bool_]:
        """Which pairs have to be simulated in every draw."""
        slots = self.pairs.slots
        fills = [self._may_fill(group, number)[slot.place] for number, slot in enumerate(slots)]
        slows = [slot.slows[slot.place] for slot in slots]
        if self.pairs.kind is Arrangement.OVERFLOW:
            return fills[0] | slows[1]
        is_shot = fills[0] | fills[1] | slows[0] | slows[1]
        if self._in_turn(group):
            is_shot |= slots[0].varies[slots[0].place] | slots[1].varies[slots[1].place]
        if group.coupling != COUPLING_NUMBER["parallel"]:
            # One writer: what holds for all pairs needs the same overhead of all cards in a slot.
            overheads = [places["overhead_ns"] for places in group.places]
            is_shot |= any((one != one[:1]).any() for one in overheads)
        return is_shot

    def _may_fill(self, group: DrawGroup, number: int) -> NDArray[np.bool_]:
        """Which cards may be full within one burst."""
        places, drawn = group.places[number], group.drawn
        largest = drawn.holds[:, 0, FILE_SIZE] * (drawn.sizes.max(axis=1) + 1) // NOMINAL + 1
        due = -(-ns_of(self.pairs.need.lasts_s) // drawn.bodies["interval_ns"])
        most_bytes = due * (places["bytes"] * largest // NOMINAL + 1)
        return np.asarray((places["free_bytes"] < most_bytes).any(axis=1))


def _writers(
    pairs: Whole, first: pair_search.SingleCards, second: pair_search.SingleCards
) -> tuple[pair_search.SingleCards, Whole]:
    """One writer for each time that both cards of a pair take for a frame in the first draw.

    And the place of each pair's own. All cards of a slot have the same overhead, and room.
    """
    one, other = pairs.T
    pace_ns, place = np.unique(
        first.high_ns[one, 0] + second.high_ns[other, 0], return_inverse=True
    )
    writers = np.repeat(first.places[one[:1], :1], len(pace_ns), axis=0)
    writers["transfer_ns"] = pace_ns[:, None]
    writers["overhead_ns"] += second.places["overhead_ns"][other[0], 0]
    writers["free_bytes"] = UNLIMITED_BYTES
    return pair_search.cards_alone(writers), place.reshape(-1)


def _limit_ns(seconds: float | None) -> int:
    return _NO_LIMIT if seconds is None else ns_of(seconds)


def _measured(pairs: Pairs, memo: _Memo) -> Options:
    """Every pair against the need; what is missed for sure is not drawn."""
    if not len(pairs):
        return Options.nothing()
    try:
        return _options(pairs, SimpleCriteria(pairs), memo)
    except InvalidScenario:
        return Options.nothing()


def _options(pairs: Pairs, simple: SimpleCriteria, memo: _Memo) -> Options:
    need = pairs.need
    most_draws = draws_for(pairs.scenario)
    draws = min(pairs.evaluation.draws, most_draws)
    chance = np.full((len(pairs), len(GOALS)), np.nan)
    for goal in goals_of(need):
        if (share := goal.chance(simple, need)) is not None:
            chance[:, GOALS.index(goal)] = share
    middle = _Bursts(pairs, memo).outcomes(NOMINAL_DRAW)[:, 0]
    no_wall = 1 - middle[:, worst_burst.WALL].astype(np.float32)
    drawn = columns_of(_drawn_goals(need))
    alive = np.flatnonzero(~(chance < need.sure).any(axis=1))
    if drawn and len(alive):
        _draw(pairs.at(alive), alive, draws, memo, chance, no_wall)
    off = np.abs(chance[alive][:, drawn] - need.sure)
    near = alive[(off < REDRAWN_WITHIN).any(axis=1)]
    if draws < most_draws and len(near):
        _draw(pairs.at(near), near, most_draws, memo, chance, no_wall)
    return Options(
        mode=np.full(len(pairs), pairs.mode_number, dtype=np.int16),
        use=np.full(len(pairs), pairs.use_number, dtype=np.int16),
        first=pairs.numbers[:, 0].astype(np.int32),
        second=pairs.numbers[:, 1].astype(np.int32),
        sets=simple.sets.astype(np.int16),
        price_cents=simple.price_cents,
        chance=chance,
        missed=_first_missed(chance, need),
        frames=middle[:, worst_burst.FRAMES].astype(np.int32),
        counted=middle[:, worst_burst.COUNTED].astype(np.int32),
        full_speed=middle[:, worst_burst.FULL_SPEED].astype(np.int32),
        clear_ns=middle[:, worst_burst.CLEAR_NS],
        ready_ns=middle[
            :, worst_burst.CLEAR_NS if need.picture_s is None else worst_burst.PICTURE_NS
        ],
        day_frames=simple.day_frames,
        copy_s=simple.copy_s.astype(np.float32),
        no_wall=no_wall,
        margin=_margin(simple, middle),
    )


def _drawn_goals(need: Need) -> list[Goal]:
    """The goals that are asked of a burst."""
    return [goal for goal in goals_of(need) if goal.burst_column is not None]


def _first_missed(chance: Real, need: Need) -> NDArray[np.int8]:
    """The number of the first goal that each misses, or NONE."""
    misses = chance < need.sure
    return np.where(misses.any(axis=1), misses.argmax(axis=1), NONE).astype(np.int8)


def _draw(
    pairs: Pairs, places: Whole, draws: int, memo: _Memo, chance: Real,
    no_wall: NDArray[np.float32],
) -> None:  # fmt: skip
    """Puts at `places` of `chance` and `no_wall` what comes of `pairs` in so many draws."""
    met = _Bursts(pairs, memo).met(Draws(draws))
    for goal in _drawn_goals(pairs.need):
        chance[places, GOALS.index(goal)] = met[:, goal.burst_column] / draws
    no_wall[places] = met[:, worst_burst.NO_WALL] / draws


def _margin(simple: SimpleCriteria, middle: Whole) -> NDArray[np.float32]:
    """How far each exceeds what is asked, where it does so least; below 0 where it misses."""
    need, scenario = simple.need, simple.scenario
    reached = Reached(
        copies=simple.copies,
        price_cents=simple.price_cents,
        day_frames=simple.day_frames,
        copy_s=simple.copy_s,
        full_speed_s=middle[:, worst_burst.FULL_SPEED] * scenario.frame_interval_ns / NS_IN_S,
        frames=middle[:, worst_burst.COUNTED],
        picture_s=middle[:, worst_burst.PICTURE_NS] / NS_IN_S,
        clear_s=middle[:, worst_burst.CLEAR_NS] / NS_IN_S,
    )
    margins = [
        goal.margin(reached, need, scenario.frame_rate_fps)
        for goal in goals_of(need)
        if goal.has_margin
    ]
    least = np.min(margins, axis=0) if margins else np.zeros(len(middle))
    return np.asarray(least, dtype=np.float32)
