"""The presses of a planned day as draws have them: how many, when, and for how long."""

import math
from dataclasses import dataclass
from enum import IntEnum
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from engine.burst.scenario import HOLD_S
from engine.day.frames_taken import REPRESS_S
from engine.day.plan import Period, Plan
from engine.figures.uncertainty import Z_80
from engine.quantities import NS_IN_S

Real = NDArray[np.float64]
Whole = NDArray[np.int64]
Flags = NDArray[np.bool_]

SEED = 28
# Standard deviations of the logarithm: how far a day, and a period of it, is busier or quieter than
# somebody guessed. Ondata's working assumption; of no two days are the bursts alike.
DAY_SPREAD, PERIOD_SPREAD = 0.2, 0.25
SINGLE_S = 0.001  # a press that gives one frame at any rate
LONGEST = 3.0  # times as long as nine of ten holds at most: nobody holds for minutes
AFTER_S = 10.0  # of the end of a day, what only fills up the rows of draws with fewer presses


@dataclass(frozen=True, eq=False)
class PlannedPresses:
    """Presses in order (axes: draw, place), each of the `period` of that number.

    A draw may have fewer than another; what fills it up is not `is_real`, and comes when all is
    over.
    """

    press_s: Real
    hold_s: Real
    period: Whole
    is_single: Flags
    is_real: Flags

    @cached_property
    def press_ns(self) -> Whole:
        """When each begins, in ns after the first of all."""
        after_s = self.press_s - self.press_s.min()
        return np.asarray(np.rint(after_s * NS_IN_S), dtype=np.int64)

    @cached_property
    def up_ns(self) -> Whole:
        """When each finger is up, in the same."""
        held_ns = np.rint(self.hold_s * NS_IN_S).astype(np.int64)
        return self.press_ns + np.maximum(held_ns, 1)

    @cached_property
    def size_normals(self) -> Real:
        """How far the files of each are off the middle, as standard normals."""
        return _random(_Drawn.SIZES).standard_normal(self.press_s.shape)

    @property
    def up_s(self) -> Real:
        """When each finger is up."""
        return self.press_s + self.hold_s

    def count_before(self, period: int) -> Whole:
        """How many presses come before a period, in each draw."""
        return np.asarray(np.count_nonzero((self.period < period) & self.is_real, axis=1))


def planned_presses(plan: Plan, count: int) -> PlannedPresses:
    """Those of `count` days by a plan, the same for every set-up (common random numbers).

    A day and each period of it are busier or quieter than planned. Within a period bursts come
    independently of each other, as a Poisson process has them; holds are log-normal. One that would
    begin before the finger is up comes as soon as a hand can press again.
    """
    busy = _ratios(_random(_Drawn.DAY), DAY_SPREAD, count)
    parts = [
        part
        for number, (period, start_s) in enumerate(zip(plan.periods, plan.starts_s, strict=False))
        for part in _parts(number, period, start_s, busy)
    ]
    start_s, hold_s, number, is_real = (
        np.concatenate([part[axis] for part in parts], axis=1) for axis in range(4)
    )
    is_single = np.concatenate([np.full(part[0].shape, part[4]) for part in parts], axis=1)
    order = np.argsort(np.where(is_real, start_s, np.inf), axis=1, kind="stable")
    start_s, hold_s, number, is_real, is_single = (
        np.take_along_axis(values, order, axis=1)
        for values in (start_s, hold_s, number, is_real, is_single)
    )
    hold_s = np.where(is_real, hold_s, SINGLE_S)
    over_s = plan.starts_s[-1] + AFTER_S
    after_s = over_s + np.cumsum(~is_real, axis=1)
    press_s = _by_a_hand(np.where(is_real, start_s, after_s), hold_s)
    return PlannedPresses(press_s, hold_s, number.astype(np.int64), is_single, is_real)


class _Drawn(IntEnum):
    """What has random numbers of its own; from 1 on, as a seed is the same with a 0 behind it."""

    DAY = 1
    PERIOD = 2
    BURSTS = 3
    SINGLES = 4
    SIZES = 5


def _random(drawn: _Drawn, period: int = 0) -> np.random.Generator:
    return np.random.default_rng((SEED, period, drawn))


def _ratios(random: np.random.Generator, spread: float, count: int) -> Real:
    """Ratios to what is planned, 1 on average: each quantile once, in any order."""
    normals = ndtri((np.arange(count) + 0.5) / count)
    ratios = np.exp(spread * normals)
    return np.asarray(random.permutation(ratios / ratios.mean()))


def _parts(number: int, period: Period, start_s: float, busy: Real) -> list[tuple[Any, ...]]:
    """Bursts and single frames of a period: moments, holds, its number, which there are.

    `busy` is how many times as many there are on each day.
    """
    found, count = [], len(busy)
    here = busy * _ratios(_random(_Drawn.PERIOD, number), PERIOD_SPREAD, count)
    for is_single, mean in ((False, period.bursts), (True, period.singles)):
        random = _random(_Drawn.SINGLES if is_single else _Drawn.BURSTS, number)
        is_listed = bool(period.listed_s) and not is_single
        presses = np.full(count, len(period.listed_s)) if is_listed else random.poisson(mean * here)
        shape = (count, int(presses.max(initial=1)))  # one at least, real or not
        moments_s = start_s + random.uniform(0, period.lasts_s, shape)
        if is_single:
            holds_s = np.full(shape, SINGLE_S)
        elif is_listed:
            moments_s.sort(axis=1)
            holds_s = np.tile(period.listed_s, (count, 1))
        else:
            holds_s = _holds(random, period, shape)
        is_real = np.arange(shape[1]) < presses[:, None]
        found.append((moments_s, holds_s, np.full(shape, number), is_real, is_single))
    return found


def _holds(random: np.random.Generator, period: Period, shape: tuple[int, int]) -> Real:
    spread = math.log(period.long_hold_s / period.hold_s) / Z_80
    holds_s = period.hold_s * np.exp(spread * random.standard_normal(shape))
    longest_s = min(LONGEST * period.long_hold_s, HOLD_S.highest)
    return np.asarray(np.clip(holds_s, SINGLE_S, longest_s))


def _by_a_hand(start_s: Real, hold_s: Real) -> Real:
    """Moments in order, none before a hand could press again after the one before."""
    busy_s = np.cumsum(hold_s + REPRESS_S, axis=1)
    before_s = busy_s - (hold_s + REPRESS_S)
    pressed: Real = before_s + np.maximum.accumulate(start_s - before_s, axis=1)
    return pressed
