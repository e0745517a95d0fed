"""Everything that the Desk says of one set-up."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property

from django.template.defaultfilters import pluralize
from django.utils.text import get_text_list

from desk.change_words import tried_words
from desk.changes import AtMost, Tried, try_any, try_bought, try_free
from desk.path_drawing import Box, draw_path, part_words
from engine import InvalidScenario, Result
from engine.burst.bottleneck import Bottleneck
from engine.burst.rates import keeps_up
from engine.burst.simulate import simulate
from engine.burst.wear import nearly_full, wear_sentences, worn
from engine.cards.standards import EffectiveWrite
from engine.figures.key import FigureKind
from engine.formats import figure, odds
from engine.quantities import NS_IN_S
from engine.uncertainty.intervals import Confidence, confidence
from engine.uncertainty.sensitivity import TooClose, too_close_to_call, widest_input
from engine.uncertainty.sources import Sources
from engine.uncertainty.what_if import WhatIf, gain, no_wall_write_mb_s
from kit.models import Card
from kit.numbers import words_of
from prices.money import Costs
from setups.drawing import Drawing, draw, strokes
from setups.engine_adapter import scenario_of, sources_of, write_speed
from setups.reader import Reading
from setups.setup import Setup, Side


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
class OtherState:
    """The same burst on a card in another state: what that is, what comes of it, its strokes."""

    words: str
    shot: Result
    sustained_fps: float | None
    strokes: str


@dataclass(frozen=True)
class Prediction:
    """A burst, its ranges and what would change it; or, in `faults`, why it can't be predicted."""

    reading: Reading
    result: Result | None = None
    before: Result | None = None
    faults: list[str] = field(default_factory=list)

    @property
    def setup(self) -> Setup:
        """The set-up that is shot."""
        return self.reading.setup

    @cached_property
    def shot(self) -> Result:
        """The burst; raises ValueError when there is none."""
        if self.result is None:
            raise ValueError("there is no burst to speak of")
        return self.result

    @cached_property
    def ranges(self) -> Confidence:
        """The ranges."""
        return confidence(self.shot.scenario, self.sources)

    @cached_property
    def sources(self) -> Sources:
        """How sure the numbers of the set-up are."""
        return sources_of(self.setup)

    @cached_property
    def bottleneck(self) -> Bottleneck:
        """What limits the burst, and how it goes on once the buffer is full."""
        return Bottleneck(self.shot)

    @property
    def keeps_up(self) -> bool:
        """Whether the camera goes on at full speed, at the low end of the range too."""
        low = self.ranges.sustained_fps.low
        return low is not None and keeps_up(low, self.shot.scenario.frame_rate_fps)

    @property
    def no_wall_odds(self) -> str:
        """How often such a burst meets no wall."""
        return odds(self.ranges.no_wall_share, self.ranges.draws)

    @property
    def full_speed_words(self) -> str:
        """How long full speed lasts: up to the wall, a full card, or in what part of all bursts."""
        depth = self.shot.frames_at_full_speed
        if depth is not None:
            return f"{figure(depth)} frame{pluralize(depth)} at full speed"
        if self.shot.card_full_s is not None:
            return f"card full after {figure(self.shot.frames)} frame{pluralize(self.shot.frames)}"
        if not self.ranges.wall_share:
            return "no wall in this hold"
        return f"no wall {self.no_wall_odds}"

    @property
    def safe_s(self) -> float | None:
        """Seconds at full speed that four bursts of five reach; None: no wall in as many."""
        frames = self.ranges.full_speed_in_most
        return None if frames is None else frames / self.shot.scenario.frame_rate_fps

    @cached_property
    def too_close(self) -> TooClose | None:
        """Whether a few per cent decide, and what they do either way."""
        return too_close_to_call(self.shot.scenario)

    @cached_property
    def widest_input(self) -> str:
        """What alone widens the ranges most, in words; empty where they are narrow."""
        factor = widest_input(self.shot.scenario, self.sources)
        return WORDS_OF_INPUT[factor.kind] if factor else ""

    @property
    def wear(self) -> list[str]:
        """What the cards in use do with a cache used up, and when they are nearly full."""
        pairs = zip(self.setup.sides, self.shot.scenario.slots, strict=False)
        return [
            f"{side.card}: {sentence}" if len(self.setup.sides) > 1 else sentence
            for side, slot in pairs
            for sentence in wear_sentences(slot)
        ]

    @cached_property
    def other_states(self) -> list[OtherState]:
        """The burst on cards whose cache is used up, and on nearly full ones."""
        return list(self._other_states())

    def _other_states(self) -> Iterator[OtherState]:
        states = (("cache used up", worn), ("nearly full", nearly_full))
        for words, change in states:
            changed = change(self.shot.scenario)
            if changed is not None:
                shot = simulate(changed)
                fps = Bottleneck(shot).sustained_fps
                yield OtherState(words, shot, fps, strokes(shot, self.drawing.ends_s))

    @cached_property
    def drawing(self) -> Drawing:
        """Strokes, filling and marks, over those before the change."""
        return draw(self.shot, self.ranges.frames_at_full_speed, self.before)

    @cached_property
    def path(self) -> list[Box]:
        """The parts that the data flows through."""
        return draw_path(self.shot, self.bottleneck.narrowest)

    @cached_property
    def free(self) -> list[Tried]:
        """Every free change."""
        return try_free(self.reading, self.shot)

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
        return try_bought(self.reading, self.shot, self.bottleneck.narrowest.slots)

    @cached_property
    def at_most(self) -> list[AtMost]:
        """The most that any card would bring in each slot."""
        return try_any(self.reading, self.shot, self.bought)

    @cached_property
    def no_wall_speeds(self) -> list[NoWallSpeed]:
        """What each slot in use would have to take in for the burst never to end."""
        return [
            NoWallSpeed(
                side,
                no_wall_write_mb_s(self.shot.scenario, self.sources, number),
                self._write_as_it_ends(number),
                self.reading.costs,
            )
            for number, side in enumerate(self.setup.sides)
        ]

    @cached_property
    def writes(self) -> list[tuple[Side, EffectiveWrite]]:
        """Each slot in use, and the speed that it writes at."""
        return [(side, write_speed(side)) for side in self.setup.sides]

    @property
    def limiting_sides(self) -> list[tuple[Side, EffectiveWrite]]:
        """The sides that everything waits for, with what they pass as the burst ends."""
        return [
            (self.setup.sides[number], self._write_as_it_ends(number))
            for number in self.bottleneck.narrowest.slots
            if number in self.shot.final_regime.write_mb_s
        ]

    def _write_as_it_ends(self, number: int) -> EffectiveWrite:
        """What slot `number`, 0 or 1, passes as the burst ends, cache used up or nearly full."""
        _, write = self.writes[number]
        mb_s = self.shot.final_regime.write_mb_s.get(number, write.mb_s)
        return write._replace(mb_s=mb_s)

    @property
    def made_mb_s(self) -> float:
        """MB/s that the sensor makes at the full frame rate."""
        sensor, *_ = self.shot.final_regime.path
        return sensor.mb_s

    @property
    def next_in_line_words(self) -> str:
        """What the part is called that limits once the narrowest does not; empty: nothing."""
        part = self.bottleneck.next_in_line
        return part_words(part) if part else ""

    @property
    def half_ready_s(self) -> float:
        """Seconds from finger up until half of memory is free again."""
        return self.shot.pause_until_free_s(0.5)

    @property
    def first_look_s(self) -> float:
        """Seconds from finger up until the first picture can be looked at."""
        if self.setup.body.locks_playback or not self.shot.frames:
            return self.shot.clear_s
        return max(0.0, int(self.shot.written_ns.min()) / NS_IN_S - self.setup.hold_s)

    @property
    def locked(self) -> str:
        """What the body locks while the card light is on, in words; empty: nothing."""
        body = self.setup.body
        locks = {
            "playback": body.locks_playback,
            "menus": body.locks_menus,
            "drive mode": body.locks_drive_mode,
        }
        return get_text_list([name for name, locked in locks.items() if locked], "and")

    @property
    def tried(self) -> WhatIf | None:
        """What the burst brings against the one before the change, if there is one."""
        return gain(self.before, self.shot) if self.before else None

    @property
    def tried_words(self) -> str:
        """The same in words."""
        return tried_words(self.tried) if self.tried else ""


