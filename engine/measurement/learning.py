"""Learns a body from its runs: Bayesian inference by sequential Monte Carlo.

A population of bodies is drawn from what is assumed, each shoots every run, and what was seen is
weighed in little by little (tempering: Del Moral, Doucet and Jasra 2006): at each step the bodies
that fit less are replaced by copies of those that fit better, and all are moved by steps of
Metropolis and Hastings that leave the distribution as it is. What is left at the end are equally
likely bodies. Sizes of files are moved twice, with each run's burst and on their own (interweaving:
Yu and Meng 2011), as one of the two always goes slowly.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from engine.burst.plan import Records
from engine.measurement.fluid import QuickLook
from engine.measurement.forward import (
    Noted,
    Real,
    distinct_setups,
    log_likelihood,
    plans_of,
    seen_by,
)
from engine.measurement.population import (
    Population,
    burst_spreads,
    drawn_couplings,
    format_columns,
)
from engine.measurement.runs import Run

BODIES = 200  # at a time; those of LAST_ROUNDS are kept in the end
FIRST_BODIES = 8  # times as many are drawn at first, so that no kind of body is overlooked
MOST_FRAMES = 100_000_000  # that are shot in all, some seconds of one core
USUAL_STEPS = 10
FEWEST_MOVES, MOST_MOVES = 3, 8  # after each step
LAST_ROUNDS = 4  # of as many moves after the last one
KEPT_SHARE = 0.6  # effective bodies after each step
QUICK_MOVES = 12  # of each chain of bodies
SIZES_ALONE = 0.2  # of these change mean sizes alone
MOVES_OF_RUNS = 4  # of each chain of runs
FLIPS = 0.2  # of the moves try another coupling
ALONE = 0.6  # of the moves change one figure alone
STEPS, STEPS_ALONE = (0.15, 0.5, 1.0), (0.1, 0.4, 1.0, 2.0)  # of the usual length of a move
MOST_STEPS = 60  # of tempering; the rest is weighed in at once
SEED = 0


@dataclass
class Learning:
    """Learning under way: `advance` until `share`, of what was seen, is 1."""

    runs: Sequence[Run]
    count: int = BODIES
    seed: int = SEED
    share: float = field(default=0.0, init=False)
    population: Population = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.Generator(np.random.PCG64(self.seed))
        self.population = Population.drawn(self.runs, self.count * FIRST_BODIES, self._random)
        self._noted = Noted.of(self.runs)
        self._quick_look = QuickLook(self.runs, self.population.unknowns, self._noted)
        self._setups, self._setup_of = distinct_setups(self.runs)
        self._plans = self._planned(self.population)
        self._fits = self._likelihood(self.population, self._plans)
        self._formats = format_columns(self.runs, self.population.unknowns)
        self._spreads = burst_spreads(self.runs)
        self._hold_s = np.array([run.accuracy.hold_s for run in self.runs])
        self._steps = 0
        shot = self.count * sum(run.scenario.frames_due for run in self.runs)
        moves = MOST_FRAMES // (2 * shot * (USUAL_STEPS + LAST_ROUNDS))
        self._moves = min(max(moves, FEWEST_MOVES), MOST_MOVES)

    @property
    def is_done(self) -> bool:
        """Whether all that was seen is weighed in."""
        return self.share >= 1

    def advance(self) -> None:
        """Weighs in a little more of what was seen."""
        totals = self._fits.sum(axis=1)
        self._steps += 1
        more = 1 - self.share
        if self._steps < MOST_STEPS:
            more = _largest_step(totals, more, KEPT_SHARE * self.count)
        weights = _weights(totals, more)
        self._keep(_systematic(weights, self.count, self._random))
        self.share = min(self.share + more, 1.0)
        self._move()
        if self.is_done:
            rounds = [self.population]
            for _ in range(LAST_ROUNDS - 1):
                self._move()
                rounds.append(self.population)
            self.population = Population.joined(rounds)

    def _move(self) -> None:
        """Moves all bodies, each round a chain of quick moves that the simulation then judges.

        The chain leaves as it is what the fluid model makes of the bodies; where it ends is taken
        with the odds of the two models' ratio there and at its start (surrogate transition: Liu
        2001).
        """
        for _ in range(self._moves):
            self._move_bodies()
            self._move_runs()

    def _move_bodies(self) -> None:
        """Figures and mean sizes, each body on its own."""
        start, quick_start = self.population, self._quick(self.population)
        end, quick_end = self._quick_chain(start, quick_start)
        plans = self._planned(end)
        fits = self._likelihood(end, plans)
        off = (fits - quick_end).sum(axis=1) - (self._fits - quick_start).sum(axis=1)
        taken = self._odds() < self.share * off
        self.population = start.with_chosen(end, taken)
        self._plans[taken] = plans[taken]
        self._fits = np.where(taken[:, None], fits, self._fits)

    def _move_runs(self) -> None:
        """The size of each run's burst and the length of its hold, each run on its own.

        What one run shows tells nothing of another's burst, so that each is taken or not by itself:
        of many runs some always would be refused.
        """
        start = end = self.population
        quick_start = quick_end = self._quick(start)
        for _ in range(MOVES_OF_RUNS):
            end, quick_end = self._move_bursts(end, quick_end)
        fits = self._likelihood(end, self._plans)
        taken = self._odds(fits.shape) < self.share * (fits - quick_end - self._fits + quick_start)
        self.population = replace(
            start,
            bursts=np.where(taken, end.bursts, start.bursts),
            holds_s=np.where(taken, end.holds_s, start.holds_s),
        )
        self._fits = np.where(taken, fits, self._fits)

    def _keep(self, places: NDArray[np.int64]) -> None:
        self.population = self.population.chosen(places)
        self._plans = self._plans[places]
        self._fits = self._fits[places]

    def _planned(self, population: Population) -> Records:
        return plans_of(population, self._setups)[:, self._setup_of]

    def _likelihood(self, population: Population, plans: Records) -> Real:
        return log_likelihood(self._noted, seen_by(population, self.runs, plans))

    def _odds(self, shape: int | tuple[int, ...] | None = None) -> Real:
        return np.log(self._random.random(self.population.count if shape is None else shape))

    def _quick(self, population: Population) -> Real:
        return self._quick_look.log_likelihood(population)

    def _quick_chain(self, now: Population, fits: Real) -> tuple[Population, Real]:
        """Moves of Metropolis and Hastings as the fluid model judges them, in a random order."""
        directions, deviations = _directions(now)
        for of_sizes in self._random.random(QUICK_MOVES) < SIZES_ALONE:
            if of_sizes:
                now = self._draw_sizes(now)
            else:
                now, fits = self._move_figures(now, fits, directions, deviations)
        return now, fits

    def _move_figures(
        self, now: Population, fits: Real, directions: Real, deviations: Real
    ) -> tuple[Population, Real]:
        """Figures and mean sizes: along the directions in which the bodies differ, or one alone.

        One alone matters where another is the bottleneck: the first is then free to vary.
        """
        random, count, width = self._random, now.count, len(deviations)
        length = 2.38 / math.sqrt(width) * random.choice(STEPS, count)
        step = length[:, None] * (random.standard_normal((count, width)) @ directions.T)
        alone = random.random(count) < ALONE
        one = random.integers(width, size=count)
        far = random.choice(STEPS_ALONE, count) * random.standard_normal(count)
        step[alone] = 0
        step[alone, one[alone]] = (far * deviations[one])[alone]
        couplings = now.couplings.copy()
        if couplings.shape[1]:
            flips = random.random(count) < FLIPS
            step[flips] = 0
            couplings[flips] = drawn_couplings(random, couplings[flips].shape)
        figures = now.normals.shape[1]
        tried = replace(
            now,
            normals=now.normals + step[:, :figures],
            sizes=now.sizes + step[:, figures:],
            bursts=now.bursts + step[:, figures:][:, self._formats],
            couplings=couplings,
        )
        new = self._quick(tried)
        gain = self.share * (new - fits).sum(axis=1) + _prior(tried) - _prior(now)
        taken = self._odds() < gain
        return now.with_chosen(tried, taken), np.where(taken[:, None], new, fits)

    def _move_bursts(self, now: Population, fits: Real) -> tuple[Population, Real]:
        """The size of each run's burst and the length of its hold, each run on its own."""
        shape, means = now.bursts.shape, now.sizes[:, self._formats]
        step = self._random.choice(STEPS_ALONE, shape)
        bursts = now.bursts + step * self._spreads * self._random.standard_normal(shape)
        holds_s = now.holds_s + step * self._hold_s * self._random.standard_normal(shape)
        tried = replace(now, bursts=bursts, holds_s=holds_s)
        new = self._quick(tried)

        def prior(one: Population) -> Real:
            size = (one.bursts - means) / self._spreads
            return np.asarray(-(size**2 + (one.holds_s / self._hold_s) ** 2) / 2)

        taken = self._odds(shape) < self.share * (new - fits) + prior(tried) - prior(now)
        bursts = np.where(taken, bursts, now.bursts)
        holds_s = np.where(taken, holds_s, now.holds_s)
        return replace(now, bursts=bursts, holds_s=holds_s), np.where(taken, new, fits)

    def _draw_sizes(self, now: Population) -> Population:
        """The mean size of each format given those of its bursts, which is known in closed form."""
        of_format = self._formats[:, None] == np.arange(now.sizes.shape[1])
        precision = of_format.T @ self._spreads**-2.0
        prior = now.unknowns.format_spreads**-2.0
        means = (now.bursts * self._spreads**-2.0) @ of_format / (precision + prior)
        deviation = (precision + prior) ** -0.5
        return replace(now, sizes=means + deviation * self._random.standard_normal(now.sizes.shape))


