"""The changes that a photographer could make to a set-up, free ones and bought ones."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from heapq import nlargest
from math import inf
from urllib.parse import urlencode

from desk.address import Reading
from desk.engine_adapter import cached_mb_s, scenario_of, slot_limit_mb_s, write_speed
from desk.setup import Setup, Side
from engine import InvalidScenario, Result
from engine.levers import Lever, try_change
from engine.scene import BASE_ISO, DETAIL_OF_SCENE
from kit.models import Card, RecordingFormat

# Of a large kit only the fastest cards are tried: a slower one can bring no more.
MOST_BOUGHT = 24
LEAST_SOONER_S = 0.05  # nobody notices less

COST_OF_ARRANGEMENT = {
    "single": "one copy only, and slot 2 does nothing",
    "overflow": "one copy only; slot 2 takes over when slot 1 is full",
    "mirror": "two copies of everything, at the pace of both",
    "split": "one copy of each file, RAW and JPEG apart",
}
WORDS_OF_ARRANGEMENT = {
    "single": "to slot 1 only",
    "overflow": "to slot 1, spilling over to slot 2",
    "mirror": "the same to both slots",
    "split": "RAW to slot 1, JPEG to slot 2",
}


@dataclass(frozen=True)
class Change:
    """A set-up that differs in one thing: what it is, in words, and what it costs."""

    words: str
    cost: str
    setup: Setup

    @property
    def query(self) -> str:
        """The query of the changed set-up."""
        return urlencode(self.setup.address)


@dataclass(frozen=True)
class Tried:
    """A change and what it brings."""

    change: Change
    lever: Lever

    @property
    def gains(self) -> bool:
        """Whether it brings frames, or the light out sooner at no cost in frames."""
        frames = self.lever.gained_frames
        return frames > 0 or (frames == 0 and self.lever.sooner_s > LEAST_SOONER_S)


def try_free(reading: Reading, base: Result) -> list[Tried]:
    """Every free change that the body allows, the most frames first."""
    return _try(base, _free(reading))


def try_bought(reading: Reading, base: Result) -> list[Tried]:
    """For each slot in use, the card of the kit that brings most, if any brings something."""
    found = []
    for number, side in enumerate(reading.setup.sides):
        others = [
            replace(side, card=card, free_gb=None, write_mb_s=None)
            for card in side.cards
            if card != side.card
        ]
        changes = [
            Change(
                f"{other.card} in {side.slot}",
                _price(other.fitted),
                _with_side(reading.setup, number, other),
            )
            for other in nlargest(MOST_BOUGHT, others, key=_promise)
        ]
        found += [tried for tried in _try(base, changes)[:1] if tried.gains]
    return found


def try_perfect(reading: Reading, base: Result) -> list[Tried]:
    """For each slot in use, a made-up card that takes all the slot passes: the most money buys."""
    perfect = []
    for number, side in enumerate(reading.setup.sides):
        limit_mb_s = slot_limit_mb_s(side)
        if limit_mb_s is not None:
            setup = _with_side(reading.setup, number, replace(side, write_mb_s=limit_mb_s))
            words = f"Any card in {side.slot}"
            perfect.append(Change(words, f"the slot itself stops at {limit_mb_s:,.0f} MB/s", setup))
    return _try(base, perfect)


def _try(base: Result, changes: Iterable[Change]) -> list[Tried]:
    tried = []
    for change in changes:
        try:
            tried.append(Tried(change, try_change(base, scenario_of(change.setup))))
        except (InvalidScenario, ValueError):
            continue  # figures of the kit that contradict each other, or no card: nothing to try
    return sorted(tried, key=lambda one: one.lever.order)


def _free(reading: Reading) -> Iterator[Change]:
    yield from _formats(reading.setup)
    yield from _rates(reading.setup)
    yield from _arrangements(reading)
    yield from _conditions(reading.setup)


def _formats(setup: Setup) -> Iterator[Change]:
    splits = setup.arrangement is not None and setup.arrangement.kind == "split"
    for recording in setup.body.formats.all():
        if recording != setup.recording and (len(recording.files.all()) > 1 or not splits):
            cost = _cost_of_format(setup.recording, recording)
            yield Change(recording.name, cost, replace(setup, recording=recording))


def _rates(setup: Setup) -> Iterator[Change]:
    for rate in setup.body.rate_of_fps.values():
        if rate.fps < setup.rate.fps:
            cost = f"{rate.fps:g} moments a second to choose from, not {setup.rate.fps:g}"
            yield Change(str(rate), cost, replace(setup, rate=rate))


def _arrangements(reading: Reading) -> Iterator[Change]:
    for arrangement in reading.arrangements:
        if arrangement != reading.setup.arrangement:
            kind = arrangement.kind
            sides = reading.all_sides if kind != "single" else reading.all_sides[:1]
            words = f"Write {WORDS_OF_ARRANGEMENT[kind]}"
            setup = replace(reading.setup, arrangement=arrangement, sides=sides)
            yield Change(words, COST_OF_ARRANGEMENT[kind], setup)


def _conditions(setup: Setup) -> Iterator[Change]:
    for number, side in enumerate(setup.sides):
        if side.free_gb is not None:
            emptied = _with_side(setup, number, replace(side, free_gb=None))
            yield Change(f"Empty the card in {side.slot}", "copy it twice before", emptied)
    if setup.iso > BASE_ISO:
        cost = "a slower shutter speed, or more light"
        yield Change(f"ISO {BASE_ISO}", cost, replace(setup, iso=BASE_ISO))
    for scene, detail in DETAIL_OF_SCENE.items():
        if detail == DETAIL_OF_SCENE[setup.scene] - 1:
            yield Change(f"Over {scene}", "another background", replace(setup, scene=scene))


def _with_side(setup: Setup, number: int, side: Side) -> Setup:
    sides = list(setup.sides)
    sides[number] = side
    return replace(setup, sides=tuple(sides))


def _cost_of_format(old: RecordingFormat, new: RecordingFormat) -> str:
    old_mb, new_mb = (sum(file.file_mb for file in one.files.all()) for one in (old, new))
    percent = round(100 * abs(1 - new_mb / old_mb))
    size = f"files {percent} % {'smaller' if new_mb < old_mb else 'larger'}"
    return f"{size}, and no RAW" if old.is_raw and not new.is_raw else size


def _promise(side: Side) -> tuple[float, float]:
    """How fast a card is here at its fastest, and how cheap."""
    card = side.fitted
    fastest_mb_s = max(write_speed(side).mb_s, cached_mb_s(side) or 0.0)
    return fastest_mb_s, -float(card.price if card.price is not None else inf)


def _price(card: Card) -> str:
    return f"{card.price:,.0f} {card.currency}" if card.price is not None else "price not known"
