"""Bodies that may be the true one: a population of guesses at every hidden figure.

A figure is kept as a standard normal number, whatever is assumed of it, so that moves know one
prior only; figures that have causes in common are mixed of such numbers. Sizes of files are in two
levels: a mean of the format, and the mean of each run's burst around it.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from engine.burst.plan import COUPLING_NUMBER
from engine.burst.scenario import Scenario
from engine.figures.key import Factor, FigureKey, FigureKind
from engine.figures.uncertainty import Uncertainty, skewed_ratios
from engine.measurement.runs import ObservedRun
from engine.uncertainty.sources import COUPLING, FILES, ODDS_OF_COUPLING, Sources

Real = NDArray[np.float64]
Whole = NDArray[np.int64]

PARTS = ("normals", "sizes", "bursts", "habits", "holds_s", "couplings")
LEAST_SPREAD = 0.005  # from burst to burst: no two scenes are the same


@dataclass(frozen=True)
class Unknowns:
    """What is to be learnt from `runs`: how sure each figure is, and the spread of each file size.

    `couplings` are those that nobody knows, `in_common` what figures and sizes have in common with
    others, by cause.
    """

    figures: dict[FigureKey, Uncertainty]
    formats: dict[FigureKey, float]
    couplings: list[FigureKey]
    in_common: dict[FigureKey, Mapping[str, float]]

    @classmethod
    def of(cls, runs: Iterable[ObservedRun]) -> "Unknowns":
        """All that the runs have, each figure as sure as the first of them says."""
        found = cls({}, {}, [], {})
        for run in runs:
            found = found.with_setup(run.sources, run.figures)
        return found

    def with_setup(self, sources: Sources, figures: Mapping[Factor, FigureKey]) -> "Unknowns":
        """With those that a set-up has beside these, in their order."""
        found = Unknowns(
            dict(self.figures), dict(self.formats), list(self.couplings), dict(self.in_common)
        )
        known = sources.factors
        for factor, key in figures.items():
            if factor == COUPLING:
                if not sources.knows_coupling and key not in found.couplings:
                    found.couplings.append(key)
            elif factor == FILES:
                found.formats.setdefault(key, known[factor].spread)
            elif factor in known and known[factor].spread > 0:
                found.figures.setdefault(key, known[factor])
            if parts := sources.parts_of(factor):
                found.in_common.setdefault(key, parts)
        return found

    @cached_property
    def column(self) -> dict[FigureKey, int]:
        """The place of each figure."""
        return {key: place for place, key in enumerate(self.figures)}

    @cached_property
    def skewed_columns(self) -> tuple[Whole, Real]:
        """The places of figures whose ratios are skewed ones, and a row each of their numbers."""
        numbers = {
            place: found
            for place, one in enumerate(self.figures.values())
            if (found := one.skewed_numbers)
        }
        return np.array(list(numbers), np.int64), np.array(list(numbers.values())).reshape(-1, 4).T

    @cached_property
    def other_columns(self) -> list[tuple[int, Uncertainty]]:
        """The places of all other figures, and how sure each is."""
        skewed = set(self.skewed_columns[0].tolist())
        figures = enumerate(self.figures.values())
        return [(place, figure) for place, figure in figures if place not in skewed]

    @cached_property
    def format_column(self) -> dict[FigureKey, int]:
        """The place of each format."""
        return {key: place for place, key in enumerate(self.formats)}

    @cached_property
    def format_spreads(self) -> Real:
        """How sure the mean size of each format is; never quite, so that it can be divided by."""
        return np.asarray(np.maximum(list(self.formats.values()), 1e-9))

    @cached_property
    def mixed_columns(self) -> tuple[Whole, Real]:
        """The places of figures that have something in common, and how they are mixed.

        The first of them is its normal number; each other one has, by the rows of the matrix, of
        those before it too.
        """
        keys = [key for key in self.figures if key in self.in_common]
        places = np.array([self.column[key] for key in keys], np.int64)
        return places, np.asarray(np.linalg.cholesky(self._correlations(keys)))

    @cached_property
    def mixed_sizes(self) -> Real:
        """How mean sizes of formats are mixed of standard normal numbers, in the same way."""
        correlations = self._correlations(list(self.formats))
        return np.asarray(self.format_spreads[:, None] * np.linalg.cholesky(correlations))

    @cached_property
    def size_precision(self) -> Real:
        """The inverse of the covariance of mean sizes, as they are assumed."""
        alone = np.linalg.inv(self.mixed_sizes)
        return np.asarray(alone.T @ alone)

    def _correlations(self, keys: Sequence[FigureKey]) -> Real:
        parts = [self.in_common.get(key, {}) for key in keys]
        causes = sorted({cause for one in parts for cause in one})
        of_causes = np.array([[one.get(cause, 0.0) for cause in causes] for one in parts])
        correlations = of_causes @ of_causes.T if len(causes) else np.eye(len(keys))
        np.fill_diagonal(correlations, 1.0)
        return np.asarray(correlations)


@dataclass(frozen=True)
class Population:
    """Guesses (first axis) at everything: rows of one guess belong together.

    `normals` has the figures, `sizes` the logarithm of each format's mean file size against the
    assumed one, `bursts` that of each run's burst, `holds_s` how much longer the button was down
    than was noted, `couplings` the numbers of those that nobody knows. Half of what the holds are
    off by is a habit of the person, late or early in all runs: `habits` has it on the scale of
    normals.
    """

    unknowns: Unknowns
    normals: Real
    sizes: Real
    bursts: Real
    habits: Real
    holds_s: Real
    couplings: Whole

    @classmethod
    def drawn(
        cls, runs: Sequence[ObservedRun], count: int, random: np.random.Generator
    ) -> "Population":
        """So many guesses from what is assumed."""
        unknowns = Unknowns.of(runs)
        sizes = random.standard_normal((count, len(unknowns.formats))) @ unknowns.mixed_sizes.T
        means = sizes[:, format_columns(runs, unknowns)]
        habits = random.standard_normal((count, 1))
        holds = np.array([run.accuracy.hold_s for run in runs])
        return cls(
            unknowns,
            random.standard_normal((count, len(unknowns.figures))),
            sizes,
            means + random.standard_normal(means.shape) * burst_spreads(runs),
            habits,
            (habits + random.standard_normal((count, len(runs)))) * holds,
            drawn_couplings(random, (count, len(unknowns.couplings))),
        )

    @property
    def count(self) -> int:
        """How many guesses."""
        return len(self.normals)

    def chosen(self, places: Whole) -> "Population":
        """The guesses at `places`."""
        return replace(self, **{name: getattr(self, name)[places] for name in PARTS})

    def with_chosen(self, other: "Population", places: NDArray[np.bool_]) -> "Population":
        """These guesses, with those of `other` at `places`."""
        parts: dict[str, Any] = {
            name: np.where(places[:, None], getattr(other, name), getattr(self, name))
            for name in PARTS
        }
        return replace(self, **parts)

    @property
    def without_bursts(self) -> "Population":
        """The bodies alone: what they are, not what they did in the runs."""
        return replace(self, bursts=self.bursts[:, :0], holds_s=self.holds_s[:, :0])

    @classmethod
    def joined(cls, rounds: Sequence["Population"]) -> "Population":
        """All guesses of several populations of the same runs."""
        parts: dict[str, Any] = {
            name: np.concatenate([getattr(one, name) for one in rounds]) for name in PARTS
        }
        return replace(rounds[0], **parts)

    def ratios(self, key: FigureKey | None) -> Real:
        """A figure against the assumed one; 1 for what is known exactly."""
        known = self._ratios.get(key) if key else None
        return np.ones(self.count) if known is None else known

    @cached_property
    def _ratios(self) -> dict[FigureKey, Real]:
        of_figures = dict(zip(self.unknowns.figures, self.ratio_columns.T, strict=True))
        return of_figures | dict(zip(self.unknowns.formats, np.exp(self.sizes.T), strict=True))

    @cached_property
    def deviations(self) -> Real:
        """How far each figure is from what is assumed, in standard deviations."""
        places, mixing = self.unknowns.mixed_columns
        if not len(places):
            return self.normals
        deviations = self.normals.copy()
        deviations[:, places] = self.normals[:, places] @ mixing.T
        return deviations

    def with_deviations(self, deviations: Real) -> "Population":
        """The same guesses with figures so far from what is assumed."""
        places, mixing = self.unknowns.mixed_columns
        normals = deviations.copy()
        if len(places):
            normals[:, places] = np.linalg.solve(mixing, deviations[:, places].T).T
        return replace(self, normals=normals)

    def with_unknowns(self, unknowns: Unknowns, random: np.random.Generator) -> "Population":
        """With figures, sizes and couplings beside those that it has, which are the first ones.

        As they are assumed, given what they have in common with the others.
        """
        more = len(unknowns.formats) - len(self.unknowns.formats)
        fresh = random.standard_normal((self.count, more))
        mixing, known = unknowns.mixed_sizes[self.sizes.shape[1] :], self.unknowns.mixed_sizes
        of_sizes = np.hstack([np.linalg.solve(known, self.sizes.T).T, fresh])
        columns = (self.count, len(unknowns.figures) - len(self.unknowns.figures))
        couplings = (self.count, len(unknowns.couplings) - len(self.unknowns.couplings))
        return replace(
            self,
            unknowns=unknowns,
            normals=np.hstack([self.normals, random.standard_normal(columns)]),
            sizes=np.hstack([self.sizes, of_sizes @ mixing.T]),
            couplings=np.hstack([self.couplings, drawn_couplings(random, couplings)]),
        )

    @cached_property
    def ratio_columns(self) -> Real:
        """Every figure against the assumed one (axes: guess, figure)."""
        places, numbers = self.unknowns.skewed_columns
        columns = np.empty_like(self.deviations)
        columns[:, places] = skewed_ratios(self.deviations[:, places], *numbers)
        for place, figure in self.unknowns.other_columns:
            columns[:, place] = figure.ratios(self.deviations[:, place])
        return columns

    def couplings_of(self, figures: Mapping[Factor, FigureKey], scenario: Scenario) -> Whole:
        """The number of a set-up's coupling in every guess; that of `scenario` if it is known."""
        key = figures.get(COUPLING)
        if key in self.unknowns.couplings:
            return self.couplings_called(key)
        return np.full(self.count, COUPLING_NUMBER[scenario.coupling])

    def couplings_called(self, key: FigureKey) -> Whole:
        """The number of an unknown coupling in every guess."""
        return self.couplings[:, self.unknowns.couplings.index(key)]


