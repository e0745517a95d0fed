"""What one set-up does: its burst, how sure that is, and what limits it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

from engine import InvalidScenario, Result
from engine.burst.bottleneck import Bottleneck
from engine.burst.rates import keeps_up
from engine.burst.scenario import Hold
from engine.burst.simulate import simulate
from engine.cards.standards import EffectiveWrite
from engine.figures.figure import Figure
from engine.figures.key import Factor
from engine.quantities import NS_IN_S
from engine.uncertainty.intervals import Confidence, as_counted, confidence
from engine.uncertainty.sensitivity import TooClose, too_close_to_call, widest_input
from engine.uncertainty.sources import Sources
from engine.uncertainty.what_if import WhatIf, gain
from setups import prediction_words as words
from setups.engine_adapter import SetupFigures, scenario_of, sources_of, write_speed
from setups.setup import Setup, Side
from setups.words import ready_words

PAUSES_S = (2.0, 5.0, 10.0)  # until the next burst of an action that goes on


class NextBurst(NamedTuple):
    """A burst that begins so many seconds after the first, and its frames at full speed."""

    pause_s: float
    frames: int


@dataclass(frozen=True)
class Prediction:
    """The burst of a set-up and its ranges; or, in `faults`, why it can't be predicted.

    `before` is the burst of the set-up before a change.
    """

    setup: Setup
    result: Result | None = None
    before: Result | None = None
    faults: Sequence[str] = ()

    @cached_property
    def shot(self) -> Result:
        """The burst; raises ValueError when there is none."""
        if self.result is None:
            raise ValueError("there is no burst to speak of")
        return self.result

    @cached_property
    def ranges(self) -> Confidence:
        """The ranges."""
        return as_counted(confidence(self.shot.scenario, self.sources), self.shot.frames_due)

    @cached_property
    def sources(self) -> Sources:
        """How sure the numbers of the set-up are."""
        return sources_of(self.setup)

    @cached_property
    def bottleneck(self) -> Bottleneck:
        """What limits the burst, and how it goes on once the buffer is full."""
        return Bottleneck(self.shot)

    @property
    def sustained_fps(self) -> float | None:
        """Frames a second once the buffer is full; None: as fast as before."""
        return self.bottleneck.sustained_fps

    @property
    def keeps_up(self) -> bool:
        """Whether the camera goes on at full speed, at the low end of the range too."""
        low = self.ranges.sustained_fps.low
        return low is not None and keeps_up(low, self.shot.scenario.frame_rate_fps)

    @property
    def no_wall_odds(self) -> str:
        """How often such a burst meets no wall, in words."""
        return words.no_wall_odds(self.ranges)

    @property
    def full_speed_words(self) -> str:
        """How long full speed lasts."""
        if self.shot.frames_at_full_speed is None and self.shot.card_full_s is None:
            return words.no_wall_words(self.ranges)
        return words.full_speed_words(self.shot)

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
    def widest_factor(self) -> Factor | None:
        """What alone widens the ranges most; None where they are narrow."""
        return widest_input(self.shot.scenario, self.sources)

    @property
    def widest_input(self) -> str:
        """The same in words, with what would narrow it; empty where they are narrow."""
        return words.WORDS_OF_INPUT[self.widest_factor.kind] if self.widest_factor else ""

    @cached_property
    def writes(self) -> list[tuple[Side, EffectiveWrite]]:
        """Each slot in use, and the speed that it writes at."""
        return [(side, write_speed(side)) for side in self.setup.sides]

    @property
    def limiting_sides(self) -> list[tuple[Side, EffectiveWrite]]:
        """The sides that everything waits for, with what they pass as the burst ends."""
        return [
            (self.setup.sides[number], self.write_as_it_ends(number))
            for number in self.bottleneck.narrowest.slots
            if number in self.shot.final_regime.write_mb_s
        ]

    def write_as_it_ends(self, number: int) -> EffectiveWrite:
        """What slot `number`, 0 or 1, passes as the burst ends, cache used up or nearly full."""
        _, write = self.writes[number]
        mb_s = self.shot.final_regime.write_mb_s.get(number, write.mb_s)
        return write._replace(mb_s=mb_s)

    @cached_property
    def processor(self) -> Figure:
        """How many frames a second the processor finishes, estimated where nobody knows."""
        return SetupFigures(self.setup).processor

    @property
    def knows_processor(self) -> bool:
        """Whether anybody knows how fast the processor is in its format."""
        return self.setup.recording.processor is not None

    @property
    def made_mb_s(self) -> float:
        """MB/s that the sensor makes at the full frame rate."""
        sensor, *_ = self.shot.final_regime.path
        return sensor.mb_s

    @property
    def ready_words(self) -> str:
        """When the buffer is ready again."""
        return ready_words(self.shot)

    @cached_property
    def next_bursts(self) -> list[NextBurst]:
        """How long a burst is at full speed that follows the first, up to one as long.

        Held no longer than full speed lasted at first; none where that had no end, or the card is
        full.
        """
        scenario, depth = self.shot.scenario, self.shot.frames_at_full_speed
        found: list[NextBurst] = []
        if not depth or self.shot.card_full_s is not None:
            return found
        for pause_s in PAUSES_S:
            press_s, hold_s = scenario.hold_s + pause_s, depth / scenario.frame_rate_fps
            again = Hold(press_s=press_s, hold_s=hold_s)
            both = simulate(replace(scenario, later_holds=(again,)))
            reached = both.full_speed_frames_of(both.holds[1])
            frames = both.holds[1].frames if reached is None else reached
            found.append(NextBurst(pause_s, min(frames, depth)))
            if frames >= depth:
                break
        return found

    @property
    def first_look_s(self) -> float:
        """Seconds from finger up until the first picture can be looked at."""
        if self.setup.body.locks_playback or not self.shot.frames:
            return self.shot.clear_s
        return max(0.0, int(self.shot.written_ns.min()) / NS_IN_S - self.setup.hold_s)

    @property
    def tried(self) -> WhatIf | None:
        """What the burst brings against the one before the change, if there is one."""
        return gain(self.before, self.shot) if self.before else None


def predict(setup: Setup, before: Setup | None = None) -> Prediction:
    """The burst of `setup`, beside that of the one `before` a change if that can be shot."""
    if not setup.complete:
        return Prediction(setup)
    try:
        result = simulate(scenario_of(setup))
    except InvalidScenario as error:
        return Prediction(setup, faults=list(words.fault_words(error)))
    return Prediction(setup, result, predict(before).result if before else None)
