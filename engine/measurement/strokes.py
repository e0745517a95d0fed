"""The strokes of one burst: full rate, the wall, the rate after it, and how the camera stutters."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from engine.burst.scenario import FRAME_RATE_FPS

Real = NDArray[np.float64]

LATE = 0.5  # of an interval behind the full rate: more than any camera's own unevenness
NOISE = 0.12  # of an interval: what a camera may be late by without being full
SLOWER = 0.97  # of the full rate: what is faster after a late frame was no wall
LONGEST_STRETCH = 120  # frames; they tell the rate well enough
FEWEST_RUNS = 2
FEWEST_EVEN = 4  # frames, to tell the full rate from
PAUSE = 1.5  # of an interval: a longer gap is a pause between two runs
_PLACES = np.arange(LONGEST_STRETCH, dtype=np.float64)
LONG_PAUSE = 8  # intervals: focus or a full buffer, after which some cameras fire a whole run again


class _Stretch(NamedTuple):
    """Strokes that a straight line fits, by least squares; the longest comes last in order."""

    frames: int
    interval_s: float
    start: int


@dataclass(frozen=True)
class Strokes:
    """Moments in seconds from the first frame on, in order, known to within `resolution_s`."""

    times_s: tuple[float, ...]
    resolution_s: float = 0.01

    def __post_init__(self) -> None:
        gaps = np.diff(self.times_s)
        if len(self.times_s) < 2 or not np.all(np.isfinite(gaps)) or np.any(gaps < 0):
            raise ValueError("strokes are two moments or more, in order")

    @cached_property
    def interval_s(self) -> float:
        """From one frame to the next at full speed: over the first even stretch.

        A longer stretch tells it better where it is as fast, as far as one can tell.
        """
        stretches = list(self._stretches())
        first = next((one for one in stretches if one.frames >= FEWEST_EVEN), stretches[0])
        unsure_s = self._even_s(first) + self.resolution_s / (first.frames - 1)
        even = max(one for one in stretches if one is first or one.interval_s <= unsure_s)
        return max(self._even_s(even), 1 / FRAME_RATE_FPS.highest)

    def _even_s(self, stretch: "_Stretch") -> float:
        """The median slope (Theil and Sen): a last frame that is late doesn't change it.

        Of frames that are well apart: between near ones the last digit of the times decides.
        """
        times = np.array(self.times_s[stretch.start : stretch.start + stretch.frames])
        first, second = np.triu_indices(len(times), max(1, len(times) // 4))
        return float(np.median((times[second] - times[first]) / (second - first)))

    @property
    def frame_rate_fps(self) -> float:
        """Frames a second at full speed."""
        return 1 / self.interval_s

    @cached_property
    def wall(self) -> int | None:
        """How many frames were taken before the first that was refused; None: no wall.

        One late frame after which all goes on at the full rate is no wall: the camera waited for
        focus or light. Nor is the last frame, after which nothing goes on.
        """
        times, start = np.array(self.times_s), 0
        while late := self._first_late(self.interval_s, start):
            start += late
            after_s = times[-1] - times[start] - self.resolution_s
            if len(times) - 1 - start < SLOWER * self.frame_rate_fps * after_s:
                return start
        return None

    @property
    def slowed(self) -> bool | None:
        """Whether full speed ended in the burst; None where its last frame alone was late.

        Nor can it be told where there is one long pause, and all goes on as before.
        """
        if self.wall is not None:
            return True
        is_last_late = self._first_late(self.interval_s, self.frames - 2)
        longest_s = float(np.diff(self.times_s).max())
        return None if is_last_late or longest_s > LONG_PAUSE * self.interval_s else False

    @property
    def frames(self) -> int:
        """How many frames."""
        return len(self.times_s)

    @cached_property
    def sustained_fps(self) -> float | None:
        """Frames a second after the wall, over whole runs; None where none can be told."""
        if self.wall is None:
            return None
        after, starts = np.array(self.times_s[self.wall :]), self._run_starts
        last = starts[-1] if len(starts) > 1 else len(after) - 1
        span_s = after[last] - after[0]
        return float(last / span_s) if span_s > 0 else None

    @cached_property
    def resume_free_frames(self) -> int | None:
        """For how many frames there was room before it fired again once full; None: too few runs.

        While a run of n frames goes on, others are written: room for n (1 - r/f) was there at its
        start, r being the rate after the wall and f the full one.
        """
        runs, fps = np.diff(self._run_starts), self.sustained_fps
        if len(runs) < FEWEST_RUNS or fps is None:
            return None
        return max(1, round(float(np.median(runs)) * (1 - fps / self.frame_rate_fps)))

    @cached_property
    def _run_starts(self) -> NDArray[np.intp]:
        """The frames after the wall, counted from it, that come after a pause."""
        gaps = np.diff(self.times_s[self.wall :])
        pauses = np.flatnonzero(gaps > PAUSE * self.interval_s + self.resolution_s) + 1
        return np.concatenate([[0], pauses])

    def _stretches(self) -> Iterator["_Stretch"]:
        """Each stretch that a straight line fits, from the start on."""
        times, start = np.array(self.times_s), 0
        while start < len(times) - 1:
            end, even_s = start + 2, float(times[start + 1] - times[start])
            for stop in range(start + 3, min(start + LONGEST_STRETCH, len(times)) + 1):
                part = times[start:stop]
                slope, apart = _line_of(part)
                if apart > NOISE * slope + 0.6 * self.resolution_s:
                    break
                end, even_s = stop, slope
            yield _Stretch(end - start, even_s, start)
            start = end - 1

    def _first_late(self, interval_s: float, start: int = 0) -> int | None:
        """Frames from `start` on that keep to an interval, before one that does not.

        The lateness adds up; where it is too large, it is traced back to the frame it began with.
        """
        times = np.array(self.times_s[start:]) - self.times_s[start]
        late = times - interval_s * np.arange(len(times))
        late -= np.minimum.accumulate(late)
        too_late = np.flatnonzero(late > LATE * interval_s + self.resolution_s)
        if not len(too_late):
            return None
        noise = NOISE * interval_s + self.resolution_s
        early = np.flatnonzero(late[: too_late[0]] <= noise)
        return int(early[-1]) + 1 if len(early) else int(too_late[0])


def _line_of(values: Real) -> tuple[float, float]:
    """The slope of the line that fits evenly spaced values best, and how far one is from it."""
    places = _PLACES[: len(values)] - (len(values) - 1) / 2
    around = values - values.mean()
    slope = float(places @ around / (places @ places))
    return slope, float(np.abs(around - slope * places).max())


def counted(times_s: Sequence[float], resolution_s: float) -> Strokes:
    """Strokes from any moments, the first of them being 0."""
    first = min(times_s)
    return Strokes(tuple(sorted(time - first for time in times_s)), resolution_s)
