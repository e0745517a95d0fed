"""A plan simulated: very many days by it, and what becomes of frames, cards and copying."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import groupby
from typing import Any

import numpy as np
from numpy.typing import NDArray

from engine.burst.arrangement import Arrangement
from engine.burst.plan import parts_of_nominal
from engine.burst.scenario import Scenario
from engine.day.card_queue import (
    UsedCard,
    Written,
    as_many,
    cards_needed,
    most_on_one,
    swaps_s,
    use_cards,
)
from engine.day.odds import SureSetup, shoot_draws
from engine.day.plan import Period, Plan
from engine.day.planned_presses import PlannedPresses, planned_presses
from engine.day.presses import InvalidDay
from engine.quantities import BYTES_IN_MB, HIGH, LOW, MB_IN_GB, MIDDLE, NS_IN_S, S_IN_MINUTE
from engine.uncertainty.draws import Draws, drawn_plans, frame_sizes
from engine.uncertainty.intervals import Interval
from engine.uncertainty.sources import FILES

Real = NDArray[np.float64]
Whole = NDArray[np.int64]
Flags = NDArray[np.bool_]

DAYS = 200  # that a plan is simulated for
MOST_FRAMES_A_DAY = 80_000
ROUNDING_MB = 1e-6  # of sums of very many


@dataclass(frozen=True, kw_only=True)
class PlannedPeriod:
    """What becomes of a period: 80 % ranges over the days, and shares of its presses.

    `missing_share` of its bursts miss frames, `ready_share` of its presses find all written that
    was shot before, `light_out_s` after finger up nine of ten bursts are written.
    """

    name: str
    bursts: Interval
    frames: Interval
    missed: Interval
    bursts_missing: Interval
    gb: Interval
    missing_share: float
    ready_share: float
    light_out_s: float


@dataclass(frozen=True, kw_only=True)
class PlannedCopying:
    """How long copying takes in a period, and the share of days on which that is time enough."""

    name: str
    minutes: Interval
    in_time_share: float


@dataclass(frozen=True, eq=False)
class PlannedDay:
    """`DAYS` days by a plan (axes: day, press), and what they come to.

    `frames` are taken by each press, `missed` those that it would have given beyond, `mb` the size
    of all its files, `clear_s` from finger up until all is written, `is_ready` whether all was at
    the press. Each period writes to the slots as its arrangement says; `shares` are the parts of a
    frame's bytes that each slot takes (axes: period, slot).
    """

    plan: Plan
    arrangements: Sequence[Arrangement]
    shares: Real
    presses: PlannedPresses
    frames: Whole
    missed: Whole
    mb: Real
    clear_s: Real
    is_ready: Flags

    @property
    def periods(self) -> list[PlannedPeriod]:
        """Those of the plan, one by one."""
        return [self._period(number, one) for number, one in enumerate(self.plan.periods)]

    @property
    def bursts_range(self) -> Interval:
        """Bursts of the day."""
        return range_of((self.presses.is_real & ~self.presses.is_single).sum(axis=1))

    @property
    def frames_range(self) -> Interval:
        """Frames of the day."""
        return range_of(self.frames.sum(axis=1))

    @property
    def missed_range(self) -> Interval:
        """Frames that it misses."""
        return range_of(self.missed.sum(axis=1))

    @property
    def bursts_missing_range(self) -> Interval:
        """Bursts that miss frames."""
        return range_of((self.missed > 0).sum(axis=1))

    @property
    def gb_range(self) -> Interval:
        """GB of all files, one copy of each."""
        return range_of(self.mb.sum(axis=1) / MB_IN_GB)

    @property
    def slots_take_turns(self) -> bool:
        """Whether slot 2 takes over when slot 1 is full."""
        return Arrangement.OVERFLOW in self.arrangements

    @property
    def fewest_copies(self) -> int:
        """How many copies there are of each file at least."""
        return min(one.copies for one in self.arrangements)

    @cached_property
    def _shares_of_presses(self) -> list[Real]:
        """The share of each press that a slot takes (axes: day, press), slot by slot."""
        return [of_slot[self.presses.period] for of_slot in self.shares.T]

    @cached_property
    def _rooms(self) -> list[tuple[list[float], Written]]:
        """The room on the cards of each slot in their order, and what is written to them.

        Where slots take turns it is one for both.
        """
        rooms = [list(of_slot) for of_slot in self.plan.cards]
        if self.slots_take_turns:
            rooms = [[free_mb for of_slot in rooms for free_mb in of_slot]]
        written = [
            Written(np.cumsum(self.mb * share, axis=1), self.presses.press_s)
            for share in self._shares_of_presses
        ]
        return list(zip(rooms, written, strict=False))

    @cached_property
    def queues(self) -> list[list[UsedCard]]:
        """The cards of each slot, used one after the other; one queue where slots take turns."""
        return [use_cards(free_mb, written) for free_mb, written in self._rooms]

    @cached_property
    def needed(self) -> list[int]:
        """How many cards of each queue have room for nine days of ten; further ones as the last."""
        return [cards_needed(free_mb, written) for free_mb, written in self._rooms]

    @property
    def swaps_s(self) -> list[list[float]]:
        """When to change each of the cards that are needed for the next, by queue."""
        pauses_s = self.plan.starts_s[1:-1]
        return [
            swaps_s(as_many(free_mb, needed), written, pauses_s)
            for (free_mb, written), needed in zip(self._rooms, self.needed, strict=True)
        ]

    @property
    def left_out(self) -> Whole:
        """Frames of each day that no card had room for."""
        places = np.arange(self.frames.shape[1])
        has_none = np.zeros(self.frames.shape, dtype=np.bool_)
        for queue, share in zip(self.queues, self._shares_of_presses, strict=True):
            has_none |= (share > 0) & (places >= queue[-1].last[:, None])
        return np.asarray((self.frames * has_none).sum(axis=1))

    @cached_property
    def _copied(self) -> list[tuple[Whole, Whole, Real]]:
        """Of each copying: the press after it, those that are copied by then, its minutes."""
        found = []
        written = Written(np.cumsum(self.mb, axis=1), self.presses.press_s)
        done_mb = np.zeros(len(self.mb))
        for period, start_s in zip(self.plan.periods, self.plan.starts_s, strict=False):
            if not period.copies or self.plan.copy_mb_s is None:
                continue
            place = written.place_at(start_s)
            to_copy_mb = written.by(place)
            minutes = (to_copy_mb - done_mb) / self.plan.copy_mb_s / S_IN_MINUTE
            most_mb = done_mb + self.plan.copy_mb_s * period.lasts_s
            done_mb = np.minimum(to_copy_mb, most_mb)
            copied = np.count_nonzero(written.mb <= done_mb[:, None] + ROUNDING_MB, axis=1)
            found.append((place, np.minimum(copied, place), minutes))
        return found

    @property
    def copyings(self) -> list[PlannedCopying]:
        """Every period in which is copied."""
        periods = [period for period in self.plan.periods if period.copies]
        return [
            PlannedCopying(
                name=period.name,
                minutes=range_of(minutes),
                in_time_share=float((minutes <= period.minutes).mean()),
            )
            for period, (_, _, minutes) in zip(periods, self._copied, strict=True)
        ]

    @property
    def lost_range(self) -> Interval:
        """The most frames that are lost if one card dies at any moment: on it, and nowhere else."""
        copied = [(place, presses) for place, presses, _ in self._copied]
        is_only = np.array([one.copies == 1 for one in self.arrangements])[self.presses.period]
        of_queues = [
            most_on_one(queue, self.frames * (is_only & (share > 0)), copied)
            for queue, share in zip(self.queues, self._shares_of_presses, strict=True)
        ]
        return range_of(np.max(of_queues, axis=0))

    def _period(self, number: int, period: Period) -> PlannedPeriod:
        is_its = (self.presses.period == number) & self.presses.is_real
        is_burst = is_its & ~self.presses.is_single
        missing = is_burst & (self.missed > 0)
        clear_s = self.clear_s[is_burst]
        return PlannedPeriod(
            name=period.name,
            bursts=range_of(is_burst.sum(axis=1)),
            frames=range_of((self.frames * is_its).sum(axis=1)),
            missed=range_of((self.missed * is_its).sum(axis=1)),
            bursts_missing=range_of(missing.sum(axis=1)),
            gb=range_of((self.mb * is_its).sum(axis=1) / MB_IN_GB),
            missing_share=float(missing.sum() / max(is_burst.sum(), 1)),
            ready_share=float(self.is_ready[is_its].mean()) if is_its.any() else 1.0,
            light_out_s=float(np.quantile(clear_s, HIGH)) if len(clear_s) else 0.0,
        )


def simulate_plan(
    plan: Plan, set_ups: Mapping[str, SureSetup], presses: PlannedPresses | None = None
) -> PlannedDay:
    """`DAYS` days by a plan on the set-ups that its periods name, the first where they name none.

    Memory, encoder, writers and caches carry over from one press to the next, from one period to
    the next, too, where both are shot with one set-up. Cards are changed before they are full.
    `presses` are those of this plan where they have been drawn.
    Raises :class:`InvalidDay`.
    """
    unknown = [one.set_up for one in plan.periods if one.set_up and one.set_up not in set_ups]
    if unknown:
        raise InvalidDay({"periods": f"must name a set-up that there is, not {unknown[0]}"})
    names = _set_ups_in_order(plan, next(iter(set_ups)))
    of_periods = [set_ups[name].scenario for name in names]
    shares = _shares_of_periods(plan, of_periods)
    presses = presses or planned_presses(plan, DAYS)
    frames_due = _frames_due(presses, of_periods)
    if (most := frames_due.sum(axis=1).max()) > MOST_FRAMES_A_DAY:
        allowed = f"{MOST_FRAMES_A_DAY:,} frames a day"
        raise InvalidDay({"periods": f"must not ask for more than {allowed}, not {most:,}"})
    shape = presses.press_s.shape
    frames, missed = np.zeros((2, *shape), dtype=np.int64)
    mb, clear_s = np.zeros((2, *shape))
    is_ready = np.ones(shape, dtype=np.bool_)
    for name, numbers in groupby(range(len(names)), key=names.__getitem__):
        in_a_row = list(numbers)
        some = presses.of(range(in_a_row[0], in_a_row[-1] + 1))
        if some.stop:
            part = _shoot(set_ups[name], presses, some)
            period = presses.period[:, some]
            is_theirs = (
                (period >= in_a_row[0]) & (period <= in_a_row[-1]) & presses.is_real[:, some]
            )
            for whole, found in zip((frames, missed, mb, clear_s, is_ready), part, strict=True):
                np.copyto(whole[:, some], found, where=is_theirs)
    return PlannedDay(
        plan, [one.arrangement for one in of_periods], shares, presses, frames, missed, mb,
        clear_s, is_ready,
    )  # fmt: skip


def range_of(values: NDArray[Any]) -> Interval:
    """The middle of what comes on so many days, and the range of four in five.

    Of what is counted these are numbers that came, as nobody misses half a frame.
    """
    shares, is_counted = (LOW, MIDDLE, HIGH), values.dtype.kind == "i"
    ends = np.quantile(values, shares, method="inverted_cdf" if is_counted else "linear")
    return Interval(*map(float, ends))


def _set_ups_in_order(plan: Plan, first: str) -> list[str]:
    """What each period is shot with; one in which nothing is shot changes nothing."""
    shot_with = [one.set_up or first for one in plan.periods if one.bursts or one.singles]
    before, names = shot_with[0], []
    for period in plan.periods:
        if period.bursts or period.singles:
            before = period.set_up or first
        names.append(before)
    return names


def _frames_due(presses: PlannedPresses, scenarios: Sequence[Scenario]) -> Whole:
    fps = np.array([one.frame_rate_fps for one in scenarios])[presses.period]
    due = np.ceil(presses.hold_s * fps).astype(np.int64)
    return np.where(presses.is_real, due, 0)


def _shoot(
    set_up: SureSetup, presses: PlannedPresses, some: slice
) -> tuple[Whole, Whole, Real, Real, Flags]:
    """Frames, missed ones, MB, seconds to clear and readiness of some presses in a row."""
    scenario, sources = set_up.scenario, set_up.sources
    draws = Draws(DAYS, set_up.independent)
    plans = drawn_plans(scenario, sources, draws)
    press_ns, up_ns = presses.press_ns[:, some], presses.up_ns[:, some]
    sizes = draws.ratios(FILES, sources.files)[:, None] * sources.between_bursts.ratios(
        presses.size_normals[:, some]
    )

    def holds_of(part: slice) -> Whole:
        parts = parts_of_nominal(sizes[part]).astype(np.int64)
        # By PRESS_NS, FINGER_UP_NS, COUNTED_UNTIL_NS (all of it), FILE_SIZE.
        return np.stack([press_ns[part], up_ns[part], up_ns[part], parts], axis=-1)

    due = -((press_ns - up_ns) // plans["interval_ns"][:, None])
    of_frames = frame_sizes(DAYS, int(due.sum(axis=1).max()), sources.within_burst)
    came = shoot_draws(plans, of_frames, press_ns.shape[1], holds_of)
    clear_ns = np.maximum(came.all_written_ns - up_ns, 0)
    is_ready = np.ones(press_ns.shape, dtype=np.bool_)
    is_ready[:, 1:] = came.all_written_ns[:, :-1] <= press_ns[:, 1:]
    mb = came.frames * sizes * (scenario.file_bytes / BYTES_IN_MB)
    return came.frames, due - came.frames, mb, clear_ns / NS_IN_S, is_ready


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
