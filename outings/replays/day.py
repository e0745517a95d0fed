"""The pictures of a day: what was, and what would have been with other set-ups."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from functools import cached_property
from heapq import nlargest, nsmallest
from urllib.parse import urlencode

from django.utils.text import capfirst

from choose.need_form import data_of
from engine import InvalidScenario
from engine.day.frames_taken import DayAsItWas, DayBurst, day_as_it_was
from engine.day.habits import Habits, HourOfDay, need_of
from engine.day.odds import DayDifference, DrawnDay, SureSetup, draw_day, draws_of_day
from engine.day.replay import ReplayedDay
from engine.day.replay import replay as replay_day
from engine.figures.uncertainty import EXACT
from engine.formats import day
from engine.measurement.capture_times import day_of
from engine.measurement.runs import is_other_rate
from engine.quantities import MB_IN_GB
from outings.replays.pictures import PicturesOfDay
from outings.words import brings_words, clock_among, has_day
from setups.changes import Sacrifice, SetupChange, changes_of_card, free_changes
from setups.difference import independent_factors
from setups.engine_adapter import SetupFigures
from setups.pins import Pins
from setups.reader import Reading
from setups.setup import Setup

WORST_BURSTS = 10
MOST_FREE, MOST_CARDS = 6, 3  # changes that are shown: those that miss the fewest frames
PRESSES_IN_FULL = 6_000  # of a day with more, fewer are tried, so that it is answered in time


def scenario_of_day(setup: Setup, measured_fps: float | None = None) -> SureSetup:
    """A set-up whose cards are changed before they are full, at a rate that was measured.

    Raises InvalidScenario or, without a card, ValueError.
    """
    figures = SetupFigures(setup)
    scenario, sources = figures.scenario, figures.sources
    if measured_fps is not None:
        scenario = replace(scenario, frame_rate_fps=measured_fps)
        sources = replace(sources, frame_rate_fps=EXACT)
    return SureSetup(scenario, sources).with_room


@dataclass(frozen=True)
class ReplayedSetup:
    """The day on a set-up: what it is and costs in words, its bursts, and how sure that is."""

    change: SetupChange
    set_up: SureSetup
    day: ReplayedDay
    drawn: DrawnDay | None = None
    difference: DayDifference | None = None

    @property
    def is_bought(self) -> bool:
        """Whether it costs money."""
        return self.change.sacrifice is Sacrifice.MONEY

    @property
    def brings(self) -> str:
        """What it brings against the set-up that the day was shot with, in words."""
        return brings_words(self.difference) if self.difference else ""

    @property
    def order(self) -> tuple[float, ...]:
        """As every list of changes: the least sacrifice first, then the fewest frames missed."""
        return self.change.sacrifice, self.day.missed, self.change.cents


@dataclass(frozen=True)
class DayReplay:
    """A day that was shot with the set-up of `reading`, and others that are tried on it.

    `told_s` is how long bursts were held that ended with the buffer full, as far as that is told,
    by the seconds from the first frame of the day to theirs.
    """

    reading: Reading
    pictures: PicturesOfDay
    pins: Pins
    told_s: Mapping[float, float] = field(default_factory=dict)

    def work_out(self) -> None:
        """All that is found out about it, now. Raises InvalidScenario, :class:`InvalidDay`."""
        _ = self.predicted, self.others

    @property
    def setup_query(self) -> str:
        """The query of its set-up, to be kept with it."""
        return urlencode(self.reading.setup.address)

    @property
    def other_rate(self) -> float | None:
        """The rate that the files tell where it is another than the set-up's."""
        fps = self.pictures.taken.frame_rate_fps
        return fps if fps and is_other_rate(fps, self.reading.setup.rate.fps) else None

    @property
    def _measured_fps(self) -> float | None:
        """The rate that the files tell; None where another one is lower, as a hand's may be."""
        is_lower = self.other_rate and self.other_rate < self.reading.setup.rate.fps
        return None if is_lower else self.pictures.taken.frame_rate_fps

    def _sure(self, setup: Setup) -> SureSetup:
        """A set-up on this day; what it has in common with its own the files have measured."""
        was = self.reading.setup
        is_same = (setup.body.pk, setup.rate.fps) == (was.body.pk, was.rate.fps)
        sure = scenario_of_day(setup, self._measured_fps if is_same else None)
        if setup.recording != was.recording:
            return sure
        return replace(sure, sources=replace(sure.sources, files=EXACT))

    @cached_property
    def as_assumed(self) -> SureSetup:
        """The set-up that it was shot with."""
        return self._sure(self.reading.setup)

    @cached_property
    def was(self) -> DayAsItWas:
        """Its bursts; raises :class:`InvalidDay`."""
        first_s = float(self.pictures.taken.times_s[0])
        holds_s = {first_s + after_s: hold_s for after_s, hold_s in self.told_s.items()}
        return day_as_it_was(self.as_assumed.scenario, self.pictures.taken, holds_s)

    @property
    def bursts(self) -> int:
        """Bursts of several frames."""
        return self.was.several

    @cached_property
    def singles(self) -> int:
        """Frames of those that are no bursts."""
        return sum(burst.frames for burst in self.was.bursts if burst.is_single)

    @property
    def frames(self) -> int:
        """All frames."""
        return len(self.pictures.taken.mb)

    @property
    def gb(self) -> float:
        """GB of all files."""
        return float(self.pictures.taken.mb.sum()) / MB_IN_GB

    @property
    def filled(self) -> list[DayBurst]:
        """The bursts in which the buffer was full, at their end perhaps, and that missed frames."""
        return self.was.filled

    @property
    def unexplained(self) -> int:
        """How many of them the figures of the set-up don't explain."""
        return sum(not burst.is_explained for burst in self.filled)

    @property
    def missed(self) -> int:
        """Frames that it missed by that."""
        return self.was.missed

    @cached_property
    def habits(self) -> Habits:
        """How it was shot."""
        return Habits.of(self.was.bursts)

    @property
    def hours(self) -> list[tuple[str, HourOfDay]]:
        """What came together hour by hour, with when the hour begins, in words."""
        clock = self._clock("%H:%M")
        return [(clock(one.start_s), one) for one in self.habits.hours]

    def _clock(self, pattern: str) -> Callable[[float], str]:
        """What tells its moments."""
        return clock_among(self.pictures.taken.times_s[[0, -1]].tolist(), pattern)

    @property
    def on(self) -> date | None:
        """The day by the calendar, where the pictures tell it."""
        first_s = float(self.pictures.taken.times_s[0])
        return day_of(first_s) if has_day(first_s) else None

    @property
    def name(self) -> str:
        """What it may be called."""
        return day(self.on) if self.on else "A day"

    @property
    def need_address(self) -> str:
        """The address of Choose that asks for cards for such days; nothing without bursts."""
        need = need_of(self.was.bursts)
        of_setup = self.reading.setup.address
        return urlencode(of_setup | data_of(need)) if need else ""

    @property
    def longest_s(self) -> float:
        """The longest hold."""
        return max(burst.hold_s for burst in self.was.bursts)

    @cached_property
    def worst(self) -> list["WorstBurst"]:
        """The bursts that missed most, the worst first, with what the best change would miss."""
        best = self.others[0] if self.others else None
        clock = self._clock("%H:%M:%S")
        first_s, decimals = float(self.pictures.taken.times_s[0]), self.pictures.decimals
        numbered = [
            WorstBurst(
                burst,
                clock(burst.press_s),
                int(best.day.missed_of_bursts[number]) if best else None,
                round(burst.press_s - first_s, decimals),
            )
            for number, burst in enumerate(self.was.bursts)
            if burst.missed
        ]
        return nlargest(WORST_BURSTS, numbered, key=lambda one: one.burst.missed)

    @property
    def told_besides(self) -> list[tuple[float, float]]:
        """What is told of bursts that are not among the worst."""
        shown = {one.after_s for one in self.worst}
        return [pair for pair in self.told_s.items() if pair[0] not in shown]

    @cached_property
    def predicted(self) -> ReplayedSetup:
        """The set-up that it was shot with, as it is predicted."""
        as_it_was = SetupChange("As it was shot, predicted", "", self.reading.setup)
        return self._drawn(self._replayed(as_it_was, self.as_assumed), None)

    @cached_property
    def others(self) -> list[ReplayedSetup]:
        """Pinned set-ups, and of all changes that give more frames the best.

        None where the buffer was never full.
        """
        if not self.filled:
            return []
        pinned = [
            SetupChange(f"Pinned: {pin.reading.setup.name_for_any_hold}", "", pin.reading.setup)
            for pin in self.pins.all
        ]
        free = self._best(
            (
                one
                for one in free_changes(self.reading)
                if one.sacrifice is not Sacrifice.LIGHT_OR_SCENE  # which were as they were
            ),
            self._most(MOST_FREE),
        )
        sides = self.reading.setup.sides
        self.reading.costs.look_up(card for side in sides for card in side.cards)
        cards = [
            one
            for number in range(len(sides))
            for one in self._best(changes_of_card(self.reading, number), self._most(MOST_CARDS))
        ]
        found = sorted([*self._tried(pinned), *free, *cards], key=lambda one: one.order)
        return [self._drawn(one, self.predicted.drawn) for one in found]

    @property
    def advice(self) -> list[str]:
        """What would have helped most, free changes first, in a sentence each."""
        if not self.filled:
            return []
        free = next((one for one in self.others if not one.is_bought), None)
        card = next((one for one in self.others if one.is_bought), None)
        said = [f"{capfirst(one.change.words)}: {one.brings}." for one in (free, card) if one]
        return said if card else [*said, "No other card of the kit would have saved a frame."]

    def _most(self, usual: int) -> int:
        """So many changes as there is time for on a day of so many presses."""
        return max(
            1, usual * PRESSES_IN_FULL // max(len(self.was.presses.press_ns), PRESSES_IN_FULL)
        )

    def _best(self, changes: Iterable[SetupChange], most: int) -> list[ReplayedSetup]:
        gaining = (
            one for one in self._tried(changes) if one.day.frames > self.predicted.day.frames
        )
        return nsmallest(most, gaining, key=lambda one: one.order)

    def _tried(self, changes: Iterable[SetupChange]) -> Iterator[ReplayedSetup]:
        for change in changes:
            try:
                yield self._replayed(change, self._sure(change.setup))
            except (InvalidScenario, ValueError):
                continue  # figures of the kit that contradict each other, or no card

    def _replayed(self, change: SetupChange, set_up: SureSetup) -> ReplayedSetup:
        day = replay_day(set_up.scenario, self.was.presses, self.was.first_presses)
        return ReplayedSetup(change, set_up, day)

    def _drawn(self, one: ReplayedSetup, was: DrawnDay | None) -> ReplayedSetup:
        names = {
            factor: f"another {factor}"
            for factor in independent_factors(self.reading.setup, one.change.setup)
        }
        count = self._draws
        set_up = replace(one.set_up, independent=names)
        drawn = draw_day(set_up, self.was.presses, self.was.first_presses, count)
        return replace(one, drawn=drawn, difference=drawn.against(was) if was else None)

    @cached_property
    def _draws(self) -> int:
        most = 1 + MOST_FREE + MOST_CARDS * len(self.reading.setup.sides) + len(self.pins.queries)
        return draws_of_day([self.as_assumed.scenario] * most, self.was.presses)


@dataclass(frozen=True)
class WorstBurst:
    """A burst that missed frames, when it `began`, and how many the best change would miss.

    It began `after_s` from the first frame of the day on.
    """

    burst: DayBurst
    began: str
    best_missed: int | None
    after_s: float

    @property
    def may_be_told(self) -> bool:
        """Whether only the photographer knows how long it was held."""
        return self.burst.longest_s is not None

    @property
    def full_after(self) -> int:
        """The frames before the first late one; all where the buffer was full at the end."""
        depth = self.burst.frames_at_full_speed
        return self.burst.frames if depth is None else depth
