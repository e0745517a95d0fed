"""What was learnt of a body: each hidden figure with its range, odds, and predictions with them."""

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from engine.burst.event_loop import NEVER
from engine.burst.plan import COUPLING_NUMBER
from engine.burst.scenario import Scenario
from engine.figures.key import Factor, FigureKey, FigureKind
from engine.figures.uncertainty import LogNormal, Uncertainty
from engine.measurement.assumed import AssumedSetup
from engine.measurement.forward import FEWEST_OF_KIND, Noted, Real, misfits, seen_by
from engine.measurement.learning import BODIES, LAST_ROUNDS, Learning
from engine.measurement.population import Population, PopulationDraws, burst_spread
from engine.measurement.runs import ObservedRun, values_of
from engine.quantities import HIGH, LOW, MIDDLE, NS_IN_S
from engine.uncertainty.intervals import Interval, interval, sum_of_depths
from engine.uncertainty.sources import FILES, Sources
from engine.uncertainty.sweep import Outcomes, sweep

FigureOfFactor = Mapping[Factor, FigureKey]

OF_ONE_SETUP = (FigureKind.PACE, FigureKind.ROOM)  # what the model leaves out
SEED = 0


@dataclass(frozen=True)
class LearntRange:
    """A figure against the one that was assumed: ends and middle of its 80 % range, and before."""

    low: float
    middle: float
    high: float
    low_before: float
    middle_before: float
    high_before: float

    @property
    def narrowed(self) -> float:
        """How many times narrower the range has become, on a scale of ratios."""
        before = np.log(self.high_before / self.low_before)
        return float(before / max(np.log(self.high / self.low), 1e-9))

    @property
    def moved(self) -> float:
        """How far the middle has moved, in half widths of the range before."""
        before = np.log(self.high_before / self.low_before)
        return float(abs(np.log(self.middle / self.middle_before)) / max(before / 2, 1e-9))


@dataclass(frozen=True)
class LearntPrediction:
    """Ranges of a set-up: four such bursts in five; None as an end: no wall.

    `wall_share` is the share of bodies and bursts with a wall.
    """

    frames_at_full_speed: Interval
    frames: Interval
    clear_s: Interval
    wall_share: float


