"""The changes that a photographer could make to a set-up, free ones and bought ones."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from enum import IntEnum
from functools import cached_property
from heapq import nlargest
from urllib.parse import urlencode

from engine import InvalidScenario, Result
from engine.burst.file_size import BASE_ISO, DETAIL_OF_SCENE
from engine.burst.scenario import LoadedSlot
from engine.cards.standards import EffectiveWrite
from engine.formats import figure
from engine.uncertainty.what_if import WhatIf, no_wall_write_mb_s, try_change
from kit.models import Card, RecordingFormat
from kit.models.body import WORDS_OF_ARRANGEMENT
from prices.money import Costs
from setups.change_words import details, headline
from setups.difference import SetupDifference
from setups.engine_adapter import FiguresInCommon, most_mb_s
from setups.prediction import Prediction, predict
from setups.reader import Reading
from setups.setup import Setup, Side

# Of a large kit only the fastest cards are tried: a slower one can bring no more.
MOST_BOUGHT = 24

COST_OF_ARRANGEMENT = {
    "single": "one copy only, and slot 2 does nothing",
    "overflow": "one copy only; slot 2 takes over when slot 1 is full",
    "mirror": "two copies of everything, at the pace of both",
    "split": "one copy of each file, RAW and JPEG apart",
}


class Sacrifice(IntEnum):
    """What a change gives up, the least first: every list of changes is in this order."""

    NOTHING = 0
    FILE_SIZE = 1
    FRAME_RATE = 2
    LIGHT_OR_SCENE = 3
    SECOND_COPY = 4
    KIND_OF_FILE = 5
    MONEY = 6


@dataclass(frozen=True)
class SetupChange:
    """A set-up that differs in one thing: what it is, in words, and what it costs."""

    words: str
    cost: str
    setup: Setup
    sacrifice: Sacrifice = Sacrifice.NOTHING
    cents: float = 0

    @property
    def query(self) -> str:
        """The query of the changed set-up."""
        return urlencode(self.setup.address)


@dataclass(frozen=True)
class Tried:
    """A change, what it brings, and how sure that is where it costs money; empty: certain."""

    change: SetupChange
    what_if: WhatIf
    how_sure: str = ""

    @property
    def gains(self) -> bool:
        """Whether somebody would notice that it is better."""
        return self.what_if.gains

    @property
    def headline(self) -> str:
        """The most that it brings, in words."""
        return headline(self.what_if)

    @property
    def details(self) -> list[str]:
        """What else it brings, in words."""
        return list(details(self.what_if))


@dataclass(frozen=True)
class AtMost:
    """The most that any card would bring in one slot, and what stands in the way of more."""

    words: str
    gained_frames: int
    cost: str


@dataclass(frozen=True)
class NoWallSpeed:
    """The write speed that would end the wall in four bursts of five, for one slot.

    None: no speed would.
    """

    side: Side
    needed_mb_s: float | None
    write: EffectiveWrite
    costs: Costs

    @property
    def falls_short(self) -> bool:
        """Whether this slot is slower than that."""
        return self.needed_mb_s is not None and self.write.mb_s < self.needed_mb_s

    @property
    def reached_by(self) -> Card | None:
        """The cheapest card of the kit that reaches it in this slot; unknown prices come last."""
        if self.needed_mb_s is None:
            return None
        side = self.side
        fast = [card for card in side.cards if side.usable_mb_s(card) >= self.needed_mb_s]
        return min(fast, key=self.costs.rank, default=None)


@dataclass(frozen=True)
class Changes:
    """What would change the burst that is predicted for the set-up in `reading`."""

    reading: Reading
    prediction: Prediction

    @cached_property
    def free(self) -> list[Tried]:
        """Every free change."""
        return try_free(self.reading, self.prediction.shot)

    @property
    def free_gains(self) -> list[Tried]:
        """The free changes that help."""
        return [tried for tried in self.free if tried.gains]

    @property
    def free_others(self) -> list[Tried]:
        """The free changes that don't help."""
        return [tried for tried in self.free if not tried.gains]

    @cached_property
    def bought(self) -> list[Tried]:
        """The card of the kit worth buying for each slot in use, or for both."""
        prediction = self.prediction
        slots = prediction.bottleneck.narrowest.slots
        return [
            replace(one, how_sure=SetupDifference(prediction, predict(one.change.setup)).how_sure)
            for one in try_bought(self.reading, prediction.shot, slots)
        ]

    @cached_property
    def at_most(self) -> list[AtMost]:
        """The most that any card would bring in each slot."""
        return try_any(self.reading, self.prediction.shot, self.bought)

    @cached_property
    def no_wall_speeds(self) -> list[NoWallSpeed]:
        """What each slot in use would have to take in for the burst never to end."""
        shot, sources = self.prediction.shot, self.prediction.sources
        return [
            NoWallSpeed(
                side,
                no_wall_write_mb_s(shot.scenario, sources, number),
                self.prediction.write_as_it_ends(number),
                self.reading.costs,
            )
            for number, side in enumerate(self.reading.setup.sides)
        ]


