"""The cheapest cards that do a job in a body: what passes, what ties, what money buys."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from engine.quantities import NOTICED_S, NOTICED_SHARE, NS_IN_S, S_IN_MINUTE
from engine.selection.candidates import Option
from engine.selection.goals import GOALS, Goal, Reached
from engine.selection.kernels import worst_burst
from engine.selection.options import NONE, Evaluation, Options, Whole
from engine.selection.pairs import SIZES_DRAWN
from engine.selection.pareto import KEPT, Shortlist, best_of_cards, closest, fronts
from engine.selection.requirements import Need
from engine.uncertainty.comparison import noticed
from engine.uncertainty.intervals import draws_for

MAY_DO_IT = 0.2  # of draws: less is not worth a test


@dataclass(frozen=True)
class Miss:
    """The first goal that an option misses: what is wanted, what it reaches, and in which share.

    In the goal's own unit: copies, cents, frames, minutes, seconds; `reached` is None where a price
    or a reader is not known. `share` is that of so many `draws` that meet it.
    """

    goal: Goal
    wanted: float
    reached: float | None
    share: float
    draws: int


@dataclass(frozen=True)
class Step:
    """From one place on a front to the next: what it costs more, and what that buys."""

    place: int
    more_cents: int
    more_frames: int
    sooner_s: float
    copied_sooner_s: float


@dataclass(frozen=True, eq=False)
class Choice:
    """What comes of an evaluation; places are those in `options`.

    `outcomes` are those of the places that are `compared`, as `evaluate.outcomes` has them. They
    are not stored with the rest, which says all that is made of them.
    """

    evaluation: Evaluation
    shortlist: Shortlist
    outcomes: Whole = field(default_factory=lambda: np.empty(0, dtype=np.int64))

    def __getstate__(self) -> dict[str, Any]:
        return {name: value for name, value in vars(self).items() if name != "outcomes"}

    def prepare_to_store(self) -> None:
        """Works out all that is made of what is compared, or takes long."""
        _ = self.ties, self.dominated, self.needless
        _ = self.copying_steps, self.wasted_above_cents

    @cached_property
    def compared(self) -> Whole:
        """The places whose bursts are held against each other."""
        places = [*self.passing, *self.readiness_front, *self.full_speed_front]
        return np.unique(np.array(places, dtype=np.int64))

    def _outcomes_at(self, places: Sequence[int]) -> Whole:
        return self.outcomes[np.searchsorted(self.compared, places)]

    @property
    def options(self) -> Options:
        """The options that were kept."""
        return self.shortlist.options

    @property
    def need(self) -> Need:
        """What is asked for."""
        return self.evaluation.need

    def option(self, place: int) -> Option:
        """The option at `place`."""
        return self.evaluation.option(*self.options.which(place))

    @cached_property
    def passing(self) -> list[int]:
        """The places that pass, by price and then by margin, at most KEPT."""
        order = self.options.order
        return [int(place) for place in order[self.options.passes[order]][:KEPT]]

    @property
    def answer(self) -> int | None:
        """The cheapest place that passes, without a second card that adds nothing."""
        return next((place for place in self.passing if place not in self.needless), None)

    @property
    def nearest(self) -> int | None:
        """The place that comes closest, where none passes."""
        if self.passing or not len(self.options):
            return None
        return int(closest(self.options)[0])

    @property
    def keeps(self) -> bool:
        """Whether what is owned already does it."""
        if self.answer is None or self.options.price_cents[self.answer]:
            return False
        return all(card.owned for card in self.option(self.answer).cards)

    @property
    def never_full(self) -> bool:
        """Whether memory outlasts the action with every card, as often as is asked for."""
        return self.shortlist.counted > 0 and self.shortlist.no_wall >= self.need.sure

    @cached_property
    def ties(self) -> list[list[int]]:
        """The passing places in groups without a noticed difference, the cheapest of each first.

        That is one which neither the draws show nor the likeliest figures.
        """
        options = self.options.at(np.array(self.passing, dtype=np.int64))
        came, middle = self._outcomes_at(self.passing), _middle(options)
        left = np.arange(len(self.passing))
        groups = []
        while len(left):
            first = left[0]
            same = ~(_noticed(came[first], came[left]) | _noticed(middle[first], middle[left]))
            same[0] = True
            groups.append([self.passing[number] for number in left[same]])
            left = left[~same]
        return groups

    @cached_property
    def dominated(self) -> set[int]:
        """The passing places that cost no less than another, and in nothing that counts are better.

        A day's room counts up to what is asked for, and copying where all copy the same frames.
        """
        places = np.array(self.passing, dtype=np.int64)
        options = self.options.at(places)
        price = np.where(options.price_cents == NONE, np.iinfo(np.int64).max, options.price_cents)
        copy_s = options.copy_s if self.need.names_a_day else np.zeros(len(options))
        day_frames = [
            self.need.day_frames(mode.frame_rate_fps) or 0 for mode in self.evaluation.modes
        ]
        room = np.minimum(options.day_frames, np.array(day_frames)[options.mode])
        worse = np.stack(
            [price, options.ready_ns, options.clear_ns, -options.full_speed, -options.frames,
             -room, copy_s],
            axis=-1, dtype=np.float64,
        )  # fmt: skip
        no_better = np.all(worse[:, None] >= worse[None], axis=-1)
        somewhere_worse = np.any(worse[:, None] > worse[None], axis=-1)
        return set(map(int, places[np.any(no_better & somewhere_worse, axis=1)]))

    @cached_property
    def needless(self) -> set[int]:
        """The passing places with a second card where the first alone passes for no more."""
        price = np.where(self.options.price_cents == NONE, np.inf, self.options.price_cents)
        second, first = self.options.second, self.options.first
        alone = {
            int(first[place]): price[place]
            for place in reversed(self.passing)
            if second[place] == NONE
        }
        return {
            place
            for place in self.passing
            if second[place] != NONE
            and self.need.copies == 1
            and alone.get(int(first[place]), np.nan) <= price[place]
        }

    @cached_property
    def best_of_cards(self) -> dict[int, int]:
        """For each card that fits, by its number, its best place."""
        return best_of_cards(self.options)

    @property
    def worth_measuring(self) -> int | None:
        """The place of owned cards that a test may show to do it; None: there are none such.

        For all that is known they do it in MAY_DO_IT of draws at least, but not surely enough, and
        one of them was never measured in this body.
        """
        if self.keeps:
            return None
        shares = {
            place: float(np.nanmin(self.options.chance[place]))
            for place in self.best_of_cards.values()
            if not self.options.passes[place] and self._is_owned_and_untested(place)
        }
        best = max(shares, key=shares.__getitem__, default=None)
        return best if best is not None and shares[best] >= MAY_DO_IT else None

    def _is_owned_and_untested(self, place: int) -> bool:
        option = self.option(place)
        is_owned = all(card.owned for card in option.cards)
        return is_owned and any(not side.is_tested for side in option.sides)

    def miss(self, place: int) -> Miss | None:
        """The first goal that the option at `place` misses; None: it passes."""
        number = int(self.options.missed[place])
        if number == NONE:
            return None
        goal, fps = GOALS[number], self.option(place).mode.frame_rate_fps
        wanted, reached = goal.wanted(self.need, fps), goal.reached(self.reached(place))
        share = float(self.options.chance[place, number])
        return Miss(goal, wanted, reached, share, self.draws(place, goal))

    def draws(self, place: int, goal: Goal) -> int:
        """How often the option at `place` was drawn for its odds to meet `goal`."""
        if goal.met_in == "days":
            return SIZES_DRAWN
        return draws_for(self.option(place).scenario(self.need.lasts_s))

    def reached(self, place: int) -> Reached:
        """What the option at `place` comes to at nominal values."""
        options, option = self.options, self.option(place)
        price, copy_s = int(options.price_cents[place]), float(options.copy_s[place])
        return Reached(
            copies=option.use.arrangement.copies,
            price_cents=None if price == NONE else price,
            day_frames=int(options.day_frames[place]),
            copy_s=copy_s if np.isfinite(copy_s) else None,
            full_speed_s=int(options.full_speed[place]) / option.mode.frame_rate_fps,
            frames=int(options.counted[place]),
            picture_s=int(options.ready_ns[place]) / NS_IN_S,
            clear_s=int(options.clear_ns[place]) / NS_IN_S,
        )

    @cached_property
    def readiness_front(self) -> list[int]:
        """The places with nothing as soon ready for as little, the cheapest first."""
        return list(map(int, fronts(self.options, self.need)[0]))

    @cached_property
    def full_speed_front(self) -> list[int]:
        """The places with nothing as long at full speed for as little."""
        return list(map(int, fronts(self.options, self.need)[1]))

    @cached_property
    def copying_front(self) -> list[int]:
        """The places with nothing copied as soon for as little."""
        return list(map(int, fronts(self.options, self.need)[2]))

    @cached_property
    def readiness_steps(self) -> list[Step]:
        """What more money buys in readiness."""
        return self._steps(self.readiness_front)

    @cached_property
    def full_speed_steps(self) -> list[Step]:
        """What more money buys in frames at full speed."""
        return self._steps(self.full_speed_front)

    def _steps(self, front: Sequence[int]) -> list[Step]:
        """From each place of `front` to the next that differs by what somebody would notice."""
        if not front:
            return []
        came = self._outcomes_at(front)
        found, at = [], 0
        for number in range(1, len(front)):
            if _noticed(came[at], came[number : number + 1])[0]:
                found.append(self._step(front[at], front[number]))
                at = number
        return found

    @cached_property
    def copying_steps(self) -> list[Step]:
        """What more money buys in copying: a tenth sooner, and a minute, is noticed."""
        found, front = [], self.copying_front
        at = front[0] if front else NONE
        for place in front[1:]:
            before_s, after_s = (float(self.options.copy_s[one]) for one in (at, place))
            if before_s - after_s >= max(S_IN_MINUTE, NOTICED_SHARE * before_s):
                found.append(self._step(at, place))
                at = place
        return found

    def _step(self, before: int, after: int) -> Step:
        options, full_speed = self.options, self.options.full_speed
        return Step(
            place=after,
            more_cents=int(options.price_cents[after] - options.price_cents[before]),
            more_frames=int(full_speed[after] - full_speed[before]),
            sooner_s=float(options.ready_ns[before] - options.ready_ns[after]) / NS_IN_S,
            copied_sooner_s=_sooner_s(float(options.copy_s[before]), float(options.copy_s[after])),
        )

    @cached_property
    def wasted_above_cents(self) -> int | None:
        """The price above which nothing more would be noticed in the camera; None: no prices."""
        ends = []
        for front, steps in (
            (self.readiness_front, self.readiness_steps),
            (self.full_speed_front, self.full_speed_steps),
        ):
            ends += [step.place for step in steps[-1:]] or front[:1]
        return max((int(self.options.price_cents[place]) for place in ends), default=None)


def _sooner_s(before_s: float, after_s: float) -> float:
    """How much sooner; none where no reader takes either."""
    return 0.0 if before_s == after_s else before_s - after_s


def _middle(options: Options) -> NDArray[np.int64]:
    """What most likely comes of `options` (axes as of `outcomes`, with a single draw)."""
    middle = np.zeros((len(options), 1, worst_burst.OUTCOME_LENGTH), dtype=np.int64)
    for place, values in (
        (worst_burst.FULL_SPEED, options.full_speed),
        (worst_burst.FRAMES, options.frames),
        (worst_burst.CLEAR_NS, options.clear_ns),
        (worst_burst.PICTURE_NS, options.ready_ns),
    ):
        middle[:, 0, place] = values
    return middle


def _noticed(one: NDArray[np.int64], others: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which of `others` differ noticeably from `one`, in all the draws of both."""
    found = np.zeros(len(others), dtype=bool)
    for place in (worst_burst.FULL_SPEED, worst_burst.FRAMES):
        found |= noticed(one[..., place], others[..., place])
    for place in (worst_burst.CLEAR_NS, worst_burst.PICTURE_NS):
        found |= noticed(one[..., place], others[..., place], least=NOTICED_S * NS_IN_S)
    return found
