"""The burst as shapes: where the strokes, the filling and the marks lie on their time axis.

Shapes are drawn in a box of WIDTH by STROKES_HEIGHT or MEMORY_HEIGHT units that the page
stretches to its width; marks and ticks carry their place along the axis in per cent.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engine import Result
from engine.quantities import NS_IN_S
from engine.uncertainty.intervals import Interval
from pages.axes import round_steps

WIDTH = 1000
STROKES_HEIGHT = 60
MEMORY_HEIGHT = 110
ROOM_AFTER = 1.04  # the axis goes a little past the last mark
CLOSEST_STROKES = 2.5  # units; strokes closer than this merge into columns
WIDEST_STROKE = 4.0
NARROWEST_COLUMN = 4  # units
FRAMES_IN_COLUMN = 8  # due ones, at least, so that the share caught says something
MOST_STEPS = 1200  # memory that changes more often is drawn by its peak in each column
MOST_TICKS = 8
NARROWEST_BAND = 1.0  # per cent: a narrower range is no wider than the line of the wall
LABEL_TURNS_AT = 70  # per cent: from here on a label stands left of its mark

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Mark:
    """A moment on the axis, `percent` of the way along it.

    Its line starts at `top`, and its label stands at `label_y`, a height that no other mark uses,
    so that labels never meet however close the moments are.
    """

    name: str
    words: str
    percent: float
    top: int
    label_y: int

    @property
    def turned(self) -> bool:
        """Whether the label stands to the left of the mark."""
        return self.percent > LABEL_TURNS_AT


@dataclass(frozen=True)
class Drawing:
    """Everything that the page's SVG needs."""

    taken: str
    missed: str
    merged: bool
    memory: str
    held_down: float
    ends_s: float
    ticks: list[tuple[float, float]]
    marks: list[Mark]
    wall_band: tuple[float, float] | None
    before: "Ghost | None"
    label_turns_at: int = LABEL_TURNS_AT


@dataclass(frozen=True)
class Ghost:
    """The strokes and the filling of the set-up before a change, on the same axis."""

    taken: str
    memory: str


def draw(
    result: Result,
    depths: Interval | None = None,
    before: Result | None = None,
    ends_s: float | None = None,
) -> Drawing:
    """The drawing of one burst, a few tens of kB whatever its length.

    `depths` is the range of its burst depth, shown as a band around the wall; `before` is the burst
    before a change, laid over it as a ghost; `ends_s` is the end of the axis, where it is shared.
    """
    hold_s = result.scenario.hold_s
    if ends_s is None:
        ends_s = axis_end_s(result, before)
    scale = WIDTH / ends_s
    merged, taken, missed = _shots(result, scale)
    return Drawing(
        taken=taken,
        missed=missed,
        merged=merged,
        memory=_memory(result, scale),
        held_down=round(hold_s * scale, 1),
        ends_s=round(ends_s, 3),
        ticks=[(tick_s, percent_of(tick_s, ends_s)) for tick_s in round_steps(ends_s, MOST_TICKS)],
        marks=list(_marks(result, ends_s)),
        wall_band=_wall_band(result, depths, ends_s),
        before=Ghost(_shots(before, scale)[1], _memory(before, scale)) if before else None,
    )


def strokes(result: Result, ends_s: float) -> str:
    """The strokes of a burst alone, on an axis that ends at `ends_s`."""
    _, taken, _ = _shots(result, WIDTH / ends_s)
    return taken


def axis_end_s(*results: Result | None) -> float:
    """Where an axis ends that has room for all of `results`."""
    shown = [result for result in results if result is not None]
    return max(max(one.scenario.hold_s, one.light_out_s) for one in shown) * ROOM_AFTER


def _shots(result: Result, scale: float) -> tuple[bool, str, str]:
    """Whether strokes are merged, and the shapes of the frames taken and missed."""
    spacing = scale / result.scenario.frame_rate_fps
    if spacing < CLOSEST_STROKES:
        return True, *_columns(result, scale)
    return False, *_strokes(result, scale, spacing)