def try_free(reading: Reading, base: Result) -> list[Tried]:
    """Every free change that the body allows: the smallest sacrifice first, then by gain."""
    tried = _try(base, free_changes(reading))
    return sorted(tried, key=lambda one: (one.change.sacrifice, one.what_if.order))


def try_bought(reading: Reading, base: Result, limiting: Sequence[int]) -> list[Tried]:
    """For each slot in use, or both together where both are `limiting`, the card worth buying.

    That is the cheapest of which nobody would notice that another one brings more.
    """
    setup, found = reading.setup, []
    costs = reading.costs
    costs.look_up(card for side in setup.sides for card in side.cards)
    for number in range(len(setup.sides)):
        found += _cheapest_of_best(_try(base, changes_of_card(reading, number)))
    if len(limiting) > 1:
        both = [card for card in _fastest(setup.sides[0], costs) if card in setup.sides[1].cards]
        changes = [_with_card(setup, limiting, card, costs) for card in both]
        found += _cheapest_of_best(_try(base, changes))
    return found


def changes_of_card(reading: Reading, number: int) -> list[SetupChange]:
    """The fastest other cards that fit slot `number` of those in use, from 0 on.

    Their prices are best looked up at once, before.
    """
    setup, costs = reading.setup, reading.costs
    fastest = _fastest(setup.sides[number], costs)
    return [_with_card(setup, (number,), card, costs) for card in fastest]


def _cheapest_of_best(tried: Sequence[Tried]) -> list[Tried]:
    gaining = [one for one in tried if one.gains]
    if not gaining:
        return []
    best = min(gaining, key=lambda one: one.what_if.order)
    as_good = [one for one in gaining if not best.what_if.is_noticed_beside(one.what_if)]
    return [min(as_good, key=lambda one: one.change.cents)]


def try_any(reading: Reading, base: Result, offered: Sequence[Tried]) -> list[AtMost]:
    """For each slot in use, the most that any card would bring: one that takes all it passes.

    In a body that stalls a slower card may bring more, so that no less is said than is `offered`.
    """
    found = []
    for number, side in enumerate(reading.setup.sides):
        passes_mb_s = most_mb_s(side.slot)
        if passes_mb_s is None:
            continue
        slots = list(base.scenario.slots)
        now = slots[number]
        slots[number] = LoadedSlot(write_mb_s=passes_mb_s, overhead_s=now.overhead_s, pace=now.pace)
        gained = [try_change(base, replace(base.scenario, slots=tuple(slots))).gained_frames]
        gained += [
            one.what_if.gained_frames
            for one in offered
            if one.change.setup.sides[number] != side and _differ(one, reading) == 1
        ]
        words = f"Any card in {side.slot}"
        cost = f"the slot itself stops at {figure(passes_mb_s)} MB/s"
        found.append(AtMost(words, max(gained), cost))
    return found


def _differ(tried: Tried, reading: Reading) -> int:
    """In how many slots a change has another card."""
    sides = zip(tried.change.setup.sides, reading.setup.sides, strict=True)
    return sum(one != other for one, other in sides)


def _fastest(side: Side, costs: Costs) -> list[Card]:
    """The fastest other cards that fit, of equally fast ones the cheapest."""
    others = [card for card in side.cards if card != side.card]
    return nlargest(
        MOST_BOUGHT,
        others,
        key=lambda card: (_at_best_mb_s(side, card), -costs.rank(card)),
    )


def _with_card(setup: Setup, numbers: Sequence[int], card: Card, costs: Costs) -> SetupChange:
    """`card` in the slots of these numbers."""
    pieces = len(numbers)
    slots = " and ".join(str(setup.sides[number].slot) for number in numbers)
    for number in numbers:
        setup = _with_side(setup, number, setup.sides[number].with_card(card))
    return SetupChange(
        f"{card} in {slots}",
        costs.words(card, pieces),
        setup,
        Sacrifice.MONEY,
        costs.rank(card, pieces),
    )


