"""A plan on the set-up in view: simulated, and said in sentences."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, time, timedelta
from functools import cached_property
from itertools import groupby, pairwise
from urllib.parse import urlencode

import numpy as np
from django.utils.text import capfirst, get_text_list
from numpy.typing import NDArray

from engine.day.odds import DayDifference, SureSetup
from engine.day.picture_desk import PictureDesk, delivered
from engine.day.plan import Period, Plan, SlotCard
from engine.day.plan_simulation import DAYS, Kinds, simulate_plan
from engine.day.planned_day import PlannedDay, PlannedPeriod
from engine.day.planned_presses import PlannedPresses, planned_presses
from engine.formats import figure, percent
from engine.uncertainty.comparison import Difference, difference
from engine.uncertainty.intervals import Interval
from kit.models import Card
from outings.plans.cards import card_of, whole_cards
from outings.plans.time_line import TimeLine
from outings.replays.day import scenario_of_day
from outings.words import brings_words
from setups import keys
from setups.difference import independent_factors
from setups.kit import Kit
from setups.reader import Reading, read_query
from setups.setup import Setup, Side

SURE = 0.9
Whole = NDArray[np.int64]

ANY_DAY = datetime(2026, 1, 1)  # only the clock of it is shown


def shot_in(reading: Reading, set_up: str, kit: Kit) -> Reading:
    """A set-up as a period of a plan changes it, by the query of what differs."""
    if not set_up:
        return reading
    cards = {keys.card(one.slot.number): one.card.slug for one in reading.all_sides if one.card}
    changed = read_query(f"{urlencode(cards | reading.setup.address)}&{set_up}", kit)
    return changed or reading


def slots_written(set_ups: Iterable[Setup]) -> int:
    """How many slots any of them writes to."""
    return max((len(one.sides) for one in set_ups), default=1)


@dataclass(frozen=True)
class NeededCards:
    """So many cards of one kind for a slot."""

    side: Side
    card: Card
    count: int

    def __str__(self) -> str:
        return f"{self.count} cards like the {self.card}" if self.count > 1 else f"the {self.card}"


@dataclass(frozen=True)
class PlannedOuting:
    """The `plan` of a day that begins at `start`, shot with the set-up of `reading`, and who waits.

    A period that is shot otherwise names its set-up by the query of what differs.
    """

    kit: Kit
    reading: Reading
    plan: Plan
    start: time
    desk: PictureDesk | None = None

    @cached_property
    def day(self) -> PlannedDay:
        """It simulated. Raises InvalidScenario, InvalidDay or, without a card, ValueError."""
        return self.simulated(self.reading)

    @cached_property
    def _presses(self) -> PlannedPresses:
        """The same for every set-up."""
        return planned_presses(self.plan, DAYS)

    def set_up_of(self, period: Period) -> Setup:
        """What a period is shot with."""
        return self._set_ups[period.set_up]

    @cached_property
    def _set_ups(self) -> dict[str, Setup]:
        return self._set_ups_of(self.reading)

    @cached_property
    def sides(self) -> Sequence[Side]:
        """The slots that any of its periods writes to."""
        return self.reading.all_sides[: slots_written(self._set_ups.values())]

    def clock(self, moment_s: float) -> str:
        """When that is, in hours and minutes."""
        begins = datetime.combine(ANY_DAY, self.start)
        return f"{begins + timedelta(seconds=moment_s):%H:%M}"

    @property
    def sentences(self) -> list[str]:
        """The answer: cards and swaps, the buffer, copying, a desk, what a lost card costs."""
        return [
            *self.cards_words(), self._buffer(), *self._copying(), *self._desk(), self._lost()
        ]  # fmt: skip

    @property
    def time_line(self) -> TimeLine:
        """The drawing."""
        starts_s = self.plan.starts_s
        clocks = [self.clock(start_s) for start_s in starts_s[:-1]]
        swaps_s = sorted({swap_s for swap_s, _ in self.swaps})
        return TimeLine(self.day, clocks, [(swap_s, self.clock(swap_s)) for swap_s in swaps_s])

    @property
    def swaps(self) -> list[tuple[float, Side]]:
        """When to change a card for the next, with the slot that it is in.

        Where slot 2 takes over by itself there is nothing to do.
        """
        return [
            (swap_s, self.sides[after.slot - 1])
            for swaps_s, cards in zip(self.day.swaps_s, self.day.needed_cards, strict=True)
            for swap_s, (before, after) in zip(swaps_s, pairwise(cards), strict=False)
            if before.slot == after.slot
        ]

    @property
    def periods(self) -> list[tuple[str, PlannedPeriod]]:
        """Each with when it begins, but for those in which nothing is shot."""
        found = zip(self.plan.starts_s, self.day.periods, strict=False)
        return [(self.clock(start_s), one) for start_s, one in found if one.frames.high]

    def _set_ups_of(self, reading: Reading) -> dict[str, Setup]:
        """The set-up of `reading` itself, and as the periods change it."""
        names = dict.fromkeys(["", *(one.set_up for one in self.plan.periods)])
        return {name: shot_in(reading, name, self.kit).setup for name in names}

    def simulated(self, reading: Reading, plan: Plan | None = None) -> PlannedDay:
        """The day with another set-up, or cards. Raises as `day` does."""
        plan, set_ups = plan or self.plan, self._set_ups_of(reading)

        def set_up_of(name: str, kinds: Kinds) -> SureSetup:
            own = set_ups[name]
            of_sides = [*kinds, *[""] * len(own.sides)]
            sides = [
                side.with_card(card_of(side, kind)) if kind else side
                for side, kind in zip(own.sides, of_sides, strict=False)
            ]
            loaded = replace(own, sides=tuple(sides))
            names = {factor: f"another {factor}"
                     for factor in independent_factors(self._set_ups[name], own)}  # fmt: skip
            names |= {factor: f"{' and '.join(kinds)}, {factor}"
                      for factor in independent_factors(own, loaded)}  # fmt: skip
            shot = scenario_of_day(loaded)
            return SureSetup(shot.scenario, shot.sources, names)

        # A slot that the plan has no cards for has as many as it takes.
        more = reading.all_sides[len(plan.cards) : slots_written(set_ups.values())]
        cards = [*plan.cards, *(whole_cards(side.fitted, 1) for side in more)]
        return simulate_plan(replace(plan, cards=cards), set_up_of, self._presses)

    @property
    def needed(self) -> list[list[NeededCards]]:
        """The cards that the day needs, queue by queue, those of one kind in a row together."""

        def card(one: SlotCard) -> tuple[Side, Card]:
            side = self.sides[one.slot - 1]
            return side, card_of(side, one.card.kind)

        return [
            [NeededCards(*key, len(list(some))) for key, some in groupby(queue, card)]
            for queue in self.day.needed_cards
        ]

    def cards_words(self) -> Iterator[str]:
        """The slot that needs most cards first, with what all writes."""
        day = self.day
        of_slots = sorted(
            zip(day.needed, day.swaps_s, day.queues, self.needed, strict=True),
            key=lambda one: -one[0],
        )
        written = f". The day writes {interval_words(day.gb_range, 'GB')}"
        for needed, swaps_s, queue, cards in of_slots:
            in_slot = f" in {cards[0].side.slot}" if len(of_slots) > 1 else ""
            if needed == 1:
                yield f"One {cards[0].card}{in_slot} is enough{written}."
            else:
                takes = "Take" if needed <= len(queue) else "It takes"
                words = ", then ".join(
                    f"{one} in {one.side.slot}" if day.slots_take_turns else str(one)
                    for one in cards
                )
                swaps = self._swaps_words(swaps_s, cards)
                yield f"{takes} {words}{in_slot}: {swaps}{written}."
            written = ""
        if (short := float((day.left_out > 0).mean())) >= 1 - SURE:
            left = float(np.median(day.left_out[day.left_out > 0]))
            yield (
                f"With the cards that you take, {figure(left)} frames have no room on "
                f"{percent(short)} of such days."
            )

    def _swaps_words(self, swaps_s: Sequence[float], cards: Sequence[NeededCards]) -> str:
        clocks = [self.clock(swap_s) for swap_s in swaps_s]
        in_slot_1 = sum(one.count for one in cards if one.side.slot == self.sides[0].slot)
        by_itself = slice(in_slot_1 - 1, in_slot_1 if self.day.slots_take_turns else 0)
        said = [f"at {clock} slot 2 takes over by itself" for clock in clocks[by_itself]]
        del clocks[by_itself]
        return "; ".join([*([f"swap at {get_text_list(clocks, 'and')}"] if clocks else []), *said])

    def _buffer(self) -> str:
        day = self.day
        missed, bursts = day.missed_range, day.bursts_missing_range
        if not missed.high:
            return "The buffer is never full: no card would save a frame."
        in_all = figure(day.bursts_range.middle or 0)
        return (
            f"The buffer is full in {interval_words(bursts)} of {in_all} bursts and costs "
            f"{interval_words(missed, 'frames')}."
        )

    def _copying(self) -> Iterator[str]:
        copied = (period for period in self.plan.periods if period.copies)
        for period, one in zip(copied, self.day.copyings, strict=True):
            late = "" if one.in_time_share >= SURE else (
                f": not enough on {percent(1 - one.in_time_share)} of days"
            )  # fmt: skip
            name = capfirst(one.name)
            minutes = interval_words(one.minutes)
            yield f"{name}: copying takes {minutes} of {figure(period.minutes, 'minutes')}{late}."

    def _desk(self) -> Iterator[str]:
        sent = delivered(self.day, self.desk) if self.desk else None
        if self.desk is None or sent is None:
            return
        frames, each = figure(self.desk.frames, "frames"), figure(self.desk.file_mb, "MB")
        within, after = figure(self.desk.within_min, "minutes"), percent(sent.in_time_share)
        yield (
            f"The picture desk has {frames} of {each} each "
            f"{interval_words(sent.minutes, 'minutes')} after a burst: within {within} after "
            f"{after} of them."
        )
        if self.desk.locks_playback:
            look_s = interval_words(sent.first_look_s, "s")
            yield f"This body shows no picture while the card light is on: {look_s} after a burst."

    def _lost(self) -> str:
        if self.day.fewest_copies > 1:
            return "If one card dies, the other has all of it."
        return f"If one card dies, up to {interval_words(self.day.lost_range, 'frames')} are lost."


def brings(was: PlannedDay, now: PlannedDay) -> str:
    """What one planned day brings against another, in words."""
    return brings_words(
        DayDifference(
            frames=_difference(was.frames, now.frames), missed=_difference(was.missed, now.missed)
        )
    )


def interval_words(interval: Interval, unit: str = "") -> str:
    """A middle with its range."""
    low, high = figure(interval.low or 0), figure(interval.high or 0)
    said = figure(interval.middle or 0, unit)
    return said if low == high else f"{said} ({low} to {high})"


def _difference(was: Whole, now: Whole) -> Difference:
    """Of the sums of each day."""
    both = np.stack([was.sum(axis=1), now.sum(axis=1)])
    return difference(both, float(np.median(both[1] - both[0])))
