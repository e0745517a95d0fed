"""A run: one hold of the button on one set-up, and what was seen of it.

What can be seen is the burst depth (when the shutter was heard to slow), the frames of the whole
hold (the camera's counter), the time until the card light went out, and, where there are files or
a sound, the frame rate and the sizes themselves. Each may be left out.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from engine.burst.scenario import FRAME_RATE_FPS, MOST_FRAMES, Scenario
from engine.figures.key import FIELD_OF_BODY, FIELD_OF_SLOT, Factor, FigureKey
from engine.figures.uncertainty import Uncertainty
from engine.quantities import InvalidValues, Range, out_of_range, quantity
from engine.uncertainty.sources import FILES, ROOM, Sources

FRAMES = Range(1, MOST_FRAMES, "frames")
CLEAR_S = Range(0, 7_200, "s")
FILES_MB = Range(0.001, 200_000, "MB")
WHOLE = 1 / math.sqrt(12)  # deviation that comes of counting in whole frames
REACTION_S = 0.15  # from the light going out until it is tapped, on the average of many people
THUMB_S = 0.15  # standard deviation of a tap: within 0.3 s of what is seen, two deviations
SLOWING_S = 0.3  # of a tap when it slows: the ear misses a frame first, then the thumb reacts


class Method(StrEnum):
    """How a run was measured."""

    TAP = "tap"
    FILES = "files"
    SOUND = "sound"
    TYPED = "typed"
    CLAIM = "claim"


@dataclass(frozen=True, kw_only=True)
class Accuracy:
    """Standard deviations of what is noted of a run.

    Of burst depth and frames in frames, of the light and of the hold in seconds, of frame rate and
    file size as shares. `of_all` is a share that everything else comes to: another specimen of the
    body, another scene, rounded figures. The light is noted `late_s` after it went out.
    """

    depth_frames: float
    count_frames: float
    clear_s: float
    hold_s: float
    rate: float = 0.003
    size: float = 0.01
    of_all: float = 0.03
    late_s: float = REACTION_S

    def deviations(self, observed: "Observed") -> dict[str, float]:
        """Of each figure that is noted; of rate and size those of their logarithm."""

        def of(value: float | None, deviation: float, rounding: float = 0.0) -> float:
            return math.hypot(deviation, rounding, self.of_all * (value or 0.0))

        return {
            "frames_at_full_speed": of(observed.frames_at_full_speed, self.depth_frames, WHOLE),
            "frames": of(observed.frames, self.count_frames, WHOLE),
            "clear_s": of(observed.clear_s, self.clear_s),
            "frame_rate_fps": self.rate,
            "files_mb": self.size,
        }


# A counter is read to within a frame, and who counts by ear is one early or late. Files and sounds
# have each frame. Tables of others are of another specimen and scene, and makers print round
# numbers of their best case.
ACCURACY = {
    Method.TAP: Accuracy(depth_frames=1.0, count_frames=0.6, clear_s=THUMB_S, hold_s=0.1),
    Method.FILES: Accuracy(depth_frames=0.5, count_frames=0.3, clear_s=THUMB_S, hold_s=0.01),
    Method.SOUND: Accuracy(depth_frames=0.6, count_frames=0.6, clear_s=THUMB_S, hold_s=0.02),
    Method.TYPED: Accuracy(
        depth_frames=1.5, count_frames=1.0, clear_s=0.25, hold_s=0.15, of_all=0.05
    ),
    Method.CLAIM: Accuracy(
        depth_frames=2.0, count_frames=2.0, clear_s=0.5, hold_s=0.3, of_all=0.1, late_s=0
    ),
}


LATE_FINGER_S = 0.5  # after the hold that was meant
FASTER_THAN_SET = 0.03  # share by which cameras exceed the rate that they are set to, at most
OTHER_RATE = 0.2  # on the scale of logarithms: more is another rate than that of the set-up
FAR_OFF = 2.5  # standard deviations: an error of one count in a hundred


def is_other_rate(fps: float, set_to_fps: float) -> bool:
    """Whether a burst at `fps` can't have been shot at the rate that the camera is set to."""
    return abs(math.log(fps / set_to_fps)) > OTHER_RATE