def _try(base: Result, changes: Iterable[SetupChange]) -> list[Tried]:
    tried, figures = [], FiguresInCommon()
    for change in changes:
        try:
            scenario = figures.of(change.setup).scenario
            tried.append(Tried(change, try_change(base, scenario)))
        except (InvalidScenario, ValueError):
            continue  # figures of the kit that contradict each other, or no card: nothing to try
    return tried


def free_changes(reading: Reading) -> Iterator[SetupChange]:
    """Every change that the body allows and that costs no money."""
    yield from _formats(reading.setup)
    yield from _rates(reading.setup)
    yield from _arrangements(reading)
    yield from _conditions(reading.setup)


def _formats(setup: Setup) -> Iterator[SetupChange]:
    for recording in setup.body.formats.all():
        fits = setup.arrangement is None or setup.arrangement.takes(recording)
        if recording != setup.recording and fits:
            cost = _cost_of_format(setup.recording, recording)
            sacrifice = sacrifice_of_format(setup.recording, recording)
            yield SetupChange(recording.name, cost, replace(setup, recording=recording), sacrifice)


def sacrifice_of_format(old: RecordingFormat, new: RecordingFormat) -> Sacrifice:
    """What recording `new` in place of `old` gives up."""
    loses_raw = old.is_raw and not new.is_raw
    return Sacrifice.KIND_OF_FILE if loses_raw else Sacrifice.FILE_SIZE


def _rates(setup: Setup) -> Iterator[SetupChange]:
    for rate in setup.body.rate_of_fps.values():
        if rate.fps < setup.rate.fps:
            cost = f"{rate.fps:g} fps, not {setup.rate.fps:g}"
            yield SetupChange(str(rate), cost, replace(setup, rate=rate), Sacrifice.FRAME_RATE)


def _arrangements(reading: Reading) -> Iterator[SetupChange]:
    for arrangement in reading.arrangements:
        if arrangement != reading.setup.arrangement:
            kind = arrangement.kind
            sides = reading.all_sides[: arrangement.arrangement.slots_used]
            words = f"Write {WORDS_OF_ARRANGEMENT[kind]}"
            setup = replace(reading.setup, arrangement=arrangement, sides=sides)
            loses_copy = reading.setup.arranged.copies > 1
            sacrifice = Sacrifice.SECOND_COPY if loses_copy else Sacrifice.NOTHING
            yield SetupChange(words, COST_OF_ARRANGEMENT[kind], setup, sacrifice)


def _conditions(setup: Setup) -> Iterator[SetupChange]:
    for number, side in enumerate(setup.sides):
        if side.free_gb is not None:
            emptied = _with_side(setup, number, replace(side, free_gb=None))
            yield SetupChange(f"Empty the card in {side.slot}", "copy it twice before", emptied)
    if setup.iso > BASE_ISO:
        cost = "a slower shutter speed, or more light"
        lower = replace(setup, iso=BASE_ISO)
        yield SetupChange(f"ISO {BASE_ISO}", cost, lower, Sacrifice.LIGHT_OR_SCENE)
    for scene, detail in DETAIL_OF_SCENE.items():
        if detail == DETAIL_OF_SCENE[setup.scene] - 1:
            plainer = replace(setup, scene=scene)
            yield SetupChange(
                f"Over {scene}", "another background", plainer, Sacrifice.LIGHT_OR_SCENE
            )


def _with_side(setup: Setup, number: int, side: Side) -> Setup:
    sides = list(setup.sides)
    sides[number] = side
    return replace(setup, sides=tuple(sides))


def _cost_of_format(old: RecordingFormat, new: RecordingFormat) -> str:
    old_mb, new_mb = old.files_mb, new.files_mb
    percent = round(100 * abs(1 - new_mb / old_mb))
    size = f"files {percent} % {'smaller' if new_mb < old_mb else 'larger'}"
    return f"{size}, and no RAW" if old.is_raw and not new.is_raw else size


def _at_best_mb_s(side: Side, card: Card) -> float:
    """How fast `card` is here at its fastest."""
    return max(side.usable_mb_s(card), card.cache_write_mb_s or 0.0)
