"""A plan simulated: every press of very many days on the cards that are in the slots by then."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import cache
from itertools import groupby
from threading import Lock
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from engine.burst.arrangement import Arrangement
from engine.burst.plan import Records, parts_of_nominal
from engine.burst.scenario import Scenario
from engine.day.card_queue import CardQueue
from engine.day.odds import SureSetup, shoot_draws
from engine.day.plan import Period, Plan
from engine.day.planned_day import PlannedDay, queues_of
from engine.day.planned_presses import PlannedPresses, planned_presses
from engine.day.presses import InvalidDay
from engine.quantities import BYTES_IN_MB, NS_IN_S
from engine.uncertainty.draws import Draws, frame_sizes
from engine.uncertainty.sources import FILES
from engine.uncertainty.tables import drawn_plans

Real = NDArray[np.float64]
Whole = NDArray[np.int64]
Flags = NDArray[np.bool_]
Value = TypeVar("Value", bound=np.generic)

Kinds = tuple[str, ...]  # of the cards in the slots, slot 1 first
SetUps = Callable[[str, Kinds], SureSetup]

DAYS = 200  # that a plan is simulated for
MOST_FRAMES_A_DAY = 80_000
LIKELY = 1.25  # times the room on a card that is asked for by when it is full, mostly
AFTER_NS = 10 * NS_IN_S  # between presses that only fill up the rows of draws with fewer
_ONE_AT_A_TIME = Lock()  # each simulation takes all cores, and up to two hundred megabytes


def named(set_ups: Mapping[str, SureSetup]) -> SetUps:
    """Set-ups by the names that periods have for them, the first for those that have none.

    A card of a kind is the one that the set-up of that name has in its slot. The function raises
    :class:`InvalidDay` for a name that there is none of.
    """

    def of_name(name: str, key: str) -> SureSetup:
        if name not in set_ups:
            raise InvalidDay({key: f"must name a set-up that there is, not {name}"})
        return set_ups[name]

    def set_up_of(name: str, kinds: Kinds) -> SureSetup:
        found = of_name(name or next(iter(set_ups)), "periods")
        for slot, kind in enumerate(kinds[: len(found.scenario.slots)], 1):
            if kind:
                other = of_name(kind, "cards")
                if len(other.scenario.slots) < slot:
                    raise InvalidDay(
                        {"cards": f"must name a set-up that writes to slot {slot}, not {kind}"}
                    )
                found = found.with_card_of(other, slot, kind)
        return found

    return set_up_of


def simulate_plan(plan: Plan, set_ups: SetUps, presses: PlannedPresses | None = None) -> PlannedDay:
    """`DAYS` days by a plan; `set_ups` gives what a period is shot with, by its name for that.

    It is asked with the kinds of the cards that are in the slots by then, too. Memory, encoder,
    writers and caches carry over from one press to the next, from one period to the next, too,
    where both are shot with one set-up. Cards are changed before they are full, for one of another
    kind when all is written. `presses` are those of this plan where they have been drawn.
    Raises :class:`InvalidDay`.
    """
    with _ONE_AT_A_TIME:
        return _Days(plan, set_ups, presses or planned_presses(plan, DAYS)).planned


class _Days:
    """The days of a plan while they are simulated."""

    def __init__(self, plan: Plan, set_ups: SetUps, presses: PlannedPresses) -> None:
        self._set_ups, self._presses = cache(set_ups), presses
        self._names = _set_ups_in_order(plan)
        self._try_cards(plan)
        scenarios = [self._set_ups(name, ()).scenario for name in self._names]
        self._arrangements = [one.arrangement for one in scenarios]
        self._shares = _shares_of_periods(plan, scenarios)
        self._plan = plan
        if not self._take_turns:
            self._plan = replace(plan, cards=plan.cards[: self._shares.shape[1]])
        self._queues = [
            CardQueue(cards, share[presses.period])
            for cards, share in zip(
                queues_of(self._plan, self._arrangements), self._shares.T, strict=True
            )
        ]
        due = _frames_due(presses, scenarios)
        file_mb = np.array([one.file_bytes for one in scenarios]) / BYTES_IN_MB
        self._due_mb = due * file_mb[presses.period]
        shape = presses.press_s.shape
        self._frames, self._missed = np.zeros((2, *shape), dtype=np.int64)
        self._mb = np.zeros(shape)
        self._all_written_ns = presses.up_ns.copy()
        self._drawn: dict[tuple[str, Kinds], _DrawnSetup] = {}
        for name, numbers in groupby(range(len(self._names)), key=self._names.__getitem__):
            self._shoot_periods(name, list(numbers))

    def _try_cards(self, plan: Plan) -> None:
        """Asks for each kind of card, so that a wrong one is told whether it is reached or not."""
        kinds = {(slot, one.kind) for slot, cards in enumerate(plan.cards) for one in cards}
        for slot, kind in kinds:
            for name in {*self._names} if kind else ():
                self._set_ups(name, ("",) * slot + (kind,))

    @property
    def planned(self) -> PlannedDay:
        """What they come to."""
        presses = self._presses
        is_ready = np.ones(self._frames.shape, dtype=np.bool_)
        is_ready[:, 1:] = self._all_written_ns[:, :-1] <= presses.press_ns[:, 1:]
        return PlannedDay(
            plan=self._plan, arrangements=self._arrangements, shares=self._shares, presses=presses,
            frames=self._frames, missed=self._missed, mb=self._mb,
            clear_s=np.maximum(self._all_written_ns - presses.up_ns, 0) / NS_IN_S,
            is_ready=is_ready,
            queues=[one.used(one.written(self._mb, presses.press_s)) for one in self._queues],
        )  # fmt: skip

    @property
    def _take_turns(self) -> bool:
        return Arrangement.OVERFLOW in self._arrangements

    def _shoot_periods(self, name: str, numbers: Sequence[int]) -> None:
        """Those in a row that are shot with one set-up, card by card where kinds differ."""
        first = self._presses.count_before(numbers[0])
        end = self._presses.count_before(numbers[-1] + 1)
        times = np.ones(len(first))
        while (first < end).any():
            kinds = np.stack([queue.kinds for queue in self._queues])
            until = np.minimum(self._likely_full(first, times), end)
            for some in np.unique(kinds[:, first < end], axis=1).T:
                draws = np.flatnonzero((first < end) & (kinds == some[:, None]).all(axis=0))
                drawn = self._drawn_with(name, int(draws[0]))
                self._shoot(drawn, _PressesInARow(draws, first[draws], until[draws]))
            place = self._next_other_cards(kinds, until)
            # Once more, and further, where the cards had more room than was thought.
            is_short = (place == until) & (until < end)
            times = np.where(is_short, 2 * times, 1)
            first = np.where(is_short, first, place)

    def _likely_full(self, first: Whole, times: Real) -> Whole:
        """The place by which a card of another kind likely goes in; there is no need to go further.

        That is where so many `times` as much is asked for as there is room.
        """
        press_s = self._presses.press_s
        places = [
            queue.written(self._due_mb, press_s).filled(first, LIKELY * times * queue.ahead_mb).last
            for queue in self._queues
        ]
        return np.asarray(np.maximum(np.min(places, axis=0), first + 1))

    def _next_other_cards(self, kinds: Whole, end: Whole) -> Whole:
        """Changes cards up to `end`, but for what comes after one that is of another kind.

        The place of the first press on that one, or the end, in each draw.
        """
        press_s = self._presses.press_s
        written = [one.written(self._mb, press_s) for one in self._queues]
        first, goes_on = end.copy(), np.ones(len(end), dtype=np.bool_)
        while True:
            full = [
                queue.full_at(of_queue)
                for queue, of_queue in zip(self._queues, written, strict=True)
            ]
            place = np.min(full, axis=0)
            is_full = goes_on & (place < end)
            if not is_full.any():
                return first
            for queue, of_queue in zip(self._queues, full, strict=True):
                queue.change(is_full & (of_queue == place), place)
            now = np.stack([queue.kinds for queue in self._queues])
            is_other = is_full & (now != kinds).any(axis=0)
            first[is_other] = place[is_other]
            goes_on &= ~is_other

    def _drawn_with(self, name: str, draw: int) -> "_DrawnSetup":
        """The set-up of that name with the cards that are in the slots in a draw."""
        cards = [queue.card(draw) for queue in self._queues]
        kinds = [""] * max(slot for slot, _ in cards)
        for slot, card in cards:
            kinds[slot - 1] = card.kind
        key = name, tuple(kinds)
        if key not in self._drawn:
            set_up = self._set_ups(name, tuple(kinds) if any(kinds) else ())
            alone = self._take_turns and len(kinds) > 1
            self._drawn[key] = _DrawnSetup(set_up.in_slot_alone(len(kinds)) if alone else set_up)
        return self._drawn[key]

    def _shoot(self, drawn: "_DrawnSetup", some: "_PressesInARow") -> None:
        """Shoots presses, over what was shot there on other cards."""
        presses = self._presses
        press_ns, up_ns = some.of(presses.press_ns), some.of(presses.up_ns)
        some.fill_up(press_ns, up_ns)
        sizes = drawn.of_files[some.draws, None] * drawn.between_bursts.ratios(
            some.of(presses.size_normals)
        )

        def holds_of(part: slice) -> Whole:
            parts = parts_of_nominal(sizes[part]).astype(np.int64)
            # By PRESS_NS, FINGER_UP_NS, COUNTED_UNTIL_NS (all of it), FILE_SIZE.
            return np.stack([press_ns[part], up_ns[part], up_ns[part], parts], axis=-1)

        plans = drawn.plans[some.draws]
        due = -((press_ns - up_ns) // plans["interval_ns"][:, None])
        of_frames = frame_sizes(DAYS, int(due.sum(axis=1).max()), drawn.within_burst)
        came = shoot_draws(plans, of_frames[some.draws], press_ns.shape[1], holds_of)
        for whole, found in (
            (self._frames, came.frames),
            (self._missed, due - came.frames),
            (self._mb, came.frames * sizes * drawn.file_mb),
            (self._all_written_ns, came.all_written_ns),
        ):
            some.write(whole, found)


class _DrawnSetup:
    """A set-up in each draw."""

    def __init__(self, set_up: SureSetup) -> None:
        scenario, sources = set_up.scenario, set_up.sources
        draws = Draws(DAYS, set_up.independent)
        self.plans: Records = drawn_plans(scenario, sources, draws)
        self.of_files = draws.ratios(FILES, sources.files)
        self.between_bursts = sources.between_bursts
        self.within_burst = sources.within_burst
        self.file_mb = scenario.file_bytes / BYTES_IN_MB


class _PressesInARow:
    """Presses in a row of some draws: from the place `first` of each to before `end`."""

    def __init__(self, draws: Whole, first: Whole, end: Whole) -> None:
        self.draws = draws
        self._width = int((end - first).max())
        # Draw by draw, as slices are copied ten times as fast as places that are listed.
        self._slices = [
            (draw, slice(*places))
            for draw, *places in zip(draws.tolist(), first.tolist(), end.tolist(), strict=True)
        ]

    def of(self, values: NDArray[Value]) -> NDArray[Value]:
        """What these presses have; 0 where a draw has fewer."""
        found = np.zeros((len(self._slices), self._width), dtype=values.dtype)
        for row, (draw, some) in zip(found, self._slices, strict=True):
            row[: some.stop - some.start] = values[draw, some]
        return found

    def fill_up(self, press_ns: Whole, up_ns: Whole) -> None:
        """Presses of a moment, when all is over, where a draw has fewer."""
        for press, up, (_, some) in zip(press_ns, up_ns, self._slices, strict=True):
            count = some.stop - some.start
            press[count:] = up[count - 1] + AFTER_NS * np.arange(1, self._width - count + 1)
            up[count:] = press[count:] + 1

    def write(self, whole: NDArray[Value], found: NDArray[Value]) -> None:
        """Writes what came of them over a part of what came of all."""
        for row, (draw, some) in zip(found, self._slices, strict=True):
            whole[draw, some] = row[: some.stop - some.start]


def _set_ups_in_order(plan: Plan) -> list[str]:
    """What each period is shot with; one in which nothing is shot changes nothing."""

    def is_shot(period: Period) -> bool:
        return bool(period.bursts or period.singles)

    before, names = next(one.set_up for one in plan.periods if is_shot(one)), []
    for period in plan.periods:
        before = period.set_up if is_shot(period) else before
        names.append(before)
    return names


def _frames_due(presses: PlannedPresses, scenarios: Sequence[Scenario]) -> Real:
    """Frames that each press asks for. Raises InvalidDay for more than are simulated."""
    fps = np.array([one.frame_rate_fps for one in scenarios])[presses.period]
    due = np.where(presses.is_real, np.ceil(presses.hold_s * fps), 0)
    if (most := int(due.sum(axis=1).max())) > MOST_FRAMES_A_DAY:
        allowed = f"{MOST_FRAMES_A_DAY:,} frames a day"
        raise InvalidDay({"periods": f"must not ask for more than {allowed}, not {most:,}"})
    return due


def _shares_of_periods(plan: Plan, of_periods: Sequence[Scenario]) -> Real:
    """The share of a frame that each slot takes in each period (axes: period, slot)."""
    take_turns = {one.arrangement is Arrangement.OVERFLOW for one in of_periods}
    if len(take_turns) > 1:
        raise InvalidDay({"periods": "must write to the slots in turn in all of them, or in none"})
    found = [shares_of_slots(one) for one in of_periods]
    slots = max(map(len, found))
    if len(plan.cards) < slots:
        raise InvalidDay({"cards": f"must be there for each of the {slots} slots written to"})
    return np.array([[*shares, *[0.0] * (slots - len(shares))] for shares in found])


def shares_of_slots(scenario: Scenario) -> list[float]:
    """The share of a frame's bytes that each slot takes; slots that take turns are one."""
    if scenario.arrangement.splits:
        return [file.mb * BYTES_IN_MB / scenario.file_bytes for file in scenario.files]
    return [1.0] * scenario.arrangement.copies
