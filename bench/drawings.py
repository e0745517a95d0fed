"""Bursts drawn: strokes that were measured, a run above its prediction, the track record."""

import json
import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from statistics import fmean, pstdev

from django.template.defaultfilters import pluralize

from bench.from_files import CAMERA, ENDINGS
from bench.measured import NAMES
from bench.models import Run
from engine import Result
from engine.formats import figure, signed
from engine.measurement.capture_times import Burst, day_of
from engine.measurement.shutter_sounds import Heard
from engine.measurement.strokes import Strokes
from engine.measurement.track_record import TrackRecord
from engine.quantities import NS_IN_S
from engine.typed_numbers import as_typed

WIDTH, HEIGHT = 1_000, 40
MARK_HEIGHT = 16  # so that what was heard is seen below the marks
ROW_S = 4.0  # of a sound: strokes a few pixels apart, so that one of them can be pointed at
SOUND_STEP_S = 0.008
LOUDEST = 9
MOST_PERCENT = 50  # errors are drawn up to
DIGITS = 4
ROOM_AFTER = 1.02
CLOSEST = 1.5  # units: more strokes than fit are drawn as a bar


@dataclass(frozen=True)
class Sizes:
    """Files of one kind: their mean size in MB, and the standard deviation around it."""

    ending: str
    mean_mb: float
    deviation_mb: float


@dataclass(frozen=True)
class FoundBurst:
    """A burst that was found among files or in a sound, as a page shows it.

    `sizes`, `mean_mb`, `is_covered`, the `camera` and the `day` are known where there are files.
    """

    method: str
    name: str
    times_s: Sequence[float]
    strokes: Strokes | None
    mean_mb: float | None = None
    is_covered: bool = False
    sizes: Sequence["Sizes"] = ()
    camera: str = ""
    day: str = ""

    @classmethod
    def of_files(cls, burst: Burst) -> "FoundBurst":
        """One among files; without strokes where these have whole seconds only."""
        first = burst.frames[0][0]
        first_s = first.taken_s
        return cls(
            "files",
            burst.first_name,
            [files[0].taken_s - first_s for files in burst.frames],
            burst.strokes if burst.has_strokes else None,
            burst.mean_mb,
            burst.is_covered,
            [Sizes(end, fmean(mb), pstdev(mb)) for end, mb in burst.mb_of_ending.items()],
            first.body,
            day_of(first_s).isoformat(),
        )

    @property
    def lasted_s(self) -> float:
        """From the first frame to the last."""
        return self.times_s[-1] - self.times_s[0]

    @cached_property
    def path(self) -> str:
        """A stroke for each frame, across the width."""
        return stroke_path(self.times_s, self.times_s[0], self.lasted_s or 1)

    @property
    def filled(self) -> dict[str, str]:
        """The fields of a run's form, filled in."""
        told = {"method": self.method, "frames": str(len(self.times_s))}
        if self.mean_mb is not None:
            told["files_mb"] = as_typed(round(self.mean_mb, 2))
        if self.is_covered:
            told["covered"] = "on"
        if self.day:
            told["shot_on"] = self.day
            told |= {CAMERA: self.camera, ENDINGS: ",".join(one.ending for one in self.sizes)}
        if strokes := self.strokes:
            told["hold_s"] = as_typed(round(self.lasted_s + strokes.interval_s / 2, 2))
            told["frame_rate_fps"] = as_typed(round(strokes.frame_rate_fps, 2))
            told["strokes_s"] = json.dumps([round(one, DIGITS) for one in strokes.times_s])
            if strokes.slowed:
                told["frames_at_full_speed"] = str(strokes.wall)
            elif strokes.slowed is False:
                told["did_not_slow"] = "on"
        return told


@dataclass(frozen=True)
class FoundFolder:
    """All bursts of a folder: did they ever fill the buffer?"""

    bursts: Sequence[FoundBurst]

    @property
    def filled(self) -> int:
        """How many bursts slowed."""
        return sum(one.strokes is not None and one.strokes.wall is not None for one in self.bursts)

    @property
    def longest(self) -> int:
        """The most frames that one of them has."""
        return max((len(one.times_s) for one in self.bursts), default=0)

    @property
    def sizes(self) -> list[Sizes]:
        """The mean size of each kind of file in several bursts, and how much bursts differ."""
        means: dict[str, list[float]] = defaultdict(list)
        for burst in self.bursts:
            for one in burst.sizes:
                means[one.ending].append(one.mean_mb)
        return [
            Sizes(ending, fmean(found), pstdev(found))
            for ending, found in means.items()
            if len(found) > 1
        ]


@dataclass(frozen=True)
class SoundRow:
    """A few seconds of a sound: its loudness and its strokes."""

    from_s: float
    strokes: str
    loudness: str


@dataclass(frozen=True)
class SoundDrawing:
    """A sound in rows of ROW_S, from a little before the first stroke to a little after the last.

    `loudness` has a digit for each SOUND_STEP_S.
    """

    times_s: Sequence[float]
    loudness: str = ""
    row_s: float = field(default=ROW_S, init=False)

    @cached_property
    def rows(self) -> list[SoundRow]:
        """The rows."""
        if not self.times_s:
            return []
        first = math.floor(max(self.times_s[0] - 0.25, 0))
        count = max(1, math.ceil((self.times_s[-1] + 0.25 - first) / ROW_S))
        return [self._row(first + place * ROW_S) for place in range(count)]

    def _row(self, from_s: float) -> SoundRow:
        here = [one for one in self.times_s if from_s <= one < from_s + ROW_S]
        first, last = (round(moment / SOUND_STEP_S) for moment in (from_s, from_s + ROW_S))
        marks = stroke_path(here, from_s, ROW_S, MARK_HEIGHT)
        return SoundRow(from_s, marks, _hill(self.loudness[first:last]))


