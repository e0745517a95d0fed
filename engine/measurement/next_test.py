"""Which run to make next: the one whose outcome would narrow most what somebody wants to know.

Every body of the population shoots the run, human error included. What its outcome would explain of
the wanted figure, by a regression over the bodies, is what knowing it would take away from the
figure's variance (expected variance reduction, as in Bayesian design of experiments).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from engine.measurement.forward import Real, seen_by
from engine.measurement.learnt import Learnt
from engine.measurement.population import burst_spread
from engine.measurement.runs import Run

SEED = 2
AS_GOOD = 0.85  # of the best: a run that takes less effort is then the better one


@dataclass(frozen=True)
class NextTest:
    """A run by its place among those that could be made.

    `narrowing` is the share of the standard deviation that it takes away, `effort_s` what it takes
    from the press until the card light is out.
    """

    place: int
    narrowing: float
    effort_s: float


@dataclass(frozen=True)
class Outcomes:
    """What every body would show of each run that could be made, a column an observation."""

    of_runs: Sequence[tuple[Real, float]]

    @classmethod
    def of(cls, learnt: Learnt, candidates: Sequence[Run]) -> "Outcomes":
        """Those of `candidates`, with what each of them takes in seconds."""
        return cls([_outcome(learnt, run) for run in candidates])


def next_test(outcomes: Outcomes, wanted: Real) -> NextTest | None:
    """The best run for `wanted`, a figure of every body; None where none helps.

    Of those that are about as good, the one with the least effort.
    """
    tried = [
        NextTest(place, 1 - np.sqrt(1 - _explained(outcome, wanted)), effort_s)
        for place, (outcome, effort_s) in enumerate(outcomes.of_runs)
    ]
    best = max((one.narrowing for one in tried), default=0.0)
    if best <= 0:
        return None
    good = [one for one in tried if one.narrowing >= AS_GOOD * best]
    return min(good, key=lambda one: (one.effort_s, -one.narrowing))


def _outcome(learnt: Learnt, run: Run) -> tuple[Real, float]:
    """What each body would show of the run, a column an observation, and the usual effort."""
    random = np.random.Generator(np.random.PCG64(SEED))
    accuracy, count = run.accuracy, learnt.population.count
    figures = dict(run.figures)
    sizes = np.log(learnt.mean_sizes(run.sources, figures))
    population = replace(
        learnt.with_figures(run.sources, figures),
        bursts=(sizes + burst_spread(run) * random.standard_normal(count))[:, None],
        holds_s=accuracy.hold_s * random.standard_normal((count, 1)),
    )
    seen = seen_by(population, [run])
    columns = []
    for shown, deviation in (
        (seen.depths, accuracy.depth_frames), (seen.frames, accuracy.count_frames),
        (seen.clear_s, accuracy.clear_s),
    ):  # fmt: skip
        value = shown[:, 0]
        error = np.hypot(deviation, accuracy.of_all * value) * random.standard_normal(count)
        columns.append(value + error)
    effort_s = run.scenario.hold_s + float(np.median(seen.clear_s))
    return np.stack(columns, axis=1), effort_s


def _explained(outcome: Real, wanted: Real) -> float:
    """The share of the variance of `wanted` that a quadratic of the outcome explains."""
    scaled = (outcome - outcome.mean(axis=0)) / np.maximum(outcome.std(axis=0), 1e-9)
    terms = np.concatenate([np.ones((len(scaled), 1)), scaled, scaled**2], axis=1)
    solution, *_ = np.linalg.lstsq(terms, wanted, rcond=None)
    left = float(np.var(wanted - terms @ solution))
    # Terms explain a little by chance alone (adjusted coefficient of determination).
    adjusted = left * (len(scaled) - 1) / (len(scaled) - terms.shape[1])
    share = 1 - adjusted / max(float(np.var(wanted)), 1e-12)
    return float(np.clip(share, 0.0, 1 - 1e-9))
