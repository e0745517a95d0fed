"""What is learnt of a body from a visitor's runs of it: worked out by the background worker."""

import hashlib
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import timedelta
from functools import cached_property

from bench.engine_adapter import engine_run
from bench.models import Run, readings_of
from bench.report import BodyReport
from bench.report_rows import other_formats, report_of, with_seen
from engine.measurement.contradictions import contradictions
from engine.measurement.learning import Learning
from engine.measurement.learnt import LearntBody
from engine.measurement.runs import ObservedRun
from kit.models import Body, Visitor
from pages.background import results
from setups.reader import Reading
from setups.setup import Setup

CACHE_VERSION = 28  # raise it when the same runs would teach something else
KEPT_S = timedelta(days=30).total_seconds()
MOST_FRAMES = 60_000  # due in all runs together, so that learning takes seconds
SHARE_S = 60  # how long a share of progress is kept


@dataclass(frozen=True)
class BodyLearning:
    """The runs of a body that somebody has made, and what is learnt from them."""

    body: Body
    visitor: Visitor
    runs: list[Run]

    @classmethod
    def of(cls, body: Body, visitor: Visitor) -> "BodyLearning":
        """All that are counted."""
        runs = Run.objects.made_by(visitor).filter(body=body).counted()
        return cls(body, visitor, list(runs))

    @cached_property
    def readings(self) -> list[tuple[Run, Reading | None]]:
        """The runs, each with its set-up as the kit has it now."""
        return readings_of(self.runs, self.visitor)

    @cached_property
    def _read(self) -> list["_Used"]:
        """The runs with what the engine makes of them, but for those whose cards are gone."""
        complete = [(run, one.setup) for run, one in self.readings if one and one.setup.complete]
        return [_Used(run, setup, engine_run(run, setup)) for run, setup in complete]

    @cached_property
    def key(self) -> str:
        """What the report is kept under: a digest of all that it follows from."""
        told = [
            repr((one.run.pk, one.run.is_confirmed, one.setup.is_available, one.shot))
            for one in self._read
        ]
        told += [str(run.pk) for run in self.runs]
        digest = hashlib.sha256("\n".join([str(CACHE_VERSION), *told]).encode()).hexdigest()
        return f"learnt:{digest[:40]}"

    @property
    def report(self) -> BodyReport | None:
        """What is learnt; None while it has not been worked out."""
        found: BodyReport | None = results.get(self.key)
        return found

    @cached_property
    def bodies(self) -> LearntBody | None:
        """Equally likely bodies, without the runs; None while they have not been worked out."""
        if not self._read:
            return LearntBody.before_runs()
        found: LearntBody | None = results.get(f"{self.key}:bodies")
        return found

    @property
    def share(self) -> float:
        """How much of the work is done by now, if runs have to be kept out."""
        share: float = results.get(f"{self.key}:share", 0.0)
        return share

    def work_out(self, is_wanted: Callable[[], bool]) -> None:
        """Learns, while it is wanted, and keeps the report.

        A run that doesn't fit the others is kept out until somebody says that it is right.
        """

        def advanced() -> None:
            if not is_wanted():
                raise _NotWanted

        with suppress(_NotWanted):
            self._work_out(advanced)

    def _work_out(self, advanced: Callable[[], None]) -> None:
        read = used = _within_bounds(self._read)
        within = {one.run.pk for one in used}
        unused = [run.pk for run in self.runs if run.pk not in within]
        learnt, against = self._learnt(used, 0.0, advanced), {}
        if learnt:
            found = contradictions(learnt, advanced)
            quarrels = {used[one.place].run: one.words for one in found}
            against = {run.pk: words for run, words in quarrels.items() if not run.is_confirmed}
        if against:
            used = [one for one in used if one.run.pk not in against]
            learnt = self._learnt(used, 0.5, advanced)
        if not learnt:
            results.set(f"{self.key}:bodies", LearntBody.before_runs(), KEPT_S)
            results.set(self.key, BodyReport(unused=unused, against=against), KEPT_S)
        else:
            setups, days = [one.setup for one in used], [one.run.shot_on for one in used]
            learnt = learnt.with_formats(other_formats(setups[0]))
            bodies = LearntBody((), learnt.population.without_bursts)
            results.set(f"{self.key}:bodies", bodies, KEPT_S)
            report = report_of(learnt, setups, days)
            pks = [one.run.pk for one in used]
            seen = [(one.setup, one.shot, one.run.pk in pks) for one in read]
            report = replace(with_seen(report, seen), used=pks, unused=unused, against=against)
            results.set(self.key, report, KEPT_S)

    def _learnt(
        self, used: list["_Used"], done: float, advanced: Callable[[], None]
    ) -> LearntBody | None:
        """What these runs teach, half of the work; None where there are none.

        `done` is the share of the work that was done before.
        """
        if not used:
            return None
        learning = Learning([one.shot for one in used])

        def note_share() -> None:
            results.set(f"{self.key}:share", done + learning.share / 2, SHARE_S)
            advanced()

        return LearntBody.of(learning, note_share)


class _NotWanted(Exception):
    """Nobody waits any longer."""


@dataclass(frozen=True)
class _Used:
    """A run, its set-up, and what the engine makes of both."""

    run: Run
    setup: Setup
    shot: ObservedRun


def _within_bounds(used: list[_Used]) -> list[_Used]:
    """The newest runs that come to no more than MOST_FRAMES."""
    kept, frames = [], 0
    for one in used:
        frames += one.shot.scenario.frames_due
        if frames <= MOST_FRAMES:
            kept.append(one)
    return kept
