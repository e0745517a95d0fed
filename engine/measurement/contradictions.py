"""Runs that contradict the other runs: each suspect is left out and held against the rest.

That a run is unusual is nothing against it: it may show a body that is unusual. So a run is judged
by what the other runs alone let expect of it (leave-one-out prediction), and only where all of them
together can't explain it either.
"""

from collections.abc import Sequence

import numpy as np

from engine.figures.uncertainty import Z_80
from engine.measurement.forward import Noted, Real, misfits, seen_by
from engine.measurement.learning import learn
from engine.measurement.learnt import LearntBody
from engine.measurement.runs import ObservedRun
from engine.quantities import HIGH, LOW, MIDDLE

BODIES = 100  # are enough to judge a run by
SUSPECT = 2.0  # deviations from what all runs together let expect
MOST_SUSPECTS = 3  # at a time, the furthest off first
CONTRADICTS = 3.5  # deviations from what the other runs let expect
FEWEST_OTHERS = 2  # of two runs that contradict each other nobody knows which is wrong
SEED = 5


def contradicting(learnt: LearntBody) -> list[int]:
    """The places of runs that don't fit the others; whether to leave them out is for people.

    The one furthest off goes first, and the rest is judged without it, as it may have pulled the
    others along.
    """
    places, found = list(range(len(learnt.runs))), []
    while len(places) > FEWEST_OTHERS:
        rest = {suspect: _learnt_without(learnt.runs, suspect) for suspect in _suspects(learnt)}
        off = {suspect: _off(learnt.runs[suspect], others) for suspect, others in rest.items()}
        worst = max(off, key=lambda suspect: off[suspect], default=None)
        if worst is None or off[worst] < CONTRADICTS:
            break
        found.append(places.pop(worst))
        learnt = rest[worst]
    return sorted(found)


def _suspects(learnt: LearntBody) -> list[int]:
    worst = [max(map(abs, misfits.values()), default=0.0) for misfits in learnt.misfits]
    suspects = [place for place, off in enumerate(worst) if off > SUSPECT]
    return sorted(suspects, key=lambda place: -worst[place])[:MOST_SUSPECTS]


def _learnt_without(runs: Sequence[ObservedRun], left_out: int) -> LearntBody:
    rest = [run for place, run in enumerate(runs) if place != left_out]
    return LearntBody(rest, learn(rest, count=BODIES))


def _off(run: ObservedRun, others: LearntBody) -> float:
    """How far a run is off what the others let expect, in deviations of what they do.

    The furthest off of all that was noted of it; the errors of noting are in the deviations.
    """
    random = np.random.Generator(np.random.PCG64(SEED))
    expected = misfits(Noted.of([run]), seen_by(others.shooting(run, random), [run]))
    return max(
        (_beyond(of_run[:, 0] + random.standard_normal(len(of_run)))
         for of_run in expected.values() if not np.isnan(of_run).any()),
        default=0.0,
    )  # fmt: skip


def _beyond(misfits: Real) -> float:
    """How far 0, which was seen, is from the middle, by the spread on that side of it."""
    low, middle, high = np.quantile(misfits, (LOW, MIDDLE, HIGH))
    spread = (high - middle if middle < 0 else middle - low) / Z_80
    return float(abs(middle) / spread)
