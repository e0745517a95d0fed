"""How sure a prediction is: a middle and an 80 % range, from where each number came from."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from engine.burst.bottleneck import Bottleneck
from engine.burst.event_loop import FRAMES, NEVER
from engine.burst.scenario import Scenario
from engine.burst.simulate import simulate
from engine.quantities import LOW, NS_IN_S
from engine.uncertainty.draws import Draws
from engine.uncertainty.sources import Sources
from engine.uncertainty.sweep import Outcomes, sweep

DRAWS = (1_000, 500, 200, 100, 50)  # the fewest however long the hold
CLOSE_ENOUGH = 0.03  # to the share that a range is to hold
FRAMES_IN_ALL_DRAWS = 600_000  # so that the Desk answers at once


@dataclass(frozen=True)
class Interval:
    """A middle and the ends of the range that four draws in five lie in.

    For a burst depth, None stands for no wall.
    """

    low: float | None
    middle: float | None
    high: float | None

    def up_to(self, most: float) -> "Interval":
        """The same where nothing counts that is beyond `most`; no wall stays no wall."""
        ends = (self.low, self.middle, self.high)
        return Interval(*(end if end is None else min(end, most) for end in ends))


class FrameRanges(Protocol):
    """Ranges of the frames of one burst."""

    @property
    def frames(self) -> Interval: ...
    @property
    def frames_at_full_speed(self) -> Interval: ...


_Ranges = TypeVar("_Ranges", bound=FrameRanges)


def as_counted(ranges: _Ranges, frames_due: int) -> _Ranges:
    """The ranges as somebody counts them: never "118 to 121 of 120".

    A body that is a little faster than its noted frame rate takes a frame more than are due, which
    is no gain that anybody asked for.
    """
    counted: _Ranges = replace(  # type: ignore[type-var]
        ranges,
        frames=ranges.frames.up_to(frames_due),
        frames_at_full_speed=ranges.frames_at_full_speed.up_to(frames_due),
    )
    return counted


@dataclass(frozen=True)
class HoldOdds:
    """One hold of a series: the range of its burst depth, and the share of draws with a wall."""

    frames_at_full_speed: Interval
    wall_share: float


@dataclass(frozen=True)
class Confidence:
    """The ranges of one prediction, from so many `draws`.

    `full_speed_in_most` is the burst depth that is reached in 80 % of draws (None: no wall).
    `wall_share` is the share of draws that meet the wall in any hold, `full_share` of those in
    which a card is full first; such a burst ends with the frames it has. `holds` has each hold of
    a series.
    """

    draws: int
    frames: Interval
    frames_at_full_speed: Interval
    full_speed_in_most: float | None
    clear_s: Interval
    sustained_fps: Interval
    wall_share: float
    full_share: float
    holds: tuple[HoldOdds, ...]

    @property
    def no_wall_share(self) -> float:
        """The share of draws that meet no wall."""
        return 1 - self.wall_share


def draws_for(scenario: Scenario) -> int:
    """How often the ranges of `scenario` are drawn: long bursts less often."""
    return draws_of(scenario.frames_due)


def draws_of(frames_due: int) -> int:
    """How often a burst of so many frames is drawn."""
    most = FRAMES_IN_ALL_DRAWS // frames_due
    return next((draws for draws in DRAWS if draws <= most), DRAWS[-1])


@lru_cache(maxsize=4096)  # the cells of a table, and pins, are asked for again at every change
def confidence(scenario: Scenario, sources: Sources, draws: int | None = None) -> Confidence:
    """The ranges of what `simulate` predicts for `scenario`; the same at every call."""
    count = draws or draws_for(scenario)
    came = sweep([scenario], [sources], Draws(count))
    nominal = simulate(scenario)
    bottleneck = Bottleneck(nominal)
    rate = scenario.frame_rate_fps
    slower = (bottleneck.sustained_fps or rate) / min(nominal.final_regime.camera_fps, rate)
    depths = _depths(came)[0]
    of_holds = [nominal.full_speed_frames_of(hold) for hold in nominal.holds]
    ended = nominal.card_full_ns is not None
    full_speed = sum_of_depths(came)[0]
    reached = float(np.sort(full_speed)[int(2 * LOW * count)])
    return Confidence(
        draws=count,
        frames=interval(came.frames[0], nominal.frames),
        frames_at_full_speed=interval(
            full_speed, _depth(nominal.frames_at_full_speed, nominal.frames, ended)
        ),
        full_speed_in_most=reached if math.isfinite(reached) else None,
        clear_s=interval(came.clear_ns[0, :, -1] / NS_IN_S, nominal.clear_s),
        sustained_fps=interval(
            np.minimum(slower * NS_IN_S / came.frame_ns[0], rate),
            bottleneck.sustained_fps or rate,
        ),
        wall_share=float((came.depths[0] != NEVER).any(axis=-1).mean()),
        full_share=float((came.card_full[0] & (came.depths[0] == NEVER).all(axis=-1)).mean()),
        holds=tuple(
            HoldOdds(
                interval(depths[:, number], _depth(depth, nominal.holds[number].frames, ended)),
                float((came.depths[0, :, number] != NEVER).mean()),
            )
            for number, depth in enumerate(of_holds)
        ),
    )


def _depths(came: Outcomes) -> NDArray[np.float64]:
    """Burst depth of each hold: no wall is beyond all numbers, but where a card was full first."""
    ended = came.card_full[..., None] & (came.depths == NEVER)
    without_wall = np.where(ended, came.holds[..., FRAMES], np.inf)
    return np.where(came.depths == NEVER, without_wall, came.depths)


def sum_of_depths(came: Outcomes) -> NDArray[np.float64]:
    """Burst depth of all holds together: infinite without a wall, all frames where a card fills."""
    total = came.frames_at_full_speed
    without_wall = np.where(came.card_full, came.frames, np.inf)
    return np.where(total == NEVER, without_wall, total)


def _depth(depth: int | None, frames: int, ended: bool) -> float:
    """The same of one burst: `ended` tells that a card was full."""
    return depth if depth is not None else frames if ended else math.inf


def interval(
    values: NDArray[np.float64] | NDArray[np.int64], nominal: float | None = None
) -> Interval:
    """Middle and ends of `values`, wide enough for what is predicted with everything as it is.

    That is `nominal`, where it is given. They would miss it only where it is an outlier itself, as
    the least of four equal and badly known speeds.
    """
    low, high = _ends(np.asarray(values, dtype=np.float64))
    middle = float(np.sort(values)[len(values) // 2])
    nominal = middle if nominal is None else nominal
    ends = (min(low, nominal), middle, max(high, nominal))
    return Interval(*(end if math.isfinite(end) else None for end in ends))


def _ends(values: NDArray[np.float64]) -> tuple[float, float]:
    """The ends between which four in five of all that may come lie, as nearly as one can.

    Whole frames come in steps: an end leaves out a little more or a little less than it should. Of
    the two steps around either end, those are taken that together come closest, or CLOSE_ENOUGH,
    and then those that leave out as much on either side.
    """
    lows, highs = _steps_around(values), _steps_around(-values)
    *_, low, high = min(
        (
            max(0.0, abs(below + above - 2 * LOW) - CLOSE_ENOUGH),
            round(abs(below - above), 9),
            low,
            -high,
        )
        for below, low in lows
        for above, high in highs
        if low <= -high
    )
    return low, high


def _steps_around(values: NDArray[np.float64]) -> list[tuple[float, float]]:
    """The values around the share LOW, and what they leave below; a draw stands for its middle."""
    steps, counts = np.unique(values, return_counts=True)
    below = (np.cumsum(counts) - counts + 0.5) / len(values)
    last = int(np.searchsorted(below, LOW, side="right")) - 1
    return [(float(below[n]), float(steps[n])) for n in (last, last + 1) if 0 <= n < len(steps)]
