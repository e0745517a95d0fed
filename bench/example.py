"""The example of a Bench without runs: a body of the sample kit, with a run of each method."""

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from django.contrib.auth.base_user import AbstractBaseUser
from django.contrib.auth.models import AnonymousUser
from django.db import transaction

from bench.drawings import RunDrawing
from bench.learning import BodyLearning
from bench.models import Run
from bench.moving import copy_with_runs
from bench.run_file import BadRuns, read_runs, save_runs
from kit.models import Revision
from setups.kit import Kit
from setups.prediction import predict

RUNS_FILE = Path(__file__).parent / "sample" / "runs.json"


@dataclass(frozen=True)
class Example:
    """What the runs of the example teach, and its strokes."""

    learning: BodyLearning

    @classmethod
    def of_sample_kit(cls) -> "Example | None":
        """None where the sample kit no longer has the body, or the cards, of the runs."""
        return _of_kit(Kit.of(AnonymousUser()))

    @property
    def strokes(self) -> list[RunDrawing]:
        """Those with strokes, each above what is predicted."""
        return [
            RunDrawing(setup.name, run, setup.hold_s, setup.rate.fps, predict(setup).result)
            for run, reading in self.learning.readings
            if reading and run.strokes_s
            for setup in [reading.setup]
        ]

    def copy_to(self, owner: AbstractBaseUser) -> Revision:
        """Body, cards and runs become somebody's own."""
        with transaction.atomic():
            save_runs(_read(Kit.of(AnonymousUser())), owner)
            return copy_with_runs(self.learning.body, owner)


def prepare() -> bool:
    """Has what the example teaches ready; whether there was anything to do."""
    example = Example.of_sample_kit()
    if example is None or example.learning.report:
        return False
    example.learning.work_out(lambda: True)
    return True


@lru_cache(maxsize=2)  # every newcomer sees it; a kit that has changed is another one
def _of_kit(kit: Kit) -> Example | None:
    try:
        runs = _read(kit)
    except BadRuns:
        return None
    for place, run in enumerate(runs, 1):
        run.pk = -place  # a run that isn't saved
    return Example(BodyLearning(runs[0].body, AnonymousUser(), runs))


def _read(kit: Kit) -> list[Run]:
    """The runs, not saved, by the sample kit; raises :class:`BadRuns`."""
    return read_runs(RUNS_FILE.read_text(encoding="utf-8"), kit, {})
