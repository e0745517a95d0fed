"""What to change where no card does what is asked: free changes first."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

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
    setups: Sequence[Setup]
    choice: Choice

    @property
    def place(self) -> int:
        """The cheapest place that passes."""
        if self.choice.answer is None:
            raise ValueError("this is no way out")
        return self.choice.answer


def _cents(way: WayOut) -> float:
    cents = int(way.choice.options.price_cents[way.place])
    return float("inf") if cents == NONE else cents


@dataclass(frozen=True)
class Impasse:
    """A need that nothing meets, and the changes that would help, the free ones first."""

    reading: NeedReading
    weighed: Sequence[Weighed]
    need: Need

    @cached_property
    def ways_out(self) -> list[WayOut]:
        """The changes after which something passes, what costs nothing first."""
        tried = [*self._formats(), *self._rates(), *self._light(), *self._fewer_asked()]
        return sorted((one for one in tried if one.choice.answer is not None), key=_cents)

    def _formats(self) -> "list[WayOut]":
        setup = self.reading.desk.setup
        used = {one.recording for one in self.reading.setups}
        others = [one for one in setup.body.formats.all() if one not in used]
        return [
            self._way_out(f"record {one.name}", [replace(setup, recording=one)]) for one in others
        ]

    def _rates(self) -> "list[WayOut]":
        setup = self.reading.desk.setup
        used = [one.rate.fps for one in self.reading.setups]
        rates = setup.body.rate_of_fps.values()
        return [
            self._way_out(f"shoot {rate}", [replace(setup, rate=rate)])
            for rate in rates
            if rate.fps < min(used)
        ]

    def _light(self) -> "list[WayOut]":
        lighter = [replace(one, iso=BASE_ISO) for one in self.reading.setups if one.iso > BASE_ISO]
        return [self._way_out(f"shoot at ISO {BASE_ISO}", lighter)] if lighter else []

    def _fewer_asked(self) -> "list[WayOut]":
        found = []
        if self.need.copies > 1:
            one_copy = replace(self.need, copies=1)
            found.append(self._way_out("be content with one copy", self.reading.setups, one_copy))
        if self.need.budget_cents is not None:
            any_price = replace(self.need, budget_cents=None)
            found.append(self._way_out("spend more", self.reading.setups, any_price))
        return found

    def _way_out(self, words: str, setups: Sequence[Setup], need: Need | None = None) -> WayOut:
        evaluation = evaluation_of(setups, self.weighed, need or self.need)
        choice = go_on(evaluation, work_s=float("inf")).choice
        if choice is None:
            raise ValueError("an evaluation without end has come to none")
        return WayOut(words, setups, choice)