def most_frames(frame_rate_fps: float, hold_s: float, accuracy: Accuracy) -> int:
    """The most frames that somebody can have counted of a hold: the rate that is set is surer."""
    longest_s = hold_s + LATE_FINGER_S + FAR_OFF * accuracy.hold_s
    frames = frame_rate_fps * (1 + FASTER_THAN_SET) * longest_s
    return math.ceil(frames + FAR_OFF * accuracy.count_frames)


def fewest_frames(frame_rate_fps: float, hold_s: float, accuracy: Accuracy) -> int:
    """The fewest frames of a hold that did not slow: fewer are of another rate."""
    shortest_s = max(hold_s - FAR_OFF * accuracy.hold_s, 0)
    frames = frame_rate_fps * math.exp(-OTHER_RATE) * shortest_s
    return max(math.floor(frames - FAR_OFF * accuracy.count_frames), 1)


class InvalidRun(InvalidValues):
    """A run that makes no sense; fields are those of `Observed`."""


@dataclass(frozen=True, kw_only=True)
class Observed:
    """What was seen of one hold; None: it was not noted.

    `frames_at_full_speed` is the burst depth, which is `full_speed_tapped` where it follows from a
    tap at the moment of slowing; `did_not_slow` says that there was no wall in the hold. `clear_s`
    runs from finger up to light out. `frame_rate_fps` is that of the strokes at full speed,
    `files_mb` the mean size of all files of a frame together.

    Raises :class:`InvalidRun` with every fault.
    """

    frames_at_full_speed: int | None = quantity(FRAMES, default=None)
    full_speed_tapped: bool = False
    did_not_slow: bool = False
    frames: int | None = quantity(FRAMES, default=None)
    clear_s: float | None = quantity(CLEAR_S, default=None)
    frame_rate_fps: float | None = quantity(FRAME_RATE_FPS, default=None)
    files_mb: float | None = quantity(FILES_MB, default=None)

    def __post_init__(self) -> None:
        faults = out_of_range(self)
        depth, frames = self.frames_at_full_speed, self.frames
        if self.did_not_slow and depth is not None:
            faults["did_not_slow"] = "can't be said of a burst whose full speed ended"
        if depth is not None and frames is not None and depth > frames and not faults:
            faults["frames_at_full_speed"] = f"must not be more than all frames, {frames:,}"
        if faults:
            raise InvalidRun(faults)

    @property
    def is_empty(self) -> bool:
        """Whether nothing was seen that tells of buffer and cards."""
        noted = (self.frames_at_full_speed, self.frames, self.clear_s)
        return not self.did_not_slow and all(one is None for one in noted)


def accuracy_of(method: Method, observed: Observed, frame_rate_fps: float) -> Accuracy:
    """How exactly something was seen: a tapped burst depth is as sure as the tap."""
    of_method = ACCURACY[method]
    if not observed.full_speed_tapped:
        return of_method
    slowing_frames = SLOWING_S * frame_rate_fps
    return replace(of_method, depth_frames=math.hypot(of_method.depth_frames, slowing_frames))


@dataclass(frozen=True, kw_only=True)
class ObservedRun:
    """A hold on a set-up, with everything as it is assumed, and what was `observed` of it.

    `sources` say how sure the assumed numbers are, `figures` which figure each of their factors is:
    two runs on one card have the same figure for its speed, two runs of one format the same held
    size. Factors that it doesn't have are known exactly.
    """

    scenario: Scenario
    sources: Sources
    figures: Mapping[Factor, FigureKey]
    observed: Observed
    method: Method = Method.TAP
    name: str = ""

    @property
    def accuracy(self) -> Accuracy:
        """How exactly it was seen."""
        return accuracy_of(self.method, self.observed, self.scenario.frame_rate_fps)

    def uncertainty(self, factor: Factor) -> Uncertainty:
        """How sure the assumed number of `factor` is."""
        return self.sources.factors[factor]


def values_of(scenario: Scenario) -> dict[Factor, float | None]:
    """The number of each factor in MB, MB/s, seconds or frames a second."""
    values = {Factor(kind): getattr(scenario, name) for kind, name in FIELD_OF_BODY.items()}
    values[FILES] = sum(file.mb for file in scenario.files)
    values[ROOM] = 1.0
    return values | {
        Factor(kind, place): getattr(slot, name)
        for place, slot in enumerate(scenario.slots, 1)
        for kind, name in FIELD_OF_SLOT.items()
    }
