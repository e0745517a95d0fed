"""What a prediction says, in words."""

from collections.abc import Iterator

from django.template.defaultfilters import pluralize

from engine import InvalidScenario, Result
from engine.figures.key import FigureKind
from engine.formats import figure, odds
from engine.uncertainty.intervals import Confidence
from kit.numbers import words_of

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
    FigureKind.SHARE: "what the slot makes of a card is not measured; hold a burst with this card "
    "and time the light",
    FigureKind.PACE: "no burst of this format on this card was tested, and cameras differ in it; "
    "hold one and time the light",
    FigureKind.ROOM: "no burst of this format was tested, and the buffer differs with it; hold one "
    "well past the wall and count",
    FigureKind.CACHE: "the size of the card's cache is not measured; hold a long burst and count",
}


def full_speed_words(shot: Result) -> str:
    """How long full speed lasts where it ends: up to the wall, or a full card."""
    if shot.frames_at_full_speed is not None:
        depth = shot.frames_at_full_speed
        return f"{figure(depth)} frame{pluralize(depth)} at full speed"
    return f"card full after {figure(shot.frames)} frame{pluralize(shot.frames)}"


def no_wall_words(ranges: Confidence) -> str:
    """That no wall is met, or in what part of all bursts."""
    return f"no wall {no_wall_odds(ranges)}" if ranges.wall_share else "no wall in this hold"


def no_wall_odds(ranges: Confidence) -> str:
    """How often such a burst meets no wall."""
    return odds(ranges.no_wall_share, ranges.draws)


def fault_words(error: InvalidScenario) -> Iterator[str]:
    """Why figures of the kit make no burst, for somebody who knows nothing of a scenario's keys."""
    for key, fault in error.faults.items():
        name = key.rpartition(".")[2]
        yield f"{WORDS_OF_KEY.get(name, words_of(name))} {fault}."
