"""Set-ups as draws have them: a scenario's numbers, each drawn from what is known of it.

Draws are stratified: a factor takes each of its quantiles once, in an order of its own. That order
follows from the factor's name alone (common random numbers), so that a set-up is drawn the same
whatever it is drawn beside, and that two set-ups differ by what differs in them.
"""

import hashlib
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from engine.burst.plan import (
    COUPLING_NUMBER,
    FILE_SIZE,
    NOMINAL,
    Records,
    holds_of,
    parts_of_nominal,
    power_of_two,
)
from engine.burst.scenario import Scenario
from engine.figures.key import Factor, FigureKind
from engine.figures.uncertainty import EXACT, Uncertainty
from engine.uncertainty.drawing import timed_ratios
from engine.uncertainty.sources import (
    BURST,
    COUPLING,
    FACTORS,
    FILES,
    ODDS_OF_COUPLING,
    Sources,
)

Whole = NDArray[np.int64]
Real = NDArray[np.float64]
Sizes = NDArray[np.int32]

TIMES = ("transfer_ns", "cached_ns", "slow_ns")  # how long a slot writes a frame, by its pace
NOISE_BLOCK = 64
NOISE_LENGTH = 4_096  # a power of two; a longer series meets the same frame sizes again
SEED = 0


class AnyDraws(Protocol):
    """Draws of a set-up's numbers, from what is assumed of them or from what was learnt."""

    @property
    def count(self) -> int:
        """How often things are drawn."""

    def ratios(self, factor: Factor, uncertainty: Uncertainty) -> Real:
        """What a number is multiplied by in each draw."""

    def couplings(self, scenario: Scenario, sources: Sources) -> Whole:
        """The number of the coupling in each draw."""


@dataclass(frozen=True)
class Draws:
    """How often things are drawn, and in which order each of them takes its quantiles.

    `names` gives a factor another name than its own, which draws it independently of all others.
    With `only` some factors, all others are nominal.
    """

    count: int
    names: Mapping[Factor, str] = field(default_factory=dict)
    only: Collection[Factor] | None = None

    def quantiles(self, factor: Factor) -> Real:
        """A number between 0 and 1 for each draw, evenly spread."""
        return _quantiles(self._name(factor), self.count)

    def ratios(self, factor: Factor, uncertainty: Uncertainty) -> Real:
        """What a number is multiplied by in each draw."""
        if uncertainty.is_exact or not self._varies(factor):
            return _ratios("", EXACT, self.count)
        name = uncertainty.order_name or self._name(factor)
        return _ratios(name, uncertainty, self.count)

    def couplings(self, scenario: Scenario, sources: Sources) -> Whole:
        """The number of the coupling in each draw; that of the scenario where it is known."""
        matters = scenario.arrangement.writes_both
        if sources.knows_coupling or not matters or not self._varies(COUPLING):
            return np.full(self.count, COUPLING_NUMBER[scenario.coupling])
        ends = np.cumsum(list(ODDS_OF_COUPLING.values()))
        numbers = np.array([COUPLING_NUMBER[name] for name in ODDS_OF_COUPLING])
        places = np.searchsorted(ends, self.quantiles(COUPLING))
        return numbers[np.minimum(places, len(numbers) - 1)]

    def _varies(self, factor: Factor) -> bool:
        return self.only is None or factor in self.only

    def _name(self, factor: Factor) -> str:
        return self.names.get(factor) or str(factor)


NOMINAL_DRAW = Draws(1, only=())  # one draw with every number nominal


@lru_cache(maxsize=1_024)
def _order(name: str, count: int) -> Whole:
    known = _uncorrelated(count)
    return _ranks(known[name] if name in known else _column(name, count))


@lru_cache(maxsize=16)
def _uncorrelated(count: int) -> dict[str, Real]:
    """For each factor a column of random numbers, none of them correlated with another.

    Orders that happen to be correlated would widen or narrow what depends on both factors (Iman
    and Conover 1982; here by Gram and Schmidt's method). Fewer draws than factors are left as
    they come.
    """
    names = list(map(str, FACTORS))
    columns = np.stack([_column(name, count) for name in names], axis=1)
    if count > len(names):
        columns, _ = np.linalg.qr(columns - columns.mean(axis=0))
    return dict(zip(names, columns.T, strict=True))


def _column(name: str, count: int) -> Real:
    """Random numbers that follow from a name."""
    digest = hashlib.sha256(f"{SEED} {name}".encode()).digest()
    return np.random.Generator(np.random.PCG64(list(digest[:8]))).standard_normal(count)


def _ranks(values: Real) -> Whole:
    ranks = np.empty(len(values), dtype=np.int64)
    ranks[np.argsort(values)] = np.arange(len(values))
    return ranks


@lru_cache(maxsize=1_024)
def _quantiles(name: str, count: int) -> Real:
    return (_order(name, count) + 0.5) / count


@lru_cache(maxsize=1_024)
def _ratios(name: str, uncertainty: Uncertainty, count: int) -> Real:
    """What a number is multiplied by; kept, as many set-ups share what they are drawn by."""
    return uncertainty.ratios(ndtri(_quantiles(name, count)))


@lru_cache(maxsize=128)
def _noise(count: int, block: int) -> Real:
    """Normal numbers for the frames of one block: a longer series begins with the same ones."""
    random = np.random.Generator(np.random.PCG64([SEED, block]))
    return random.standard_normal((count, NOISE_BLOCK))


def frame_sizes(count: int, frames: int, spread: float) -> Sizes:
    """The size of each frame's files in each draw (axes: draw, frame), in parts of NOMINAL.

    One size for all where `spread`, the standard deviation of its logarithm, is 0.
    """
    if not spread:
        return _one_size(count)
    return _sizes(count, min(NOISE_LENGTH, max(NOISE_BLOCK, power_of_two(frames))), spread)


@lru_cache(maxsize=64)
def _one_size(count: int) -> Sizes:
    return np.full((count, 1), NOMINAL, dtype=np.int32)


@lru_cache(maxsize=64)
def _sizes(count: int, length: int, spread: float) -> Sizes:
    noise = np.concatenate([_noise(count, block) for block in range(length // NOISE_BLOCK)], axis=1)
    return np.ascontiguousarray(parts_of_nominal(np.exp(spread * noise)), dtype=np.int32)


def timed_as(coupling: int, slots: Records, scenario: Scenario, number: int) -> Records:
    """Plans of slot `number`, their times as with `coupling`."""
    ratio = timed_ratios(scenario, number)[coupling]
    if ratio == 1:
        return slots
    timed = slots.copy()
    for name in TIMES:
        timed[name] = np.rint(timed[name] * ratio)
    return timed


def drawn_holds(scenario: Scenario, sources: Sources, draws: AnyDraws) -> Whole:
    """The holds in each draw (axes: draw, hold, place): the same presses, files of other sizes."""
    holds = np.repeat(holds_of(scenario)[None], draws.count, axis=0)
    for number in range(holds.shape[1]):
        holds[:, number, FILE_SIZE] = burst_sizes(sources, draws, number)
    return holds


def burst_sizes(sources: Sources, draws: AnyDraws, number: int) -> Whole:
    """The size of files in burst `number`, from 0 on, in each draw, in parts of NOMINAL."""
    factor = Factor(FigureKind.BURST, number + 1) if number else BURST
    mean = draws.ratios(FILES, sources.files)
    return parts_of_nominal(mean * draws.ratios(factor, sources.between_bursts)).astype(np.int64)