@dataclass(frozen=True)
class LearntBody:
    """Equally likely bodies after `runs`; they tell something of `others` too (`with_formats`).

    What was noted of the runs is taken to be off by `error_ratio` times what is usual.
    """

    runs: Sequence[ObservedRun]
    population: Population
    error_ratio: float = 1.0
    others: tuple[AssumedSetup, ...] = ()

    @classmethod
    def of(cls, learning: Learning, advanced: Callable[[], object] = lambda: None) -> "LearntBody":
        """What is learnt in the end; `advanced` is called after each step."""
        population = learning.finished(advanced)
        return cls(learning.runs, population, learning.error_ratio)

    @classmethod
    def before_runs(cls) -> "LearntBody":
        """Nothing: all figures of a set-up are as they are assumed."""
        random = np.random.Generator(np.random.PCG64(SEED))
        return cls((), Population.drawn((), BODIES * LAST_ROUNDS, random))

    @cached_property
    def figures(self) -> dict[FigureKey, LearntRange]:
        """Every figure that was not known exactly, as ratios to what was assumed."""
        unknowns = self.population.unknowns
        before = unknowns.figures | {
            key: LogNormal(spread) for key, spread in unknowns.formats.items()
        }
        return {
            key: self._figure(key, before[key]) for key in before if key.kind not in OF_ONE_SETUP
        }

    @cached_property
    def assumed(self) -> dict[FigureKey, float]:
        """The assumed value of each figure, in MB, MB/s, seconds or frames a second."""
        found: dict[FigureKey, float] = {}
        setups: list[ObservedRun | AssumedSetup] = [*self.runs, *self.others]
        for setup in setups:
            values = values_of(setup.scenario)
            for factor, key in setup.figures.items():
                if (value := values.get(factor)) is not None:
                    found.setdefault(key, value)
        return found

    @cached_property
    def odds(self) -> dict[FigureKey, dict[str, float]]:
        """The odds of each coupling that nobody knew, by the arrangement's figure."""
        found = {}
        for key in self.population.unknowns.couplings:
            numbers = self.population.couplings_called(key)
            found[key] = {
                coupling: float(np.mean(numbers == number))
                for coupling, number in COUPLING_NUMBER.items()
            }
        return found

    @cached_property
    def misfits(self) -> list[dict[str, float]]:
        """How far each run's observations are from what all runs let expect, in deviations."""
        of_all = misfits(Noted.of(self.runs), seen_by(self.population, self.runs))
        medians = {name: np.median(of_runs, axis=0) for name, of_runs in of_all.items()}
        return [
            {name: float(one[place]) for name, one in medians.items() if not np.isnan(one[place])}
            for place in range(len(self.runs))
        ]

    def off_by_kind(self) -> dict[str, float]:
        """The root of the mean square of all misfits of a kind of observation.

        About 1 where the body is what the model takes it for; of FEWEST_OF_KIND runs at least.
        """
        of_kind: dict[str, list[float]] = defaultdict(list)
        for of_run in self.misfits:
            for name, misfit in of_run.items():
                of_kind[name].append(misfit)
        return {
            name: float(np.sqrt(np.mean(np.square(found))))
            for name, found in of_kind.items()
            if len(found) >= FEWEST_OF_KIND
        }

    def shooting(self, run: ObservedRun, random: np.random.Generator) -> Population:
        """The bodies as they shoot a run that nothing was learnt from."""
        population = self.with_figures(run.sources, run.figures)
        sizes = np.log(population.ratios(run.figures[FILES]))
        bursts = sizes + burst_spread(run) * random.standard_normal(population.count)
        off = population.habits + random.standard_normal((population.count, 1))
        holds_s = run.accuracy.hold_s * off
        return replace(population, bursts=bursts[:, None], holds_s=holds_s)

    def predict(
        self, scenario: Scenario, sources: Sources, figures: FigureOfFactor
    ) -> LearntPrediction:
        """The ranges of a set-up whose factors are `figures`, measured or never tested."""
        came = self._shot(scenario, sources, figures)
        walls = (came.depths[0] != NEVER).any(axis=-1)
        return LearntPrediction(
            frames_at_full_speed=interval(sum_of_depths(came)[0]),
            frames=interval(came.frames[0]),
            clear_s=interval(came.clear_ns[0, :, -1] / NS_IN_S),
            wall_share=float(walls.mean()),
        )

    def frames_of(self, scenario: Scenario, sources: Sources, figures: FigureOfFactor) -> Real:
        """The frames that every body gets in a set-up, from burst to burst the same files."""
        known = replace(sources, file_to_file=0.0)
        return np.asarray(self._shot(scenario, known, figures).frames[0], np.float64)

    def frames_of_bursts(
        self, scenario: Scenario, sources: Sources, figures: FigureOfFactor
    ) -> Real:
        """The frames of one burst of every body, as bursts differ."""
        return np.asarray(self._shot(scenario, sources, figures).frames[0], np.float64)

    def _shot(self, scenario: Scenario, sources: Sources, figures: FigureOfFactor) -> Outcomes:
        """A burst of every body: its files are off as those of the format, and as bursts differ."""
        population = self.with_figures(sources, figures)
        random = np.random.Generator(np.random.PCG64(SEED + 2))
        of_burst = sources.between_bursts.ratios(random.standard_normal(population.count))
        sizes = population.ratios(figures[FILES]) * of_burst
        return sweep([scenario], [sources], [PopulationDraws(population, figures, sizes)])

    def _figure(self, key: FigureKey, before: Uncertainty) -> LearntRange:
        ends = np.quantile(self.population.ratios(key), (LOW, MIDDLE, HIGH))
        low, middle, high = map(float, ends)
        low_before, high_before = before.ends
        return LearntRange(low, middle, high, low_before, before.middle, high_before)

    def with_formats(self, setups: Iterable[AssumedSetup]) -> "LearntBody":
        """The same bodies with what the runs tell of other formats, which have files in common."""
        learnt = self
        for setup in setups:
            in_common = {
                factor: key
                for factor, key in setup.figures.items()
                if setup.sources.parts_of(factor)
            }
            population = learnt.with_figures(setup.sources, in_common)
            learnt = replace(learnt, population=population, others=(*learnt.others, setup))
        return learnt

    def with_figures(self, sources: Sources, figures: FigureOfFactor) -> Population:
        """The population with figures that no run was about: as they are assumed.

        Where they have something in common with others, as these let expect.
        """
        unknowns = self.population.unknowns.with_setup(sources, figures)
        random = np.random.Generator(np.random.PCG64([SEED, len(unknowns.figures)]))
        return self.population.with_unknowns(unknowns, random)
