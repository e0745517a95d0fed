"""What a single run says by itself, with pencil and paper (docs/model.md, working backwards)."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.formats import figure
from engine.measurement.runs import Accuracy, Observed
from engine.quantities import HIGH, LOW

Real = NDArray[np.float64]

DRAWS = 1_000
NAMES = ("frames_at_full_speed", "frames", "clear_s", "hold_s")
_random = np.random.Generator(np.random.PCG64(3))
NORMALS = _random.standard_normal((len(NAMES), DRAWS))
NOT_YET = _random.random(DRAWS)  # of a frame
SHORTEST_S = 0.01


@dataclass(frozen=True, eq=False)
class Derived:
    """A figure that follows from what was noted, before those from what may have been seen."""

    figures: Real

    @property
    def value(self) -> float:
        """The figure."""
        return float(self.figures[0])

    @property
    def low(self) -> float:
        """The lower end of its 80 % range."""
        return self._ends[0]

    @property
    def high(self) -> float:
        """The upper end."""
        return self._ends[1]

    def words(self, unit: str) -> str:
        """The figure with its unit, and its range where that says more."""
        low, high = figure(self.low), figure(self.high)
        range_words = f" ({low} to {high})" if low != high else ""
        return f"{figure(self.value, unit)}{range_words}"

    @cached_property
    def _ends(self) -> tuple[float, float]:
        low, high = np.quantile(self.figures[1:], (LOW, HIGH))
        return float(low), float(high)


@dataclass(frozen=True)
class ByHand:
    """One hold of `hold_s` at `frame_rate_fps`, what was seen of it, and how exactly.

    Each figure is worked out from what was noted, and DRAWS times more from what may have been seen
    in truth, errors being normal.
    """

    observed: Observed
    frame_rate_fps: float
    hold_s: float
    accuracy: Accuracy

    @property
    def sustained_fps(self) -> Derived | None:
        """Frames a second once the buffer is full; None where what was seen does not tell."""
        return None if self._sustained_fps is None else Derived(self._sustained_fps)

    @property
    def buffer_frames(self) -> Derived | None:
        """Frames that the buffer holds: F - r T, and up to one more that found no room yet."""
        fps = self._sustained_fps
        if fps is None or fps[0] >= self.frame_rate_fps:
            return None
        held = self._noted("frames") - fps * self._noted("hold_s")
        return Derived(np.maximum(held + np.concatenate([[0.0], NOT_YET]), 0.0))

    @property
    def sentences(self) -> list[str]:
        """What it comes to, and what one more observation would add."""
        seen, told = self.observed, []
        if self._was_full and (fps := self.sustained_fps):
            told.append(f"It writes {fps.words('fps')} once the buffer is full.")
        if self._was_full and (frames := self.buffer_frames):
            told.append(f"The buffer holds about {frames.words('frames')}.")
        if seen.frames is None:
            told.append("The frames of the camera's counter would tell the rate once it is full.")
        elif seen.clear_s is None and not seen.did_not_slow:
            told.append("The moment of light out would tell the rate and the buffer on their own.")
        elif seen.frames_at_full_speed is None and not seen.did_not_slow:
            told.append("The moment at which it slowed would check this.")
        return told

    @property
    def _was_full(self) -> bool:
        """Whether the buffer was full: it slowed, and a frame that was due is missing."""
        frames = self.observed.frames
        due = self.frame_rate_fps * self.hold_s
        return not self.observed.did_not_slow and (frames is None or frames < int(due))

    @cached_property
    def _sustained_fps(self) -> Real | None:
        """All that was taken went to the card.

        From frames and light out F / (T + C); from frames and the wall (F - N) / (T - N / f).
        """
        seen = self.observed
        if seen.frames is None or seen.did_not_slow:
            return None
        frames, hold_s = self._noted("frames"), self._noted("hold_s")
        if seen.clear_s is None:
            if seen.frames_at_full_speed is None:
                return None
            depth = self._noted("frames_at_full_speed")
            frames, writing_s = frames - depth, hold_s - depth / self.frame_rate_fps
        else:
            writing_s = hold_s + self._noted("clear_s")
        if writing_s[0] <= 0:
            return None
        return np.maximum(frames, 0.0) / np.maximum(writing_s, SHORTEST_S)

    def _noted(self, name: str) -> Real:
        """What was noted of `name`, before what may have been seen in truth."""
        if name == "hold_s":
            value, deviation = self.hold_s, self.accuracy.hold_s
        else:
            value = float(getattr(self.observed, name))
            deviation = self.accuracy.deviations(self.observed)[name]
        return np.concatenate([[value], value + deviation * NORMALS[NAMES.index(name)]])
