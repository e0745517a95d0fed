"""What to change where no card does what is asked: the smallest sacrifice first."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from desk.changes import Sacrifice, sacrifice_of_format
from desk.choosing import Weighed, evaluation_of, go_on
from desk.need_address import NeedReading
from desk.setup import Setup
from engine.choose import Choice
from engine.need import Need
from engine.options import NONE
from engine.scene import BASE_ISO

MOST_TRIED = 20_000  # options; with more, to try every other format would take seconds


@dataclass(frozen=True)
class WayOut:
    """Something to change where no card does it: what, in words, and what is then chosen."""

    words: str
    sacrifice: Sacrifice
    setups: Sequence[Setup]
    choice: Choice

    @property
    def place(self) -> int:
        """The cheapest place that passes."""
        if self.choice.answer is None:
            raise ValueError("this is no way out")
        return self.choice.answer

    @property
    def order(self) -> tuple[Sacrifice, float]:
        """Sorts the smallest sacrifice first, then the cheapest."""
        cents = int(self.choice.options.price_cents[self.place])
        return self.sacrifice, float("inf") if cents == NONE else cents


@dataclass(frozen=True)
class Impasse:
    """A need that nothing meets, and the changes that would help."""

    reading: NeedReading
    weighed: Sequence[Weighed]
    need: Need

    @cached_property
    def ways_out(self) -> list[WayOut]:
        """The changes after which something passes, the smallest sacrifice first."""
        tried = [*self._formats(), *self._rates(), *self._light(), *self._fewer_asked()]
        helping = [one for one in tried if one.choice.answer is not None]
        return sorted(helping, key=lambda one: one.order)

    def _formats(self) -> "list[WayOut]":
        setup = self.reading.desk.setup
        used = {one.recording for one in self.reading.setups}
        others = [one for one in setup.body.formats.all() if one not in used]
        return [
            self._way_out(
                f"record {one.name}",
                max(sacrifice_of_format(had, one) for had in used),
                [replace(setup, recording=one)],
            )
            for one in others
        ]

    def _rates(self) -> "list[WayOut]":
        setup = self.reading.desk.setup
        used = [one.rate.fps for one in self.reading.setups]
        rates = setup.body.rate_of_fps.values()
        return [
            self._way_out(f"shoot {rate}", Sacrifice.FRAME_RATE, [replace(setup, rate=rate)])
            for rate in rates
            if rate.fps < min(used)
        ]

    def _light(self) -> "list[WayOut]":
        lighter = [replace(one, iso=BASE_ISO) for one in self.reading.setups if one.iso > BASE_ISO]
        words = f"shoot at ISO {BASE_ISO}"
        return [self._way_out(words, Sacrifice.LIGHT_OR_SCENE, lighter)] if lighter else []

    def _fewer_asked(self) -> "list[WayOut]":
        setups, found = self.reading.setups, []
        if self.need.copies > 1:
            need = replace(self.need, copies=1)
            words = "be content with one copy"
            found.append(self._way_out(words, Sacrifice.SECOND_COPY, setups, need))
        if self.need.budget_cents is not None:
            need = replace(self.need, budget_cents=None)
            found.append(self._way_out("spend more", Sacrifice.MONEY, setups, need))
        return found

    def _way_out(
        self,
        words: str,
        sacrifice: Sacrifice,
        setups: Sequence[Setup],
        need: Need | None = None,
    ) -> WayOut:
        evaluation = evaluation_of(setups, self.weighed, need or self.need)
        choice = go_on(evaluation, work_s=float("inf")).choice
        if choice is None:
            raise ValueError("an evaluation without end has come to none")
        return WayOut(words, sacrifice, setups, choice)