WORDS_OF_KEY = {
    "memory_mb": "The buffer of the body",
    "resume_free_frames": "What the body waits for once full",
    "held_mb": "What a frame takes until it is processed",
    "write_mb_s": "The write speed",
    "free_mb": "The room on the card",
}

# What each uncertain input is called, and what narrows it.
WORDS_OF_INPUT = {
    FigureKind.FRAME_RATE: "the frame rate is not measured; time a short burst",
    FigureKind.HELD: "how much buffer a frame takes until it is processed is not measured; "
    "hold a burst well past the wall and count",
    FigureKind.FILES: "the size of files of such a scene is not certain; use your own files",
    FigureKind.BURST: "files differ much from burst to burst; use your own files of such a scene",
    FigureKind.MEMORY: "the buffer is not measured in this body; "
    "hold a burst well past the wall and count",
    FigureKind.ENCODER: "the processor is not measured; hold a burst of small files past the wall",
    FigureKind.COUPLING: "how the two slots share the work is not tested; "
    "hold a burst with one card, then with both",
    FigureKind.CARD: "the card is not measured in this body; hold a burst and time the light",
    FigureKind.SLOT: "the most that the slot passes is not measured; test it with a faster card",
    FigureKind.OVERHEAD: "the time between frames is not measured; test it with a faster card",
    FigureKind.CACHE: "the size of the card's cache is not measured; hold a long burst and count",
}


def predict(reading: Reading, before: Reading | None = None) -> Prediction:
    """The burst of the set-up in `reading`, beside the one in `before` if that can be shot."""
    if not reading.setup.complete:
        return Prediction(reading)
    try:
        result = simulate(scenario_of(reading.setup))
    except InvalidScenario as error:
        return Prediction(reading, faults=list(_in_words(error)))
    return Prediction(reading, result, _shoot(before))


def _in_words(error: InvalidScenario) -> Iterator[str]:
    """Why figures of the kit make no burst, for somebody who knows nothing of a scenario's keys."""
    for key, fault in error.faults.items():
        name = key.rpartition(".")[2]
        yield f"{WORDS_OF_KEY.get(name, words_of(name))} {fault}."


def _shoot(reading: Reading | None) -> Result | None:
    if reading is None or not reading.setup.complete:
        return None
    try:
        return simulate(scenario_of(reading.setup))
    except InvalidScenario:
        return None
