"""How sure a prediction is: a middle and an 80 % range, from where each number came from."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from threading import Lock
from typing import Any, Protocol, TypeVar, cast

import numpy as np
from cachetools import LRUCache
from cachetools.keys import hashkey
from more_itertools import batched
from numba import float64, njit
from numpy.typing import NDArray

from engine.burst.bottleneck import sustained_fps
from engine.burst.event_loop import FRAMES, NEVER
from engine.burst.scenario import Scenario
from engine.quantities import LOW, NS_IN_S
from engine.uncertainty.draws import Draws
from engine.uncertainty.sources import Sources
from engine.uncertainty.sweep import Outcomes, nominal_outcomes, sweep

Real = NDArray[np.float64]

DRAWS = (1_000, 500, 200, 100, 50)  # the fewest however long the hold
CLOSE_ENOUGH = 0.03  # to the share that a range is to hold
FRAMES_IN_ALL_DRAWS = 600_000  # so that the Desk answers at once
MOST_DRAWN = 250_000  # bursts at once, which take some ten megabytes
# Pins are asked for again at every change, and a table of thousands when it is sorted otherwise.
_Asked = tuple[Scenario, Sources, int]  # with how often it is drawn
KEPT: LRUCache[_Asked, "Confidence"] = LRUCache(8_192)
_KEPT_LOCK = Lock()


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


def confidence(scenario: Scenario, sources: Sources, draws: int | None = None) -> Confidence:
    """The ranges of what `simulate` predicts for `scenario`; the same at every call."""
    [found] = confidences([scenario], [sources], draws)
    return found


def confidences(
    scenarios: Sequence[Scenario], sources: Sequence[Sources], draws: int | None = None
) -> list[Confidence]:
    """The ranges of each of very many scenarios, with as many holds; each as by itself."""
    asked = [  # as keys that know their hash, which takes longer than most of the rest
        cast("_Asked", hashkey(scenario, of_it, draws or draws_for(scenario)))
        for scenario, of_it in zip(scenarios, sources, strict=True)
    ]
    with _KEPT_LOCK:
        found = {one: kept for one in asked if (kept := KEPT.get(one))}
    left = [one for one in dict.fromkeys(asked) if one not in found]
    for count in {count for _, _, count in left}:
        for some in batched([one for one in left if one[2] == count], MOST_DRAWN // count):
            of_some = [scenario for scenario, _, _ in some]
            came = sweep(of_some, [of_it for _, of_it, _ in some], Draws(count))
            found |= zip(some, _ranges(came, nominal_outcomes(of_some)), strict=True)
    with _KEPT_LOCK:
        KEPT.update((one, found[one]) for one in left)
    return [found[one] for one in asked]


def _ranges(came: Outcomes, nominal: Outcomes) -> Iterator[Confidence]:
    """The ranges of every scenario, around its `nominal` burst."""
    count = came.frames.shape[1]
    depths, of_nominal = _depths(came), _depths(nominal)
    no_wall = came.depths == NEVER
    full_speed, rates_fps = sum_of_depths(came), _sustained_fps(came, nominal)
    frames = intervals(came.frames, nominal.frames[:, 0])
    at_full_speed = intervals(full_speed, sum_of_depths(nominal)[:, 0])
    clear_s = intervals(came.clear_ns[:, :, -1] / NS_IN_S, nominal.clear_ns[:, 0, -1] / NS_IN_S)
    sustained = intervals(*rates_fps)
    holds = [
        intervals(depths[:, :, number], of_nominal[:, 0, number])
        for number in range(depths.shape[2])
    ]
    in_most = np.partition(full_speed, int(2 * LOW * count), axis=1)[:, int(2 * LOW * count)]
    walls = (~no_wall).mean(axis=1).tolist()
    any_wall = (~no_wall).any(axis=-1).mean(axis=1).tolist()
    full_first = (came.card_full & no_wall.all(axis=-1)).mean(axis=1).tolist()
    for place, reached in enumerate(in_most.tolist()):
        yield Confidence(
            draws=count,
            frames=frames[place],
            frames_at_full_speed=at_full_speed[place],
            full_speed_in_most=reached if math.isfinite(reached) else None,
            clear_s=clear_s[place],
            sustained_fps=sustained[place],
            wall_share=any_wall[place],
            full_share=full_first[place],
            holds=tuple(
                HoldOdds(of_hold[place], wall)
                for of_hold, wall in zip(holds, walls[place], strict=True)
            ),
        )


def _sustained_fps(came: Outcomes, nominal: Outcomes) -> tuple[Real, Real]:
    """Frames a second once memory is full: in every draw, and nominally."""
    drawn, nominally = np.empty(came.frames.shape), np.empty(len(came.scenarios))
    for place, scenario in enumerate(came.scenarios):
        regime = nominal.final_regime(place, 0)
        rate, sustained = scenario.frame_rate_fps, sustained_fps(regime)
        slower = (sustained or rate) / min(regime.camera_fps, rate)
        drawn[place] = np.minimum(slower * NS_IN_S / came.frame_ns[place], rate)
        nominally[place] = sustained or rate
    return drawn, nominally


def _depths(came: Outcomes) -> Real:
    """Burst depth of each hold: no wall is beyond all numbers, but where a card was full first."""
    ended = came.card_full[..., None] & (came.depths == NEVER)
    without_wall = np.where(ended, came.holds[..., FRAMES], np.inf)
    return np.where(came.depths == NEVER, without_wall, came.depths)


def sum_of_depths(came: Outcomes) -> Real:
    """Burst depth of all holds together: infinite without a wall, all frames where a card fills."""
    total = came.frames_at_full_speed
    without_wall = np.where(came.card_full, came.frames, np.inf)
    return np.where(total == NEVER, without_wall, total)


def interval(values: NDArray[Any]) -> Interval:
    """Middle and ends of `values`."""
    [found] = intervals(np.asarray(values)[None])
    return found


def intervals(values: NDArray[Any], nominal: NDArray[Any] | None = None) -> list[Interval]:
    """Middle and ends of each row of `values`, wide enough for what is predicted with all as it is.

    That is `nominal`, where it is given. They would miss it only where it is an outlier itself, as
    the least of four equal and badly known speeds.
    """
    rows = np.sort(np.asarray(values, dtype=np.float64), axis=1)
    middles = rows[:, rows.shape[1] // 2]
    around = middles if nominal is None else np.asarray(nominal, dtype=np.float64)
    lows, highs = ends_of(rows)
    ends = np.stack([np.minimum(lows, around), middles, np.maximum(highs, around)], axis=1)
    return [
        Interval(*(end if math.isfinite(end) else None for end in row)) for row in ends.tolist()
    ]


@njit(cache=True, nogil=True)
def steps_around(row: Real) -> tuple[list[float], list[float]]:
    """What the values around the share LOW leave below in a sorted row, and these values.

    A draw stands for its middle.
    """
    shares, steps = [0.0 for _ in range(0)], [0.0 for _ in range(0)]
    count, start, share, step = len(row), 0, -1.0, 0.0
    while start < count:
        end = start
        while end < count and row[end] == row[start]:
            end += 1
        before, before_step, share, step = share, step, (start + 0.5) / count, row[start]
        start = end
        if share > LOW:
            if before >= 0:
                shares.append(before)
                steps.append(before_step)
            shares.append(share)
            steps.append(step)
            return shares, steps
    shares.append(share)
    steps.append(step)
    return shares, steps


@njit([(float64[:, ::1],)], cache=True, nogil=True)
def ends_of(rows: Real) -> tuple[Real, Real]:
    """The ends between which four in five of all that may come lie, as nearly as one can.

    Of each of the sorted `rows`. Whole frames come in steps: an end leaves out a little more or a
    little less than it should. Of the two steps around either end, those are taken that together
    come closest, or CLOSE_ENOUGH, and then those that leave out as much on either side.
    """
    lows, highs = np.empty(len(rows)), np.empty(len(rows))
    for number in range(len(rows)):
        row = rows[number]
        below, low = steps_around(row)
        above, high = steps_around(-row[::-1])
        best = (np.inf, np.inf, np.inf, np.inf)
        for one in range(len(below)):
            for other in range(len(above)):
                if low[one] <= -high[other]:
                    off = max(0.0, abs(below[one] + above[other] - 2 * LOW) - CLOSE_ENOUGH)
                    uneven = np.rint(abs(below[one] - above[other]) * 1e9) / 1e9
                    found = (off, uneven, low[one], -high[other])
                    best = found if found < best else best
        lows[number], highs[number] = best[2], best[3]
    return lows, highs
