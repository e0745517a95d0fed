"""What is learnt of a body from a visitor's runs of it: worked out by the background worker."""

import hashlib
from dataclasses import dataclass
from datetime import timedelta
from functools import cached_property

from bench.answer import Answer, answer_of
from bench.engine_adapter import engine_run
from bench.models import Run
from engine.measurement.learning import Learning
from engine.measurement.learnt import Learnt
from engine.measurement.runs import Run as EngineRun
from kit.models import Body, Visitor
from pages import background
from pages.background import results
from setups.address import Kit

CACHE_VERSION = 2  # raise it when the same runs would teach something else
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
    def _read(self) -> list[tuple[Run, EngineRun | None]]:
        """The runs with what the engine makes of them; None where a card is gone."""
        kit = Kit.of(self.visitor)
        return [(run, engine_run(run, kit)) for run in self.runs]

    @cached_property
    def key(self) -> str:
        """What the answer is kept under: a digest of all that it follows from."""
        told = [repr((run.pk, one)) for run, one in self._read]
        digest = hashlib.sha256("\n".join([str(CACHE_VERSION), *told]).encode()).hexdigest()
        return f"learnt:{digest[:40]}"

    @property
    def answer(self) -> Answer | None:
        """What is learnt; None while it has not been worked out."""
        found: Answer | None = results.get(self.key)
        return found

    @property
    def share(self) -> float:
        """How much of what was seen is weighed in by now."""
        share: float = results.get(f"{self.key}:share", 0.0)
        return share

    def work_out(self) -> None:
        """Learns, while anybody waits for it, and keeps the answer."""
        key, kit = self.key, Kit.of(self.visitor)
        used = _within_bounds([(run, one) for run, one in self._read if one is not None])
        used_pks = {run.pk for run, _ in used}
        unused = [run.pk for run in self.runs if run.pk not in used_pks]
        if not used:
            results.set(key, Answer(unused=unused), KEPT_S)
            return
        learning = Learning([one for _, one in used])
        while not learning.is_done:
            if not background.is_waited_for(key):
                return
            learning.advance()
            results.set(f"{key}:share", learning.share, SHARE_S)
        learnt = Learnt(learning.runs, learning.population)
        setups = [reading.setup for run, _ in used if (reading := run.reading(kit))]
        wild = [used[place][0].pk for place in learnt.wild]
        results.set(key, answer_of(learnt, setups, wild, unused), KEPT_S)


def _within_bounds(used: list[tuple[Run, EngineRun]]) -> list[tuple[Run, EngineRun]]:
    """The newest runs that come to no more than MOST_FRAMES."""
    kept, frames = [], 0
    for run, one in used:
        frames += one.scenario.frames_due
        if frames <= MOST_FRAMES:
            kept.append((run, one))
    return kept
