"""Very many days by a plan, and what becomes of frames, cards and copying."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import chain
from typing import Any

import numpy as np
from numpy.typing import NDArray

from engine.burst.arrangement import Arrangement
from engine.day.card_queue import (
    UsedCard,
    Written,
    as_many,
    cards_needed,
    most_on_one,
    swaps_s,
    use_cards,
)
from engine.day.plan import Period, Plan, SlotCard, TakenCard
from engine.day.planned_presses import PlannedPresses
from engine.quantities import HIGH, LOW, MB_IN_GB, MIDDLE, S_IN_MINUTE
from engine.uncertainty.intervals import Interval

Real = NDArray[np.float64]
Whole = NDArray[np.int64]
Flags = NDArray[np.bool_]

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
    """So many days by a plan (axes: day, press), and what they come to.

    `frames` are taken by each press, `missed` those that it would have given beyond, `mb` the size
    of all its files, `clear_s` from finger up until all is written, `is_ready` whether all was at
    the press. Each period writes to the slots as its arrangement says; `shares` are the parts of a
    frame's bytes that each slot takes (axes: period, slot). `queues` has the cards of each slot, as
    they are used one after the other; one queue where slots take turns.
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
    queues: Sequence[Sequence[UsedCard]]

    def with_cards(self, cards: Sequence[Sequence[TakenCard]]) -> "PlannedDay":
        """The same days with more or fewer cards of the kinds that they were shot with."""
        day = replace(self, plan=replace(self.plan, cards=cards))
        queues = [
            use_cards([one.card.free_mb for one in queue], written)
            for queue, written in zip(day.cards, day.written, strict=True)
        ]
        return replace(day, queues=queues)

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
    def cards(self) -> list[list[SlotCard]]:
        """The cards of each queue, in their order."""
        return queues_of(self.plan, self.arrangements)

    @cached_property
    def written(self) -> list[Written]:
        """What is written to each queue."""
        press_s = self.presses.press_s
        return [Written.of(self.mb * share, press_s) for share in self._shares_of_presses]

    @cached_property
    def needed(self) -> list[int]:
        """How many cards of each queue have room for nine days of ten; further ones as the last."""
        return [
            cards_needed(used, cards[-1].card.free_mb, written)
            for used, cards, written in zip(self.queues, self.cards, self.written, strict=True)
        ]

    @property
    def needed_cards(self) -> list[list[SlotCard]]:
        """Those."""
        return [as_many(*one) for one in zip(self.cards, self.needed, strict=True)]

    @property
    def swaps_s(self) -> list[list[float]]:
        """When to change each of the cards that are needed for the next, by queue."""
        pauses_s = self.plan.starts_s[1:-1]
        return [
            swaps_s([one.card.free_mb for one in cards], written, pauses_s)
            for cards, written in zip(self.needed_cards, self.written, strict=True)
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
        written = Written.of(self.mb, self.presses.press_s)
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


def range_of(values: NDArray[Any]) -> Interval:
    """The middle of what comes on so many days, and the range of four in five.

    Of what is counted these are numbers that came, as nobody misses half a frame.
    """
    shares, is_counted = (LOW, MIDDLE, HIGH), values.dtype.kind == "i"
    ends = np.quantile(values, shares, method="inverted_cdf" if is_counted else "linear")
    return Interval(*map(float, ends))


def queues_of(plan: Plan, arrangements: Sequence[Arrangement]) -> list[list[SlotCard]]:
    """The cards that are used one after the other: one queue for each slot.

    Where slots take turns it is one for both.
    """
    by_slot = [[SlotCard(slot, card) for card in cards] for slot, cards in enumerate(plan.cards, 1)]
    return [list(chain(*by_slot))] if Arrangement.OVERFLOW in arrangements else by_slot
