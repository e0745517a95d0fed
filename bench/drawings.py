"""Bursts drawn: strokes, a run above its prediction, the track record."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from django.template.defaultfilters import pluralize

from bench.measured import NAMES
from bench.models import Run
from engine import Result
from engine.formats import figure, signed
from engine.measurement.track_record import TrackRecord
from engine.quantities import NS_IN_S

WIDTH, HEIGHT = 1_000, 40
MOST_PERCENT = 50  # errors are drawn up to
ROOM_AFTER = 1.02
CLOSEST = 1.5  # units: more strokes than fit are drawn as a bar


def stroke_path(
    times_s: Sequence[float], from_s: float, lasts_s: float, height: int = HEIGHT
) -> str:
    """A stroke at each moment, across the width."""
    places = (WIDTH * (moment - from_s) / lasts_s for moment in times_s)
    return " ".join(f"M{place:.1f} 0V{height}" for place in places)


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
