"""Learns a body from its runs: Bayesian inference by sequential Monte Carlo.

A population of bodies is drawn from more than what is assumed, WIDER, so that a body that nobody
would have thought of is among them, and what is assumed and what was seen are weighed in little by
little (tempering: Del Moral, Doucet and Jasra 2006): at each step the bodies that fit less are
replaced by copies of those that fit better, and all are moved by steps of Metropolis and Hastings
that leave the distribution as it is. What is left at the end are equally likely bodies.

How well a body fits is judged by the fluid model (`fluid`). Once everything is weighed in, the
bodies shoot every run in the simulation, by which the fluid model is calibrated where they are, a
few times (an emulator of the simulation: Kennedy and O'Hagan 2001). Judged by the simulation itself
a body would leap from whole frame to whole frame in every run with each move, so that of many runs
nearly all moves would be refused.

Sizes of files are moved twice, with each run's burst and on their own (interweaving: Yu and Meng
2011), as one of the two always goes slowly.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np
import scipy  # which imports what is used of it then: a second that no start need wait for
from numpy.typing import NDArray

from engine.figures.key import FigureKind
from engine.measurement.fluid import QuickLook
from engine.measurement.forward import Noted, Real, Seen, seen_by, usual_misfit
from engine.measurement.population import (
    Population,
    Whole,
    burst_spreads,
    drawn_couplings,
    format_columns,
)
from engine.measurement.runs import ObservedRun

BODIES = 200  # at a time; those of LAST_ROUNDS are kept in the end
WIDER, WIDEST = 2.0, 8.0  # times, on the scale of normals, all figures are drawn at first
FIRST_BODIES = 8  # times as many are drawn at first, so that no kind of body is overlooked
KEPT_SHARE = 0.35  # effective bodies after each step
LEAST_STEP = 1e-6  # of what was seen
MOST_STEPS = 60  # of tempering; the rest is weighed in at once
CALIBRATIONS, MOST_TRIES = 3, 8
# Where runs are usually off by so many of their deviations, all errors are taken to be as much
# larger, as combined measurements are that disagree (the Birge ratio), until they fit. Honest runs
# of one body come to 1.8 at most in 120 trials, runs of two bodies to 5 or more in most.
BAD_FIT, MOST_ERRORS = 2.0, 100.0
LAST_ROUNDS = 4  # after which the bodies are kept
FEW_CHAINS, MANY_CHAINS = 3, 10  # after a step of tempering, and when all is weighed in
MOVES = 12  # of each chain of bodies
SIZES_ALONE = 0.2  # of these change mean sizes alone
MOVES_OF_RUNS = 4  # of each chain of runs
FLIPS = 0.2  # of the moves try another coupling
ALONE = 0.3  # of the moves change one figure alone
REDRAWN, FEW = 0.4, 2.0  # of the moves redraw a few figures, so many on average
REDRAWN_SHARES = (0.3, 0.7, 1.0)  # how much of a figure is drawn anew
# In MB or MB/s, beside the sizes of files.
IN_MB = (
    FigureKind.MEMORY, FigureKind.HELD, FigureKind.CARD, FigureKind.SLOT, FigureKind.CACHE,
)  # fmt: skip
STEPS, STEPS_ALONE = (0.15, 0.5, 1.0), (0.1, 0.4, 1.0, 2.0)  # of the usual length of a move
SEED = 0


class _Step(NamedTuple):
    """A step of every body, to be taken or not (first axis: bodies).

    Figures are multiplied by `kept`, then added to; of `flipped` bodies only couplings change. Of
    `redrawn` bodies figures are drawn anew. `odds` are the logarithms of evenly drawn shares.
    """

    kept: Real
    figures: Real
    sizes: Real
    flipped: NDArray[np.bool_]
    couplings: Whole
    redrawn: NDArray[np.bool_]
    odds: Real


@dataclass
class Learning:
    """Learning under way: `advance` until `is_done`."""

    runs: Sequence[ObservedRun]
    count: int = BODIES
    seed: int = SEED
    wider: float = field(default=WIDER, init=False)
    error_ratio: float = field(default=1.0, init=False)
    population: Population = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.Generator(np.random.PCG64(self.seed))
        self._begin()

    def _begin(self) -> None:
        drawn = Population.drawn(self.runs, self.count * FIRST_BODIES, self._random)
        self.population = replace(drawn, normals=self.wider * drawn.normals)
        self._take_note()
        self._fits = self._look.log_likelihood(self.population)
        self._formats = format_columns(self.runs, self.population.unknowns)
        self._spreads = burst_spreads(self.runs)
        self._hold_s = np.array([run.accuracy.hold_s for run in self.runs])
        self._scaled = [key for key in self.population.unknowns.figures if key.kind in IN_MB]
        self._weight = 0.0  # how much of what was seen is weighed in
        self._steps = self._calibrations = self._tries = 0
        self._kept: list[Population] = []

    def _take_note(self) -> None:
        """Of what was noted, as exactly as it is taken to be."""
        noted = Noted.of(self.runs).with_errors(self.error_ratio)
        self._look = QuickLook(self.runs, self.population.unknowns, noted)

    @property
    def share(self) -> float:
        """How much of the work is done."""
        done = self._weight + self._calibrations + len(self._kept)
        return done / (1 + CALIBRATIONS + LAST_ROUNDS)

    @property
    def is_done(self) -> bool:
        """Whether all bodies are found that are to be kept."""
        return len(self._kept) == LAST_ROUNDS

    @property
    def effective_count(self) -> int:
        """How many independent bodies are as good as those that are kept, of the worst figure.

        By how alike a body is to what it was a round before (effective sample size of Markov
        chains); it is known once all are kept.
        """
        return effective_count(np.stack([one.normals for one in self._kept]))

    def advance(self) -> None:
        """Weighs in a little more of what was seen, then calibrates, then keeps bodies.

        Where that leaves too few different bodies it begins again, from a wider start.
        """
        if self._weight < 1:
            self._weigh_in()
        elif self._calibrations < CALIBRATIONS:
            self._calibrate()
        else:
            self._move(MANY_CHAINS)
            self._kept.append(self.population)
            if self.is_done:
                self.population = Population.joined(self._kept)

    def finished(self, advanced: Callable[[], object] = lambda: None) -> Population:
        """The bodies that are kept, after all that is left to do; calls `advanced` at each step."""
        while not self.is_done:
            self.advance()
            advanced()
        return self.population

    def _weigh_in(self) -> None:
        normals = self.population.normals
        totals = self._fits.sum(axis=1) - (1 - self.wider**-2) / 2 * (normals**2).sum(axis=1)
        self._steps += 1
        more = 1 - self._weight
        if self._steps < MOST_STEPS:
            more = _largest_step(totals, more, KEPT_SHARE * self.count)
        elif self.wider < WIDEST:
            self.wider *= 2
            self._begin()
            return
        self._keep(_weights(more * totals))
        self._weight = min(self._weight + more, 1.0)
        self._move(FEW_CHAINS)

    def _calibrate(self) -> None:
        seen = seen_by(self.population, self.runs)
        if self._calibrations == CALIBRATIONS - 1:
            self._doubt_errors(seen)
        self._look.calibrate(self.population, seen)
        fits = self._look.log_likelihood(self.population)
        gain = (fits - self._fits).sum(axis=1)
        self._tries += 1
        part = 1.0 if self._tries > MOST_TRIES else _largest_step(gain, 1, KEPT_SHARE * self.count)
        self._fits = fits
        self._keep(_weights(part * gain))
        # Bodies that were weighed in part only are moved to where they fit, and calibrated again.
        self._calibrations += part == 1
        self._move(MANY_CHAINS)

    def _doubt_errors(self, seen: Seen) -> None:
        """Takes all that was noted for less exact where most of it is off what bodies show."""
        misfit = usual_misfit(Noted.of(self.runs), seen)
        if misfit > BAD_FIT and self.error_ratio < MOST_ERRORS:
            self.error_ratio = min(self.error_ratio * misfit, MOST_ERRORS)
            self._take_note()
            self._calibrations = 0

    def _keep(self, weights: Real) -> None:
        places = _systematic(weights, self.count, self._random)
        self.population = self.population.chosen(places)
        self._fits = self._fits[places]

    def _move(self, chains: int) -> None:
        for _ in range(chains):
            alone = self._random.random(MOVES) < SIZES_ALONE
            steps = self._drawn_steps(int((~alone).sum()))
            for of_sizes in alone:
                if of_sizes:
                    self._draw_sizes()
                else:
                    self._move_figures(next(steps))
            for _ in range(MOVES_OF_RUNS):
                self._move_bursts()
            self._move_scale()

    @property
    def _narrowness(self) -> float:
        """How much narrower than at first, where 1 is what is assumed, as a precision."""
        return self._weight + (1 - self._weight) * self.wider**-2

    def _prior(self, population: Population) -> Real:
        squares = (population.normals**2).sum(axis=1)
        return np.asarray(_prior_of_sizes(population) - self._narrowness * squares / 2)

    def _odds(self, shape: int | tuple[int, ...]) -> Real:
        return np.log(self._random.random(shape))

    def _move_figures(self, by: _Step) -> None:
        """Figures and mean sizes, and how slots share the work."""
        now = self.population
        tried = replace(
            now,
            normals=by.kept * now.normals + by.figures,
            sizes=now.sizes + by.sizes,
            bursts=now.bursts + by.sizes[:, self._formats],
            couplings=np.where(by.flipped[:, None], by.couplings, now.couplings),
        )
        fits = self._look.log_likelihood(tried)
        gain = self._weight * (fits - self._fits).sum(axis=1)
        # What is drawn from the assumptions has them in it already.
        gain += np.where(by.redrawn, 0.0, self._prior(tried) - self._prior(now))
        self._take(tried, fits, by.odds < gain)

    def _drawn_steps(self, count: int) -> Iterator[_Step]:
        """So many steps of all bodies, all drawn at once, which is much quicker.

        Along the directions in which the bodies differ; or of one figure alone, which matters where
        another is the bottleneck, so that the first is free to vary; or of a few, as most figures
        are such of which the runs tell little. Some only try another coupling.
        """
        random, now = self._random, self.population
        directions, deviations = _directions(now)
        shape, figures, width = (count, now.count), now.normals.shape[1], len(deviations)
        steps, kept = np.zeros((*shape, width)), np.ones((*shape, figures))
        how = random.random(shape)
        flipped = np.zeros(shape, dtype=np.bool_)
        if now.couplings.shape[1]:
            flipped = random.random(shape) < FLIPS
        alone, redrawn = ~flipped & (how < ALONE), ~flipped & (how > 1 - REDRAWN)
        together = ~(flipped | alone | redrawn)
        drawn = random.standard_normal((int(together.sum()), width)) @ directions.T
        steps[together] = 2.38 / math.sqrt(width) * random.choice(STEPS, (len(drawn), 1)) * drawn
        which, bodies = np.nonzero(alone)
        one = random.integers(width, size=len(which))
        far = random.choice(STEPS_ALONE, len(which)) * random.standard_normal(len(which))
        steps[which, bodies, one] = far * deviations[one]
        kept[redrawn], steps[redrawn, :figures] = self._drawn_anew((int(redrawn.sum()), figures))
        couplings = drawn_couplings(random, (*shape, now.couplings.shape[1]))
        of_figures, of_sizes = steps[:, :, :figures], steps[:, :, figures:]
        parts = kept, of_figures, of_sizes, flipped, couplings, redrawn, self._odds(shape)
        yield from map(_Step._make, zip(*parts, strict=True))

    def _drawn_anew(self, shape: tuple[int, int]) -> tuple[Real, Real]:
        """Steps that draw a few figures anew, in part, from what is assumed of them.

        What is kept of each figure, and what is added. By the preconditioned Crank-Nicolson
        proposal (Cotter, Roberts, Stuart and White 2013).
        """
        share = self._random.choice(REDRAWN_SHARES, (shape[0], 1))
        fresh = self._random.standard_normal(shape) / math.sqrt(self._narrowness)
        chosen = self._random.random(shape) < FEW / max(shape[1], 1)
        return np.where(chosen, np.sqrt(1 - share**2), 1.0), np.where(chosen, share * fresh, 0.0)

    def _move_bursts(self) -> None:
        """The size of each run's burst and the length of its hold, each run on its own.

        What one run shows tells nothing of another's burst, so that each is taken or not by itself:
        of many runs some always would be refused.
        """
        now = self.population
        shape, means = now.bursts.shape, now.sizes[:, self._formats]
        step = self._random.choice(STEPS_ALONE, shape)
        bursts = now.bursts + step * self._spreads * self._random.standard_normal(shape)
        holds_s = now.holds_s + step * self._hold_s * self._random.standard_normal(shape)
        tried = replace(now, bursts=bursts, holds_s=holds_s)
        fits = self._look.log_likelihood(tried)

        def prior(one: Population) -> Real:
            size = (one.bursts - means) / self._spreads
            hold = one.holds_s / self._hold_s - one.habits
            return np.asarray(-(size**2 + hold**2) / 2)

        gain = self._weight * (fits - self._fits) + prior(tried) - prior(now)
        taken = self._odds(shape) < gain
        bursts = np.where(taken, bursts, now.bursts)
        holds_s = np.where(taken, holds_s, now.holds_s)
        habits = self._drawn_habits(holds_s)
        self.population = replace(now, bursts=bursts, holds_s=holds_s, habits=habits)
        self._fits = np.where(taken, fits, self._fits)

    def _drawn_habits(self, holds_s: Real) -> Real:
        """How late or early the person usually is, given the holds, which is known."""
        off, precision = (holds_s / self._hold_s).sum(axis=1, keepdims=True), 1 + len(self.runs)
        deviations = self._random.standard_normal(off.shape) / math.sqrt(precision)
        return np.asarray(off / precision + deviations)

    def _move_scale(self) -> None:
        """All that is in MB or MB/s by one factor: counts and times stay as they are.

        Runs without files tell nothing of that factor, so that bodies differ in it most.
        """
        now, random = self.population, self._random
        spread = float(now.sizes.std(axis=0).min())
        step = random.choice(STEPS_ALONE, now.count) * spread * random.standard_normal(now.count)
        deviations, faster = now.deviations.copy(), np.zeros(now.count)
        for key in self._scaled:
            column = deviations[:, now.unknowns.column[key]]
            moved, more = now.unknowns.figures[key].multiplied(column, step)
            # The density of the ratio is that of its deviation, by how fast the one follows.
            faster += more + (moved**2 - column**2) / 2
            column[:] = moved
        longer = step[:, None]
        tried = replace(
            now.with_deviations(deviations), sizes=now.sizes + longer, bursts=now.bursts + longer
        )
        fits = self._look.log_likelihood(tried)
        gain = faster + self._prior(tried) - self._prior(now)
        gain += self._weight * (fits - self._fits).sum(axis=1)
        self._take(tried, fits, self._odds(now.count) < gain)

    def _take(self, tried: Population, fits: Real, taken: NDArray[np.bool_]) -> None:
        self.population = self.population.with_chosen(tried, taken)
        self._fits = np.where(taken[:, None], fits, self._fits)

    def _draw_sizes(self) -> None:
        """The mean size of each format given those of its bursts, which is known in closed form."""
        now = self.population
        of_format = self._formats[:, None] == np.arange(now.sizes.shape[1])
        of_bursts = np.diag(of_format.T @ self._spreads**-2.0)
        covariance = np.linalg.inv(now.unknowns.size_precision + of_bursts)
        means = (now.bursts * self._spreads**-2.0) @ of_format @ covariance
        normals = self._random.standard_normal(now.sizes.shape)
        drawn = means + normals @ np.linalg.cholesky(covariance).T
        self.population = replace(now, sizes=drawn)


def learn(runs: Sequence[ObservedRun], count: int = BODIES, seed: int = SEED) -> Population:
    """Equally likely bodies after all that `runs` have shown; the same at every call."""
    return Learning(runs, count, seed).finished()


def effective_count(rounds: Real) -> int:
    """The effective sample size of the worst of several numbers (axes: round, chain, number)."""
    apart = rounds - rounds.mean(axis=(0, 1))
    variance = (apart**2).mean(axis=(0, 1)).clip(1e-12)
    count, chains, _ = rounds.shape
    alike = np.zeros_like(variance)
    for lag in range(1, count):
        alike += (1 - lag / count) * (apart[:-lag] * apart[lag:]).mean(axis=(0, 1)) / variance
    return int((count * chains / (1 + 2 * alike.clip(0)).max()).round())


def _directions(population: Population) -> tuple[Real, Real]:
    """The directions in which figures and sizes of the bodies differ, and how much each does."""
    both = np.concatenate([population.normals, population.sizes], axis=1)
    spread = np.cov(both, rowvar=False).reshape(both.shape[1], -1)
    spread += 1e-8 * np.eye(len(spread))
    return np.linalg.cholesky(spread), np.sqrt(np.diag(spread))


def _prior_of_sizes(population: Population) -> Real:
    sizes = population.sizes
    squares = (sizes @ population.unknowns.size_precision * sizes).sum(axis=1)
    return np.asarray(-squares / 2)


def _weights(logs: Real) -> Real:
    weights = np.exp(logs - logs.max())
    return np.asarray(weights / weights.sum())


def _largest_step(totals: Real, most: float, least_effective: float) -> float:
    """The most that can be weighed in so that enough different bodies are left."""

    def spare(more: float) -> float:
        return float(1 / (_weights(more * totals) ** 2).sum()) - least_effective

    if spare(most) >= 0:
        return most
    found = float(scipy.optimize.brentq(spare, 0, most, xtol=LEAST_STEP / 10))
    return max(found, LEAST_STEP)


def _systematic(weights: Real, count: int, random: np.random.Generator) -> NDArray[np.int64]:
    """Places of `count` copies, each as often as its weight says, to within one."""
    marks = (random.random() + np.arange(count)) / count
    return np.searchsorted(np.cumsum(weights), marks).clip(max=len(weights) - 1)
