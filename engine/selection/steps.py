"""An evaluation in steps: the state after each can be stored, and another time continued."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from enum import IntEnum
from functools import partial
from itertools import islice

import numpy as np

from engine.burst.arrangement import Arrangement
from engine.burst.scenario import COUPLINGS, File, LoadedSlot
from engine.cores import CORES, on_all_cores
from engine.figures.uncertainty import MEASURED_HERE
from engine.selection.candidates import Camera, Candidate, CandidateSide, ShootingMode, SlotUse
from engine.selection.choice import Choice
from engine.selection.evaluate import confirmed, evaluate, outcomes
from engine.selection.options import DRAWS, Block, Evaluation, Options, Whole
from engine.selection.pareto import Shortlist
from engine.selection.requirements import Need
from engine.uncertainty.sources import SlotSources

ALL_AT_ONCE = 10**12  # frames


class Stage(IntEnum):
    """What the next step does."""

    EVALUATE = 0
    CONFIRM = 1
    COMPARE = 2
    DONE = 3


PERCENT = (70, 20, 10, 0)  # of all the work, about, that each stage is


@dataclass(frozen=True, eq=False)
class Steps:
    """How far an evaluation is.

    So many entries are `evaluated`; then the options that are kept of them are `confirmed`; then
    those that are compared are simulated once more, which gives their `outcomes`.
    """

    evaluated: int = 0
    shortlist: Shortlist = field(default_factory=Shortlist.nothing)
    confirmed: Options = field(default_factory=Options.nothing)
    outcomes: Whole = field(default_factory=lambda: np.empty(0, dtype=np.int64))

    def next(self, evaluation: Evaluation, frames: int) -> "Steps":
        """One step further, in which each core simulates about so many frames at most."""
        stage = self.stage(evaluation)
        if stage is Stage.EVALUATE:
            blocks = list(islice(evaluation.blocks(self.evaluated, frames), CORES))
            found = on_all_cores(partial(_find, evaluation), blocks)
            return replace(
                self,
                evaluated=self.evaluated + sum(block.stop - block.start for block in blocks),
                shortlist=Shortlist.added([self.shortlist, *found], evaluation.need),
            )
        if stage is Stage.CONFIRM:
            count = max(CORES, CORES * frames // evaluation.frames_to_confirm)
            kept, start = self.shortlist.options, len(self.confirmed)
            some = confirmed(evaluation, kept.at(np.arange(start, min(start + count, len(kept)))))
            return replace(self, confirmed=Options.joined([self.confirmed, some]))
        count = max(CORES, CORES * frames // evaluation.frames_to_compare)
        choice, known = self._choice(evaluation), len(self.outcomes)
        more = outcomes(evaluation, choice.options.at(choice.compared[known:][:count]))
        return replace(self, outcomes=np.concatenate([self.outcomes, more]) if known else more)

    def stage(self, evaluation: Evaluation) -> Stage:
        """What the next step does."""
        return self._progress(evaluation)[0]

    def share(self, evaluation: Evaluation) -> float:
        """How much of it is done; 1: all."""
        stage, done = self._progress(evaluation)
        return (sum(PERCENT[:stage]) + PERCENT[stage] * done) / 100

    def _progress(self, evaluation: Evaluation) -> tuple[Stage, float]:
        """What the next step does, and how much of that is done."""
        if self.evaluated < evaluation.total:
            return Stage.EVALUATE, self.evaluated / evaluation.total
        if len(self.confirmed) < (kept := len(self.shortlist.options)):
            return Stage.CONFIRM, len(self.confirmed) / kept
        if len(self.outcomes) < (compared := len(self._choice(evaluation).compared)):
            return Stage.COMPARE, len(self.outcomes) / compared
        return Stage.DONE, 1.0

    def choice(self, evaluation: Evaluation) -> Choice:
        """What comes of it, once no step is left, ready to be stored."""
        choice = self._choice(evaluation)
        choice.prepare_to_store()
        return choice

    def _choice(self, evaluation: Evaluation) -> Choice:
        return Choice(evaluation, self.shortlist.with_odds(self.confirmed), self.outcomes)


def take_steps(
    evaluation: Evaluation,
    steps: Steps,
    frames_of: Callable[[Stage], int] = lambda _: ALL_AT_ONCE,
    is_over: Callable[[], bool] = lambda: False,
) -> Steps:
    """Takes steps until none is left, or until `is_over` after one of them.

    `frames_of` sizes each step just before it is taken, as `Steps.next` wants it.
    """
    while (stage := steps.stage(evaluation)) is not Stage.DONE:
        steps = steps.next(evaluation, frames_of(stage))
        if is_over():
            break
    return steps


def choose(
    camera: Camera,
    modes: Sequence[ShootingMode],
    candidates: Sequence[Candidate],
    need: Need,
    draws: int = DRAWS,
) -> Choice:
    """Evaluates all cards and pairs in every arrangement and shooting mode against `need`."""
    evaluation = Evaluation(camera, tuple(modes), tuple(candidates), need, draws)
    return take_steps(evaluation, Steps()).choice(evaluation)


def _find(evaluation: Evaluation, block: Block) -> Shortlist:
    return Shortlist.of(evaluate(evaluation, block), evaluation.need)


def load() -> None:
    """Loads what is compiled, or compiles it, for which the first choice would have to wait."""
    slot = LoadedSlot(write_mb_s=100, free_mb=1_000)
    side = CandidateSide(slot=slot, sources=SlotSources(write_mb_s=MEASURED_HERE))
    card = Candidate(key="any", sides=(side, side))
    mode = ShootingMode(name="any", frame_rate_fps=10, files=(File(name="raw", mb=20),))
    camera = Camera(
        memory_mb=100, uses=tuple(SlotUse(Arrangement.MIRROR, one) for one in COUPLINGS)
    )
    choose(camera, [mode], [card], Need(lasts_s=1, light_out_s=1))