def _wall_band(
    result: Result, depths: Interval | None, ends_s: float
) -> tuple[float, float] | None:
    """Where the wall lies in most bursts: its left end and its width, in per cent."""
    if depths is None or depths.low is None:
        return None
    fps, hold_s = result.scenario.frame_rate_fps, result.scenario.hold_s
    left = percent_of(depths.low / fps, ends_s)
    right = percent_of(hold_s if depths.high is None else depths.high / fps, ends_s)
    return (left, round(right - left, 2)) if right - left > NARROWEST_BAND else None


def _strokes(result: Result, scale: float, spacing: float) -> tuple[str, str]:
    """One stroke a frame, and one for each moment at which a frame was due and none taken."""
    width = min(0.45 * spacing, WIDEST_STROKE)
    taken, missed = (
        moments_ns / NS_IN_S * scale for moments_ns in (result.taken_ns, result.missed_ns)
    )
    return bars(taken, width), bars(missed, width)


def bars(lefts: Floats, width: float) -> str:
    """Strokes of so many units of WIDTH, by where they begin."""
    return "".join(f"M{left:.1f} 0h{width:.1f}v{STROKES_HEIGHT}h-{width:.1f}z" for left in lefts)


def _columns(result: Result, scale: float) -> tuple[str, str]:
    """Strokes too close to tell apart: columns as high as the share of due frames taken."""
    scenario = result.scenario
    column_ns = max(
        NARROWEST_COLUMN / scale * NS_IN_S, FRAMES_IN_COLUMN * scenario.frame_interval_ns
    )
    edges_ns = np.append(np.arange(0, scenario.end_ns, int(column_ns)), scenario.end_ns)
    taken = np.diff(np.searchsorted(result.taken_ns, edges_ns))
    due = np.diff(-(-edges_ns // scenario.frame_interval_ns))
    tops = STROKES_HEIGHT * (1 - np.minimum(taken / np.maximum(due, 1), 1))
    rights = edges_ns[1:] / NS_IN_S * scale
    steps = "".join(f"V{top:.1f}H{right:.1f}" for top, right in zip(tops, rights, strict=True))
    bottom = STROKES_HEIGHT
    return f"M0 {bottom}{steps}V{bottom}z", f"M0 0H{rights[-1]:.1f}V{bottom}H0z"


def _memory(result: Result, scale: float) -> str:
    """The filling, from the first frame to the last byte written."""
    moments_ns, used_bytes = result.memory_steps
    return filling(moments_ns / NS_IN_S * scale, used_bytes, result.scenario.memory_bytes)


def filling(
    lefts: Floats, used_bytes: NDArray[np.int64], memory_bytes: int, right: float | None = None
) -> str:
    """Memory in use after each change, by where they lie; up to `right`, or the last change."""
    if len(lefts) > MOST_STEPS:
        lefts, used_bytes = _peaks(lefts, used_bytes)
    tops = MEMORY_HEIGHT * (1 - used_bytes / memory_bytes)
    steps = "".join(f"H{left:.1f}V{top:.1f}" for left, top in zip(lefts, tops, strict=True))
    end = "" if right is None else f"H{right:.1f}"
    return f"M0 {MEMORY_HEIGHT}{steps}{end}V{MEMORY_HEIGHT}z"


def _peaks(lefts: Floats, used_bytes: NDArray[np.int64]) -> tuple[Floats, NDArray[np.int64]]:
    """The most memory in use in each unit of the axis that has a change, and 0 at the end."""
    columns, firsts = np.unique(np.floor(lefts), return_index=True)
    peaks = np.maximum.reduceat(used_bytes, firsts)
    return np.append(columns, lefts[-1]), np.append(peaks, used_bytes[-1])


def _marks(result: Result, ends_s: float) -> Iterator[Mark]:
    moments = (
        ("wall", "the wall", result.full_speed_s, 44, 122),
        ("card-full", "card full", result.card_full_s, 44, 40),
        ("light-out", "light out", result.light_out_s if result.frames else None, 30, 27),
        ("finger-up", "finger up", result.scenario.hold_s, 14, 13),
    )
    for name, words, moment_s, top, label_y in moments:
        if moment_s is not None:
            yield Mark(name, words, percent_of(moment_s, ends_s), top, label_y)


def percent_of(moment_s: float, ends_s: float) -> float:
    """How far along an axis a moment lies, in per cent."""
    return round(100 * moment_s / ends_s, 2)
