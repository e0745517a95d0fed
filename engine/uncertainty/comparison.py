"""Two set-ups side by side: the differences between them, and whether they can be told apart."""

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from engine.burst.event_loop import NEVER
from engine.burst.scenario import Scenario
from engine.burst.simulate import simulate
from engine.figures.key import Factor
from engine.quantities import HIGH, LOW, MIDDLE, NOTICED_S, NOTICED_SHARE, NS_IN_S
from engine.uncertainty.draws import Draws
from engine.uncertainty.intervals import draws_for
from engine.uncertainty.sources import Sources
from engine.uncertainty.sweep import sweep

MOST_DRAWS = 250  # every screen that tells of a difference asks for several at once


@dataclass(frozen=True)
class Difference:
    """The second less the first: as predicted, the ends that four draws in five lie between.

    The ends hold what is predicted, which is the difference of the two predictions as every screen
    shows them.

    `noticed` tells that the range leaves out zero, and that what is predicted is large enough to
    notice; one that is not `noticed` but `may_matter` is too uncertain to call: its range has ends
    that would be noticed.
    """

    low: float
    predicted: float
    high: float
    noticed: bool
    may_matter: bool

    @property
    def is_too_uncertain(self) -> bool:
        """Whether there may be a difference that somebody would notice, or none."""
        return self.may_matter and not self.noticed


@dataclass(frozen=True)
class Comparison:
    """Differences in a hold of `hold_s`, the shorter of the two.

    Frames at full speed count up to the end of that hold where no wall is met.
    """

    hold_s: float
    frames: Difference
    frames_at_full_speed: Difference
    clear_s: Difference


@lru_cache(maxsize=512)  # a ruler that is moved asks for the same pairs again and again
def compare(
    first: tuple[Scenario, Sources],
    second: tuple[Scenario, Sources],
    independent: frozenset[Factor],
) -> Comparison:
    """What `second` brings against `first`; the same at every call.

    `independent` are the factors that are not one thing in both: other cards, another body. What
    they share errs the same way in both, and its error does not blur them.
    """
    hold_s = min(scenario.hold_s for scenario, _ in (first, second))
    scenarios = [replace(scenario, hold_s=hold_s) for scenario, _ in (first, second)]
    one, other = map(_predicted, scenarios)
    count = min(MOST_DRAWS, *map(draws_for, scenarios))
    outcomes = sweep(
        scenarios,
        [sources for _, sources in (first, second)],
        [Draws(count), Draws(count, {factor: f"another {factor}" for factor in independent})],
    )
    due = np.array([[scenario.frames_due] for scenario in scenarios])
    depths = np.where(outcomes.frames_at_full_speed == NEVER, due, outcomes.frames_at_full_speed)
    return Comparison(
        hold_s=hold_s,
        frames=difference(outcomes.frames, other[0] - one[0]),
        frames_at_full_speed=difference(depths, other[1] - one[1]),
        clear_s=difference(
            outcomes.clear_ns[..., -1] / NS_IN_S, other[2] - one[2], least=NOTICED_S
        ),
    )


def _predicted(scenario: Scenario) -> tuple[int, int, float]:
    """Frames, frames at full speed (all that are due without a wall), and seconds to light out."""
    burst = simulate(scenario)
    depth = burst.frames_at_full_speed
    return burst.frames, burst.frames_due if depth is None else depth, burst.clear_s


def noticed(
    first: NDArray[np.integer] | NDArray[np.float64],
    others: NDArray[np.integer] | NDArray[np.float64],
    least: float = 1.0,
) -> NDArray[np.bool_]:
    """Which of `others` differ from `first` so that somebody would notice (last axis: draws).

    The range of the difference leaves out zero, and its middle is not too small: too small is under
    `least` and under a tenth of the larger.
    """
    low, middle, high = _ranges(others - first)
    clear = (low > 0) | (high < 0)
    return np.asarray(clear & (np.abs(middle) >= _least(first, others, least)))


def _least(first: NDArray[Any], others: NDArray[Any], least: float) -> NDArray[np.float64]:
    """The least difference that somebody would notice."""
    larger = np.maximum(np.median(first, axis=-1), np.median(others, axis=-1))
    return np.asarray(np.maximum(least, NOTICED_SHARE * larger))


def _ranges(differences: NDArray[np.integer] | NDArray[np.float64]) -> NDArray[np.float64]:
    ends: NDArray[np.float64] = np.quantile(
        differences, (LOW, MIDDLE, HIGH), axis=-1, method="nearest"
    )
    return ends


def difference(
    values: NDArray[np.integer] | NDArray[np.float64], predicted: float, least: float = 1.0
) -> Difference:
    """Second row less first (last axis: draws), of which `predicted` is the nominal one.

    A difference under `least`, or under a tenth of the larger, is not noticed.
    """
    low, _, high = map(float, _ranges(values[1] - values[0]))
    low, high = min(low, predicted), max(high, predicted)
    least = float(_least(values[0], values[1], least))
    return Difference(
        low,
        predicted,
        high,
        noticed=(low > 0 or high < 0) and abs(predicted) >= least,
        may_matter=max(-low, high) >= least,
    )
