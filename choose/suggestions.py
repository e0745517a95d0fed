"""What to change where no card does what is asked: the smallest sacrifice first."""

import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from choose.evaluating import EvaluatedCard, continue_evaluation, evaluation_of
from choose.need_address import NeedReading
from engine.burst.file_size import BASE_ISO
from engine.selection.choice import Choice
from engine.selection.options import NONE, Evaluation
from engine.selection.requirements import Need
from setups.changes import Sacrifice, sacrifice_of_format
from setups.setup import Setup

LEAST_S = 1e-9  # for one step
MOST_TRIED = 20_000  # options; with more, to try every other format would take seconds


@dataclass(frozen=True)
class Suggestion:
    """Something to change where no card does it: what, in words, and what is then chosen."""

    words: str
    sacrifice: Sacrifice
    setups: Sequence[Setup]
    choice: Choice

    @property
    def place(self) -> int:
        """The cheapest place that passes."""
        if self.choice.answer is None:
            raise ValueError("nothing passes with this change")
        return self.choice.answer

    @property
    def order(self) -> tuple[Sacrifice, float]:
        """Sorts the smallest sacrifice first, then the cheapest."""
        cents = int(self.choice.options.price_cents[self.place])
        return self.sacrifice, float("inf") if cents == NONE else cents


class TriedChange(NamedTuple):
    """Something that could be changed, and what it gives up."""

    words: str
    sacrifice: Sacrifice
    setups: Sequence[Setup]
    need: Need


class Suggestions:
    """A need that nothing meets, and the changes that would help, tried for about `work_s`.

    `left` is how many of all `total` changes have not been tried yet, `worked_on` the next of them.
    """

    def __init__(
        self, reading: NeedReading, evaluated: Sequence[EvaluatedCard], need: Need, work_s: float
    ) -> None:
        self.reading, self.evaluated, self.need = reading, evaluated, need
        changes = [*self._formats(), *self._rates(), *self._light(), *self._fewer_asked()]
        until = time.monotonic() + work_s
        unfinished: list[Evaluation] = []
        helping: list[Suggestion] = []
        for change in changes:
            evaluation = evaluation_of(change.setups, evaluated, change.need)
            # One that is not finished has had its step; the others are only looked up.
            goes_on = work_s > 0 and not unfinished
            progress = continue_evaluation(
                evaluation, max(until - time.monotonic(), LEAST_S) if goes_on else 0
            )
            if progress.choice and progress.choice.answer is not None:
                helping.append(
                    Suggestion(change.words, change.sacrifice, change.setups, progress.choice)
                )
            elif not progress.choice and not progress.too_long:
                unfinished.append(evaluation)
        self.total, self.left = len(changes), len(unfinished)
        self.worked_on = unfinished[0] if unfinished else None
        self.found = sorted(helping, key=lambda one: one.order)

    def _formats(self) -> Iterator[TriedChange]:
        setup = self.reading.desk.setup
        used = {one.recording for one in self.reading.setups}
        for one in setup.body.formats.all():
            if one not in used:
                sacrifice = max(sacrifice_of_format(had, one) for had in used)
                setups = [replace(setup, recording=one)]
                yield TriedChange(f"record {one.name}", sacrifice, setups, self.need)

    def _rates(self) -> Iterator[TriedChange]:
        setup = self.reading.desk.setup
        slowest_fps = min(one.rate.fps for one in self.reading.setups)
        for rate in setup.body.rate_of_fps.values():
            if rate.fps < slowest_fps:
                setups = [replace(setup, rate=rate)]
                yield TriedChange(f"shoot {rate}", Sacrifice.FRAME_RATE, setups, self.need)

    def _light(self) -> Iterator[TriedChange]:
        lighter = [replace(one, iso=BASE_ISO) for one in self.reading.setups if one.iso > BASE_ISO]
        if lighter:
            words = f"shoot at ISO {BASE_ISO}"
            yield TriedChange(words, Sacrifice.LIGHT_OR_SCENE, lighter, self.need)

    def _fewer_asked(self) -> Iterator[TriedChange]:
        setups = self.reading.setups
        if self.need.copies > 1:
            need = replace(self.need, copies=1)
            yield TriedChange("keep one copy", Sacrifice.SECOND_COPY, setups, need)
        if self.need.budget_cents is not None:
            need = replace(self.need, budget_cents=None)
            yield TriedChange("spend more", Sacrifice.MONEY, setups, need)
