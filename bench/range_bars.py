"""Ranges as bars: before the runs, now, and what the next test would leave, with the runs on top.

Places and widths are in per cent of the width.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from bench.report import BodyReport, FigureRow, PredictionRow, SeenDepth
from engine.formats import exact, figure
from engine.uncertainty.intervals import Interval
from pages.axes import round_steps

WIDTH = 100.0
NARROWEST = 0.6  # per cent: what is known nearly exactly is still seen
MOST_TICKS = 8
ROOM_AFTER = 1.06
WIDEST_RATIO = 8  # times what was assumed: the axis goes no further
AXES = {
    2: ("0.5", "0.7", "1", "1.4", "2"),
    4: ("¼", "½", "1", "2", "4"),
    WIDEST_RATIO: ("⅛", "¼", "½", "1", "2", "4", "8"),
}


@dataclass(frozen=True)
class Bar:
    """A range along the axis."""

    at: float
    width: float


@dataclass(frozen=True)
class Dot:
    """A run: `fits` the others or waits for an answer; `is_open` where it did not slow."""

    at: float
    words: str
    is_open: bool
    fits: bool


@dataclass(frozen=True)
class RangeBars:
    """The bars and runs of one row; `ghost` is what would be left after the next test."""

    before: Bar | None
    now: Bar
    middle: float
    ghost: Bar | None = None
    dots: Sequence[Dot] = ()


@dataclass(frozen=True)
class DepthChart:
    """The frames at full speed of each set-up, on one axis; the end of the axis is "no wall"."""

    rows: Sequence[PredictionRow]

    @cached_property
    def ends_frames(self) -> float:
        """The end of the axis."""
        told = [
            end
            for row in self.rows
            for depths in (row.ranges.frames_at_full_speed, row.before)
            if depths
            for end in (depths.low, depths.middle, depths.high)
            if end is not None
        ]
        seen = [one.frames for row in self.rows for one in row.seen]
        return ROOM_AFTER * max([1, *told, *seen])

    @property
    def ticks(self) -> list[tuple[str, float]]:
        """Round numbers of frames in words, and their places."""
        steps = round_steps(self.ends_frames, MOST_TICKS)
        return [(exact(frames), self._place(frames)) for frames in steps]

    @property
    def drawn(self) -> list[tuple[PredictionRow, RangeBars]]:
        """Each set-up with its bars."""
        return [(row, self._bars(row)) for row in self.rows]

    def _bars(self, row: PredictionRow) -> RangeBars:
        depths = row.ranges.frames_at_full_speed
        low, middle, high = self._places(depths)
        left = row.next.left if row.next else None
        return RangeBars(
            before=_bar(*self._places(row.before)[::2]) if row.before else None,
            now=_bar(low, high),
            middle=middle,
            ghost=None if left is None else _shrunk(low, middle, high, left),
            dots=[self._dot(one) for one in row.seen],
        )

    def _dot(self, seen: SeenDepth) -> Dot:
        frames = figure(seen.frames, "frames")
        words = f"did not slow in {frames}" if seen.did_not_slow else f"slowed after {frames}"
        return Dot(self._place(seen.frames), words, seen.did_not_slow, seen.fits)

    def _places(self, one: Interval) -> tuple[float, float, float]:
        low, middle, high = map(self._place, (one.low, one.middle, one.high))
        return low, middle, high

    def _place(self, frames: float | None) -> float:
        return WIDTH if frames is None else _rounded(WIDTH * frames / self.ends_frames)


@dataclass(frozen=True)
class FigureChart:
    """Hidden figures on one axis of ratios to what was assumed of each, on a logarithmic scale."""

    rows: Sequence[FigureRow]

    @cached_property
    def ends_ratio(self) -> int:
        """The axis goes from one part in so many to so many times what was assumed."""
        widest = max(
            (
                max(1 / _ratio(row, row.ratios.low), _ratio(row, row.ratios.high))
                for row in self.rows
            ),
            default=1.0,
        )
        return next((ends for ends in AXES if widest <= ends), WIDEST_RATIO)

    @property
    def ticks(self) -> list[tuple[str, float]]:
        """Ratios in words, and their places."""
        words = AXES[self.ends_ratio]
        return [
            (one, _rounded(WIDTH * place / (len(words) - 1))) for place, one in enumerate(words)
        ]

    @property
    def drawn(self) -> list[tuple[FigureRow, RangeBars]]:
        """Each figure with its bars."""
        return [(row, self._bars(row)) for row in self.rows]

    def _bars(self, row: FigureRow) -> RangeBars:
        ratios = row.ratios
        low, middle, high, low_before, high_before = (
            self._place(_ratio(row, one))
            for one in (
                ratios.low, ratios.middle, ratios.high, ratios.low_before, ratios.high_before,
            )
        )  # fmt: skip
        ghost = _shrunk(low, middle, high, row.next.left) if row.next else None
        return RangeBars(_bar(low_before, high_before), _bar(low, high), middle, ghost)

    def _place(self, ratio: float) -> float:
        share = math.log(ratio) / math.log(self.ends_ratio)
        return _rounded(WIDTH * (1 + min(max(share, -1.0), 1.0)) / 2)


def charts_of(report: BodyReport) -> dict[str, DepthChart | FigureChart]:
    """The charts of a report, as pages call them."""
    return {
        "depths": DepthChart(report.with_wall),
        "learnt_figures": FigureChart(report.learnt_figures),
        "other_figures": FigureChart(report.other_figures),
    }


def _ratio(row: FigureRow, ratio: float) -> float:
    """To the middle of what was assumed."""
    return ratio / row.ratios.middle_before


def _bar(low: float, high: float) -> Bar:
    width = max(high - low, NARROWEST)
    return Bar(_rounded(min(low, WIDTH - width)), _rounded(width))


def _shrunk(low: float, middle: float, high: float, share: float) -> Bar:
    return _bar(middle - share * (middle - low), middle + share * (high - middle))


def _rounded(percent: float) -> float:
    return round(percent, 2)