@dataclass(frozen=True)
class PopulationDraws:
    """The numbers of one set-up as a population has them, for the sweep of predictions.

    `figures` has the figure that each factor is; `bursts` are the ratios of the burst's mean
    file size against the assumed one.
    """

    population: Population
    figures: Mapping[Factor, FigureKey]
    bursts: Real

    @property
    def count(self) -> int:
        """How many guesses."""
        return self.population.count

    def ratios(self, factor: Factor, uncertainty: Uncertainty) -> Real:
        """What a number is multiplied by in each guess; bursts carry the format's size too."""
        if factor.kind is FigureKind.BURST:
            return self.bursts
        return self.population.ratios(None if factor == FILES else self.figures.get(factor))

    def couplings(self, scenario: Scenario, sources: Sources) -> Whole:
        """The number of the coupling in each guess."""
        return self.population.couplings_of(self.figures, scenario)


def format_columns(runs: Sequence[ObservedRun], unknowns: Unknowns) -> Whole:
    """The format of each run."""
    names = [run.figures[FILES] for run in runs]
    return np.array([unknowns.format_column[name] for name in names], dtype=np.int64)


def burst_spreads(runs: Sequence[ObservedRun]) -> Real:
    """How far the mean size of each run's burst may be from that of its format."""
    return np.array([burst_spread(run) for run in runs])


def burst_spread(run: ObservedRun) -> float:
    """From burst to burst, and what is left of the spread from frame to frame in the mean."""
    frames = run.observed.frames or run.observed.frames_at_full_speed or run.scenario.frames_due
    within = run.sources.within_burst / math.sqrt(frames)
    return max(math.hypot(run.sources.between_bursts.spread, within), LEAST_SPREAD)


def drawn_couplings(random: np.random.Generator, shape: tuple[int, ...]) -> Whole:
    """Couplings by their odds."""
    numbers = np.array([COUPLING_NUMBER[name] for name in ODDS_OF_COUPLING])
    odds = np.array(list(ODDS_OF_COUPLING.values()))
    return np.asarray(random.choice(numbers, size=shape, p=odds / odds.sum()))