def learn(runs: Sequence[Run], count: int = BODIES, seed: int = SEED) -> Population:
    """Equally likely bodies after all that `runs` have shown; the same at every call."""
    learning = Learning(runs, count, seed)
    while not learning.is_done:
        learning.advance()
    return learning.population


def _directions(population: Population) -> tuple[Real, Real]:
    """The directions in which figures and sizes of the bodies differ, and how much each does."""
    both = np.concatenate([population.normals, population.sizes], axis=1)
    spread = np.cov(both, rowvar=False).reshape(both.shape[1], -1)
    spread += 1e-8 * np.eye(len(spread))
    return np.linalg.cholesky(spread), np.sqrt(np.diag(spread))


def _prior(population: Population) -> Real:
    of_sizes = ((population.sizes / population.unknowns.format_spreads) ** 2).sum(axis=1)
    return np.asarray(-((population.normals**2).sum(axis=1) + of_sizes) / 2)


def _weights(totals: Real, more: float) -> Real:
    logs = more * totals
    weights = np.exp(logs - logs.max())
    return np.asarray(weights / weights.sum())


def _largest_step(totals: Real, most: float, least_effective: float) -> float:
    """The most that can be weighed in so that enough different bodies are left (bisection)."""

    def effective(more: float) -> float:
        return float(1 / (_weights(totals, more) ** 2).sum())

    if effective(most) >= least_effective:
        return most
    low, high = 0.0, most
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if effective(middle) >= least_effective else (low, middle)
    return max(low, 1e-6)


def _systematic(weights: Real, count: int, random: np.random.Generator) -> NDArray[np.int64]:
    """Places of `count` copies, each as often as its weight says, to within one."""
    marks = (random.random() + np.arange(count)) / count
    return np.searchsorted(np.cumsum(weights), marks).clip(max=len(weights) - 1)
