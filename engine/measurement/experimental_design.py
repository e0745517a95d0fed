"""Which run to make next: the one whose outcome would narrow most what somebody wants to know.

Every body of the population shoots the run, human error included. What its outcome would explain of
the wanted figure, by a regression over the bodies, is what knowing it would take away from the
figure's variance (expected variance reduction, as in Bayesian experimental design).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from engine.measurement.forward import Real, seen_by
from engine.measurement.learnt import LearntBody
from engine.measurement.runs import ObservedRun

SEED = 2
AS_GOOD = 0.85  # of the best: a run that takes less effort is then the better one


@dataclass(frozen=True)
class NextTest:
    """A run by its place among those that could be made.

    `narrowing` is the share that it takes away of the standard deviation from burst to burst,
    `effort_s` what it takes from the press until the card light is out.
    """

    place: int
    narrowing: float
    effort_s: float


@dataclass(frozen=True)
class PossibleOutcomes:
    """What every body would show of each run that could be made, a column an observation."""

    of_runs: Sequence[tuple[Real, float]]

    @classmethod
    def of(cls, learnt: LearntBody, candidates: Sequence[ObservedRun]) -> "PossibleOutcomes":
        """Those of `candidates`, with what each of them takes in seconds."""
        return cls([_outcome(learnt, run) for run in candidates])


def ranked_tests(outcomes: PossibleOutcomes, wanted: Real, of_bursts: Real) -> list[NextTest]:
    """The runs that help to know `wanted`, a figure of every body, the best first.

    `of_bursts` is the same figure of one burst of each: that bursts differ is not to be learnt. Of
    runs that are about as good as the best, the one with the least effort comes first.
    """
    to_be_learnt = min(float(np.var(wanted)) / max(float(np.var(of_bursts)), 1e-12), 1.0)
    tried = [
        NextTest(place, 1 - math.sqrt(1 - to_be_learnt * _explained(outcome, wanted)), effort_s)
        for place, (outcome, effort_s) in enumerate(outcomes.of_runs)
    ]
    helpful = [one for one in tried if one.narrowing > 0]
    good = AS_GOOD * max((one.narrowing for one in helpful), default=0.0)

    def rank(one: NextTest) -> tuple[bool, float, float]:
        is_good = one.narrowing >= good
        return not is_good, one.effort_s if is_good else 0.0, -one.narrowing

    return sorted(helpful, key=rank)


def _outcome(learnt: LearntBody, run: ObservedRun) -> tuple[Real, float]:
    """What each body would show of the run, a column an observation, and the usual effort."""
    random = np.random.Generator(np.random.PCG64(SEED))
    accuracy, count = run.accuracy, learnt.population.count
    seen = seen_by(learnt.shooting(run, random), [run])
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
