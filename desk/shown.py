"""What the Desk alone shows of a prediction: its drawings, and what it says beside them."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from django.utils.text import get_text_list

from desk.path_drawing import Box, draw_path, part_words
from engine import Result
from engine.burst.bottleneck import Bottleneck
from engine.burst.simulate import simulate
from engine.burst.wear import nearly_full, wear_sentences, worn
from engine.formats import figure
from setups.change_words import tried_words
from setups.drawing import Drawing, draw, strokes
from setups.prediction import PAUSES_S, Prediction

CURVE_WIDTH, CURVE_HEIGHT = 280, 56


@dataclass(frozen=True)
class OtherState:
    """The same burst on a card in another state: what that is, what comes of it, its strokes."""

    words: str
    shot: Result
    sustained_fps: float | None
    strokes: str


class CurvePoint(NamedTuple):
    """A burst that follows: its pause and frames in words, and its place in the small curve."""

    pause: str
    frames: str
    x: float
    y: float


@dataclass(frozen=True)
class Shown:
    """The drawings and words of a burst."""

    prediction: Prediction

    @cached_property
    def drawing(self) -> Drawing:
        """Strokes, filling and marks, over those before the change."""
        prediction = self.prediction
        return draw(prediction.shot, prediction.ranges.frames_at_full_speed, prediction.before)

    @cached_property
    def path(self) -> list[Box]:
        """The parts that the data flows through."""
        prediction = self.prediction
        narrowest = prediction.bottleneck.narrowest
        shows_encoder = prediction.knows_processor or narrowest.has_encoder
        return draw_path(prediction.shot, narrowest, shows_encoder=shows_encoder)

    @property
    def wear(self) -> list[str]:
        """What the cards in use do with a cache used up, and when they are nearly full."""
        sides = self.prediction.setup.sides
        return [
            f"{side.card}: {sentence}" if len(sides) > 1 else sentence
            for side, slot in zip(sides, self.prediction.shot.scenario.slots, strict=False)
            for sentence in wear_sentences(slot)
        ]

    @cached_property
    def other_states(self) -> list[OtherState]:
        """The burst on cards whose cache is used up, and on nearly full ones."""
        return list(self._other_states())

    def _other_states(self) -> Iterator[OtherState]:
        states = (("cache used up", worn), ("nearly full", nearly_full))
        for words, change in states:
            changed = change(self.prediction.shot.scenario)
            if changed is not None:
                shot = simulate(changed)
                fps = Bottleneck(shot).sustained_fps
                yield OtherState(words, shot, fps, strokes(shot, self.drawing.ends_s))

    @property
    def next_in_line(self) -> str:
        """What the part is called that limits once the narrowest does not; empty: nothing."""
        part = self.prediction.bottleneck.next_in_line
        words = part_words(part) if part else ""
        return f"the {words}" if words.isalpha() else words

    @cached_property
    def next_curve(self) -> list[CurvePoint]:
        """Frames at full speed of the burst that follows, by its pause; empty: nothing to tell.

        After the first pause that gives a burst as long as the one before, longer ones do as well.
        """
        bursts, depth = self.prediction.next_bursts, self.prediction.shot.frames_at_full_speed
        if not bursts or not depth:
            return []
        frames_after = dict.fromkeys(PAUSES_S, depth) | {one.pause_s: one.frames for one in bursts}
        return [
            CurvePoint(
                figure(pause_s),
                figure(frames),
                round(CURVE_WIDTH * pause_s / PAUSES_S[-1], 1),
                round(CURVE_HEIGHT * (1 - frames / depth), 1),
            )
            for pause_s, frames in frames_after.items()
        ]

    @property
    def curve_path(self) -> str:
        """The line through them, from a full buffer at finger up."""
        return f"M0 {CURVE_HEIGHT}" + "".join(f"L{one.x} {one.y}" for one in self.next_curve)

    @property
    def locked(self) -> str:
        """What the body locks while the card light is on; empty: nothing."""
        body = self.prediction.setup.body
        locks = {
            "playback": body.locks_playback,
            "menus": body.locks_menus,
            "drive mode": body.locks_drive_mode,
        }
        return get_text_list([name for name, locked in locks.items() if locked], "and")

    @property
    def tried(self) -> str:
        """What the change that is tried brings; empty: there is none."""
        return tried_words(self.prediction.tried) if self.prediction.tried else ""
