"""One run of a subject: when it does what, drawn from a seed.

The wait before it stirs has a constant hazard (a non-aging foreperiod, as in measurements of
reaction times): however long one has waited, the next second is as likely as the last, so that
nobody can learn the clock. Of the runs of a session the same number has a moment whatever the seed,
and their waits are stratified, so that a lucky session is no better than another.

Only `random.Random.random` is used, whose numbers Python promises to keep the same: a seed gives
the same runs for a friend and in years to come.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from random import Random

from engine.practice.subjects import StageKind, Subject
from engine.quantities import InvalidValues, Range, ns_of

RUNS = 10  # of a session
RUNS_WITH_MOMENT = 7  # of them
PAUSE_S = 3.0  # by the camera's clock from the end of a run to the next, however long one reads
LEVEL = Range(1, 20, "of difficulty")
SEED = Range(1, 999_999_999, "of runs")

SHORTEST_WAIT_S, MEAN_WAIT_S = 1.2, 2.2  # before it stirs first: at least, and beyond that
SHORTEST_REST_S, MEAN_REST_S = 0.8, 1.0  # after a false start
LONGEST_IN_MEANS = 3.0  # one wait in twenty would be longer
BUILD_UP_S = 0.9
SHORTER_BUILD_UP_S, LONGER_BUILD_UP_S = (0.1, 0.5), (0.1, 1.2)  # by up to, from easy to hard
FALSE_START_ODDS = (0.15, 0.6)  # from easy to hard; again after one
MOST_FALSE_STARTS = 2
AFTER_S = 1.0
DECIMALS = 3  # moments are whole milliseconds, as the page counts them


class InvalidSubjectRun(InvalidValues):
    """A seed, number or level that no run has."""


@dataclass(frozen=True)
class SubjectStage:
    """What the subject does from `starts_s` on, in seconds from the start of the run."""

    kind: StageKind
    starts_s: float


@dataclass(frozen=True, kw_only=True)
class SubjectRun:
    """A run: its stages in order and its end, in seconds from its start."""

    stages: tuple[SubjectStage, ...]
    ends_s: float

    @property
    def moment_s(self) -> tuple[float, float] | None:
        """The first and last second of the moment; None where it never comes."""
        for number, stage in enumerate(self.stages):
            if stage.kind == StageKind.MOMENT:
                return stage.starts_s, self.stages[number + 1].starts_s
        return None

    @property
    def moment_ns(self) -> tuple[int, int] | None:
        """The same in whole nanoseconds."""
        return (ns_of(self.moment_s[0]), ns_of(self.moment_s[1])) if self.moment_s else None

    @property
    def final_build_up_s(self) -> float:
        """When it began to stir for the last time."""
        return max(one.starts_s for one in self.stages if one.kind == StageKind.BUILD_UP)

    @property
    def sure_sign_s(self) -> float | None:
        """When it is first to be seen that the moment will come: the lead, or the moment itself."""
        sure = (StageKind.LEAD, StageKind.MOMENT)
        return next((one.starts_s for one in self.stages if one.kind in sure), None)

    def stage_at(self, moment_s: float) -> StageKind:
        """What the subject does then."""
        begun = [one.kind for one in self.stages if one.starts_s <= moment_s]
        return begun[-1] if begun else StageKind.WAITING


def subject_run(subject: Subject, seed: int, number: int, level: int) -> SubjectRun:
    """Run `number` (from 1 on) of the session that `seed` gives, at a difficulty.

    Raises :class:`InvalidSubjectRun`.
    """
    _refuse(seed, number, level)
    has_moment, wait_quantile = _of_session(seed)[number - 1]
    chance = Random(f"{seed} {number}")  # noqa: S311 - a game, no secret
    hardness = (level - LEVEL.lowest) / (LEVEL.highest - LEVEL.lowest)
    stages, at_s = [], 0.0
    for kind, lasts_s in _stages(subject, has_moment, wait_quantile, hardness, chance):
        stages.append(SubjectStage(kind, round(at_s, DECIMALS)))
        at_s += lasts_s
    return SubjectRun(stages=tuple(stages), ends_s=round(at_s, DECIMALS))


def _stages(
    subject: Subject, has_moment: bool, wait_quantile: float, hardness: float, chance: Random
) -> Iterator[tuple[StageKind, float]]:
    """What it does, and for how long."""
    yield StageKind.WAITING, SHORTEST_WAIT_S + _memoryless(MEAN_WAIT_S, wait_quantile)
    for _ in range(_false_starts(has_moment, hardness, chance)):
        yield StageKind.BUILD_UP, _build_up_s(hardness, chance)
        yield StageKind.WAITING, SHORTEST_REST_S + _memoryless(MEAN_REST_S, chance.random())
    if has_moment:
        yield StageKind.BUILD_UP, _build_up_s(hardness, chance)
        if lead_s := _between(subject.easy_lead_s, subject.hard_lead_s, hardness):
            yield StageKind.LEAD, lead_s
        yield StageKind.MOMENT, subject.moment_s
        yield StageKind.AFTER, AFTER_S


def _of_session(seed: int) -> list[tuple[bool, float]]:
    """Of each run of a session: whether it has a moment, and the quantile of its wait."""
    chance = Random(f"{seed} session")  # noqa: S311
    with_moment = set(_shuffled(RUNS, chance)[:RUNS_WITH_MOMENT])
    strata = _shuffled(RUNS, chance)
    quantiles = [(stratum + chance.random()) / RUNS for stratum in strata]
    return [(number in with_moment, quantile) for number, quantile in enumerate(quantiles)]


def _shuffled(count: int, chance: Random) -> list[int]:
    keys = [chance.random() for _ in range(count)]
    return sorted(range(count), key=keys.__getitem__)


def _false_starts(has_moment: bool, hardness: float, chance: Random) -> int:
    """How often it stirs for nothing; where no moment comes, once at least."""
    odds, least = _between(*FALSE_START_ODDS, hardness), 0 if has_moment else 1
    count = least
    while count < MOST_FALSE_STARTS and chance.random() < odds:
        count += 1
    return count


def _build_up_s(hardness: float, chance: Random) -> float:
    shorter_s = _between(*SHORTER_BUILD_UP_S, hardness)
    longer_s = _between(*LONGER_BUILD_UP_S, hardness)
    return BUILD_UP_S + _between(-shorter_s, longer_s, chance.random())


def _memoryless(mean_s: float, quantile: float) -> float:
    """An exponential duration, cut at LONGEST_IN_MEANS."""
    within = 1 - math.exp(-LONGEST_IN_MEANS)
    return -mean_s * math.log(1 - quantile * within)


def _between(low: float, high: float, share: float) -> float:
    return low + (high - low) * share


def _refuse(seed: int, number: int, level: int) -> None:
    asked = {"seed": (SEED, seed), "number": (Range(1, RUNS, "of a session"), number),
             "level": (LEVEL, level)}  # fmt: skip
    faults = {name: fault for name, (allowed, value) in asked.items()
              if (fault := allowed.fault(value))}  # fmt: skip
    if faults:
        raise InvalidSubjectRun(faults)