def loudness_digits(heard: Heard) -> str:
    """How loud a sound is, on a scale of ratios, in digits from 0 to 9."""
    each = max(1, round(SOUND_STEP_S / heard.step_s))
    peaks = [
        float(heard.loudness[place : place + each].max())
        for place in range(0, len(heard.loudness), each)
    ]
    low, high = sorted(peaks)[len(peaks) // 3], max(peaks)
    if not 0 < low < high:
        return "0" * len(peaks)
    scale = LOUDEST / math.log(high / low)
    levels = (scale * math.log(max(peak, low) / low) for peak in peaks)
    return "".join(str(min(round(level), LOUDEST)) for level in levels)


def stroke_path(
    times_s: Sequence[float], from_s: float, lasts_s: float, height: int = HEIGHT
) -> str:
    """A stroke at each moment, across the width."""
    places = (WIDTH * (moment - from_s) / lasts_s for moment in times_s)
    return " ".join(f"M{place:.1f} 0V{height}" for place in places)


def _hill(digits: str) -> str:
    """A filled shape as high as the digits say."""
    if not digits.isascii() or not digits.isdigit():
        return ""
    step = WIDTH * SOUND_STEP_S / ROW_S
    tops = "".join(
        f"V{HEIGHT - HEIGHT * int(digit) / LOUDEST:.0f}H{step * place:.0f}"
        for place, digit in enumerate(digits, 1)
    )
    return f"M0 {HEIGHT}{tops}V{HEIGHT}Z"


@dataclass(frozen=True)
class Moment:
    """A moment on the axis: its place in units of WIDTH, its kind for the colour, and words."""

    kind: str
    at: float
    words: str


@dataclass(frozen=True)
class BurstRow:
    """A burst as strokes, or as bars where they are not known or too many; and its moments."""

    strokes: str
    bars: list[tuple[float, float]]
    moments: list[Moment]


@dataclass(frozen=True)
class RunDrawing:
    """What was measured, and the burst that is predicted for the same set-up, called `name`."""

    name: str
    run: Run
    hold_s: float
    fps: float
    result: Result | None

    @property
    def ends_s(self) -> float:
        """The end of the axis."""
        measured = self.hold_s + (self.run.clear_s or 0)
        predicted = self.result.light_out_s if self.result else 0
        return max(measured, predicted) * ROOM_AFTER

    @property
    def measured(self) -> BurstRow:
        """The run."""
        run = self.run
        full_s = None
        if run.frames_at_full_speed is not None:
            full_s = run.frames_at_full_speed / (run.frame_rate_fps or self.fps)
        light_s = None if run.clear_s is None else self.hold_s + run.clear_s
        return self._row(run.strokes_s, full_s, run.frames_at_full_speed, light_s)

    @property
    def predicted(self) -> BurstRow | None:
        """The burst by the figures of the kit as they are now."""
        if self.result is None:
            return None
        depth = self.result.frames_at_full_speed
        full_s = None if depth is None else depth / self.fps
        times = [int(taken) / NS_IN_S for taken in self.result.taken_ns]
        return self._row(times, full_s, depth, self.result.light_out_s)

    def _row(
        self, times: list[float], full_s: float | None, depth: int | None, light_s: float | None
    ) -> BurstRow:
        scale = WIDTH / self.ends_s
        fit = len(times) * CLOSEST < WIDTH * (self.hold_s / self.ends_s)
        bars = [] if times and fit else [(0.0, round((full_s or self.hold_s) * scale, 1))]
        return BurstRow(
            stroke_path(times, 0, self.ends_s) if times and fit else "",
            bars,
            [
                Moment(kind, round(at_s * scale, 1), words)
                for kind, at_s, words in self._moments(full_s, depth, light_s)
            ],
        )

    def _moments(
        self, full_s: float | None, depth: int | None, light_s: float | None
    ) -> Iterator[tuple[str, float, str]]:
        if full_s is not None:
            frames = f"{figure(depth or 0)} frame{pluralize(depth or 0)}"
            yield "wall", full_s, f"slowed after {frames}, {figure(full_s, 's')}"
        yield "up", self.hold_s, f"finger up at {figure(self.hold_s, 's')}"
        if light_s is not None:
            yield "light", light_s, f"light out at {figure(light_s, 's')}"


@dataclass(frozen=True)
class ErrorLine:
    """One error as a line from the middle of a box of 1,000 by 80 units, and in words."""

    at: float
    end: float
    is_within: bool
    words: str


def error_lines(record: TrackRecord) -> list[ErrorLine]:
    """The errors of predictions, in the order of their runs."""
    figures = [one for one in record.of_figures if one.off_percent is not None]
    lines = []
    for place, one in enumerate(figures, 1):
        off = one.off_percent or 0.0
        height = max(-1.0, min(1.0, off / MOST_PERCENT)) * 38
        at = round(WIDTH * place / (len(figures) + 1), 1)
        words = f"{NAMES[one.key]} {signed(off)} %"
        lines.append(ErrorLine(at, round(40 - height, 1), one.is_within, words))
    return lines
