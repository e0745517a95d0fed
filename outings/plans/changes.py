"""What would change a planned day: other cards, what is free, and a copy of everything."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cached_property
from urllib.parse import parse_qsl

import numpy as np
from django.utils.text import get_text_list

from engine import InvalidScenario
from engine.day.planned_day import PlannedDay
from engine.uncertainty.intervals import Interval
from kit.models import Card
from outings.plans.cards import whole_cards
from outings.plans.planned_outing import PlannedOuting, brings
from setups import keys
from setups.changes import Sacrifice, SetupChange, free_changes

MOST_CHANGES = 5  # of cards, and of what is free
FRAMES_A_PRESS = 10  # that take as long as what a press takes besides
FRAMES_A_SECOND = 150_000  # of a middling day, on all days that are simulated, about
AT_ONCE_S = 1.0  # of work that a request does itself


@dataclass(frozen=True)
class OtherCards:
    """The day on as many cards of one kind as it needs in a slot.

    `lost` is the most that is lost with one of them, `rank` puts them in order: by price.
    """

    name: str
    needed: int
    swaps: str
    missed: Interval
    lost: Interval
    cost: str
    rank: tuple[float, int]


@dataclass(frozen=True)
class OtherSetup:
    """The day with a set-up that differs in one thing: what that brings, and what it costs."""

    words: str
    cost: str
    missed: Interval
    gb: Interval
    brings: str


@dataclass(frozen=True)
class PlanChanges:
    """What was tried on a planned day so far: `tried` of `count` set-ups."""

    count: int
    tried: int = 0
    cards: Sequence[OtherCards] = ()
    free: Sequence[OtherSetup] = ()
    second_copy: str = ""

    @property
    def is_done(self) -> bool:
        """Whether all was tried."""
        return self.tried == self.count


@dataclass(frozen=True)
class ChangesToTry:
    """Set-ups to try on a planned day."""

    planned: PlannedOuting

    @property
    def takes_s(self) -> float:
        """How long that takes, about."""
        frames = self.planned.day.frames
        of_a_day = float(np.median(frames.sum(axis=1))) + FRAMES_A_PRESS * frames.shape[1]
        return float(len(self._tries) * of_a_day / FRAMES_A_SECOND)

    def results(self) -> Iterator[PlanChanges]:
        """What comes of them, after each."""
        found = PlanChanges(len(self._tries), cards=self._own_cards())
        yield found
        for attempt in self._tries:
            found = replace(found, tried=found.tried + 1)
            # Unless figures of the kit contradict each other, or there is no card.
            with suppress(InvalidScenario, ValueError):
                found = attempt(found)
            yield found

    @cached_property
    def _tries(self) -> list[Callable[[PlanChanges], PlanChanges]]:
        return [
            *(lambda found, one=one: self._with_cards(found, one) for one in self._cards),
            *(lambda found, one=one: self._with_free(found, one) for one in self._free()),
            *(lambda found, one=one: self._with_copy(found, one) for one in self._copies()),
        ]

    @property
    def _slot(self) -> int:
        """The place of the slot that needs most cards."""
        return int(np.argmax(self.planned.day.needed))

    def _own_cards(self) -> list[OtherCards]:
        planned = self.planned
        if planned.day.slots_take_turns:
            return []
        needed = [(one.card, one.count) for one in planned.needed[self._slot]]
        planned.reading.costs.look_up([*(card for card, _ in needed), *self._cards])
        return [self._told(needed, planned.day)]

    @cached_property
    def _cards(self) -> list[Card]:
        """The fastest other card of each size; none where slots take turns, which fills both."""
        if self.planned.day.slots_take_turns:
            return []
        side = self.planned.sides[self._slot]
        of_size = {one.capacity_gb: one for one in sorted(side.cards, key=side.usable_mb_s)}
        return [one for one in of_size.values() if one != side.card][:MOST_CHANGES]

    def _free(self) -> list[SetupChange]:
        """Free changes that may save frames, the least sacrifice first."""
        planned = self.planned
        if not planned.day.missed.any():
            return []
        copies = planned.reading.setup.arranged.copies
        tried = [
            one for one in free_changes(planned.reading)
            if one.sacrifice is not Sacrifice.LIGHT_OR_SCENE and one.setup.arranged.copies <= copies
        ]  # fmt: skip
        return sorted(tried, key=lambda one: one.sacrifice)[:MOST_CHANGES]

    def _copies(self) -> list[SetupChange]:
        """A copy of everything, where the body writes one and no period says what it writes."""
        planned = self.planned
        told = (keys.ARRANGEMENT in dict(parse_qsl(one.set_up)) for one in planned.plan.periods)
        if planned.day.fewest_copies > 1 or any(told):
            return []
        return [
            one for one in free_changes(planned.reading)
            if one.setup.arranged.copies > 1 and one.setup.complete
        ][:1]  # fmt: skip

    def _with_cards(self, found: PlanChanges, card: Card) -> PlanChanges:
        planned = self.planned
        sides, rooms = list(planned.reading.all_sides), list(planned.plan.cards)
        sides[self._slot] = sides[self._slot].with_card(card)
        rooms[self._slot] = whole_cards(card, 1)
        was = planned.reading.setup
        setup = replace(was, sides=tuple(sides[: len(was.sides)]))
        reading = replace(planned.reading, setup=setup, all_sides=tuple(sides))
        day = planned.simulated(reading, replace(planned.plan, cards=rooms))
        told = self._told([(card, day.needed[self._slot])], day)
        return replace(found, cards=sorted([*found.cards, told], key=lambda one: one.rank))

    def _with_free(self, found: PlanChanges, change: SetupChange) -> PlanChanges:
        day = self._day_with(change)
        if day.missed.sum() >= self.planned.day.missed.sum():
            return found
        told = OtherSetup(
            change.words, change.cost, day.missed_range, day.gb_range,
            brings(self.planned.day, day),
        )  # fmt: skip
        return replace(found, free=[*found.free, told])

    def _with_copy(self, found: PlanChanges, change: SetupChange) -> PlanChanges:
        cards = get_text_list([str(side.fitted) for side in change.setup.sides[1:]], "and")
        brought = brings(self.planned.day, self._day_with(change))
        return replace(found, second_copy=f"A copy of everything, on the {cards}: {brought}.")

    def _day_with(self, change: SetupChange) -> PlannedDay:
        return self.planned.simulated(replace(self.planned.reading, setup=change.setup))

    def _told(self, cards: Sequence[tuple[Card, int]], day: PlannedDay) -> OtherCards:
        """A day in figures: the day itself takes some ten megabytes."""
        planned, costs = self.planned, self.planned.reading.costs
        needed = [one.card for one in day.needed_cards[self._slot]]
        rooms = [*day.plan.cards[: self._slot], needed, *day.plan.cards[self._slot + 1 :]]
        clocks = [planned.clock(swap_s) for swap_s in day.swaps_s[self._slot]]
        return OtherCards(
            name=", then ".join(str(card) for card, _ in cards), needed=len(needed),
            swaps=get_text_list(clocks, "and"), missed=day.missed_range,
            cost="; ".join(dict.fromkeys(costs.words(*one) for one in cards)),
            lost=day.with_cards(rooms).lost_range,
            rank=(sum(costs.rank(*one) for one in cards), len(needed)),
        )  # fmt: skip
