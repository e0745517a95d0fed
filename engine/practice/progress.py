"""Whether somebody gets better, from the runs of weeks: a psychometric function and its change.

A run at some level succeeds with the odds of a logistic function of skill minus level (the Rasch
model), and skill changes steadily with time. Easy runs that succeed say little, so that a staircase
that is still climbing is no progress. How sure the change is, is told by a jackknife over days
(Tukey, 1958): a good or bad day is one day, however many runs it has.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.special import expit, log_expit, logit
from scipy.stats import t as student_t

from engine.practice.staircase import FIRST_LEVEL, SUCCESSES
from engine.quantities import HIGH, LOW

SCALE_LEVELS = 2.5  # of the logistic function; a working assumption
PRIOR_SKILL_LEVELS, PRIOR_CHANGE_LEVELS = 8.0, 8.0  # spreads; a change is one in all of the time
FEWEST_DAYS = 3

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class ScoredRun:
    """A run that had something to keep: the day it was made (a number), its level, how it went."""

    day: int
    level: int
    succeeded: bool


@dataclass(frozen=True)
class SkillProgress:
    """The level that somebody masters in three runs of four, now, and how it changes in a week.

    `low` and `high` are the 80 % range of the change; None while there are too few days to tell.
    """

    level: float
    change_a_week: float
    low: float | None
    high: float | None

    @property
    def is_sure(self) -> bool:
        """Whether the range of the change leaves zero out."""
        return self.low is not None and self.high is not None and (self.low > 0 or self.high < 0)


def progress(runs: Sequence[ScoredRun]) -> SkillProgress:
    """What `runs`, one at least, tell."""
    days = np.array([run.day for run in runs], dtype=float)
    levels = np.array([run.level for run in runs], dtype=float)
    went = np.array([run.succeeded for run in runs])
    lasts = max(float(np.ptp(days)), 1.0)
    times = (days - days.max()) / lasts  # from -1 to 0, now
    skill, change = _fit(times, levels, went, (float(FIRST_LEVEL), 0.0))
    weeks = lasts / 7
    low = high = None
    each = np.unique(days)
    if len(each) >= FEWEST_DAYS:
        others = [days != day for day in each]
        left_out = [
            _fit(times[kept], levels[kept], went[kept], (skill, change))[1] for kept in others
        ]
        spread = float(np.std(left_out)) * np.sqrt(len(each) - 1)
        off = spread * student_t.ppf([LOW, HIGH], len(each) - 2)
        low, high = ((change + off) / weeks).tolist()
    mastered = skill - SCALE_LEVELS * float(logit(SUCCESSES))
    return SkillProgress(mastered, change / weeks, low, high)


def _fit(
    times: Floats, levels: Floats, went: NDArray[np.bool_], start: tuple[float, float]
) -> tuple[float, float]:
    """Skill now and its change over all of the time: the posterior mode, sought from `start`."""
    signs = np.where(went, 1.0, -1.0)

    def misfit(parameters: Floats) -> tuple[float, Floats]:
        skill, change = parameters
        logits = signs * (skill + change * times - levels) / SCALE_LEVELS
        prior = np.array([(skill - FIRST_LEVEL) / PRIOR_SKILL_LEVELS, change / PRIOR_CHANGE_LEVELS])
        slopes = -signs * expit(-logits) / SCALE_LEVELS
        gradient = np.array([slopes.sum(), (slopes * times).sum()])
        gradient += prior / (PRIOR_SKILL_LEVELS, PRIOR_CHANGE_LEVELS)
        return float(-log_expit(logits).sum() + (prior**2).sum() / 2), gradient

    fitted = minimize(misfit, np.array(start), jac=True, method="BFGS")
    skill, change = fitted.x.tolist()
    return skill, change
