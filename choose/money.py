"""What money buys in a body: the drawing, the steps that matter, and where money is wasted."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from choose.drawing import MoneyDrawing, Point, draw_money
from choose.names import NamedOption, Names
from choose.words import step_words
from engine.quantities import S_IN_MINUTE
from engine.selection.choice import Step
from prices.amounts import CENTS, amount

TEN = 10 * CENTS


@dataclass(frozen=True)
class Bought:
    """A step along a front, in words."""

    shown: NamedOption
    more: str
    buys: str
    each: str


class MoneyBuys:
    """What money buys among the options of `names`."""

    def __init__(self, names: Names) -> None:
        self.names, self.choice, self.currency = names, names.choice, names.reading.money

    @cached_property
    def drawing(self) -> MoneyDrawing | None:
        """Money against readiness; None where no card has a price."""
        return draw_money(self.choice)

    @property
    def points(self) -> list[tuple[Point, NamedOption]]:
        """The points of the drawing with what each is."""
        if self.drawing is None:
            return []
        return [(point, self.names.shown(point.place)) for point in self.drawing.points]

    @property
    def start(self) -> NamedOption | None:
        """What all steps begin with: the cheapest that is evaluated by its price."""
        front = self.choice.readiness_front
        return self.names.shown(front[0]) if front else None

    @property
    def bought(self) -> list[Bought]:
        """What more money buys in readiness."""
        return self._bought(self.choice.readiness_steps)

    @property
    def bought_at_full_speed(self) -> list[Bought]:
        """What more money buys in frames at full speed, where that is not the same."""
        told = {step.place for step in self.choice.readiness_steps}
        steps = self.choice.full_speed_steps
        return [] if told >= {step.place for step in steps} else self._bought(steps)

    @property
    def bought_copying(self) -> list[tuple[NamedOption, str, float]]:
        """What more money buys in copying: what, for how much more, minutes sooner."""
        return [
            (
                self.names.shown(step.place),
                amount(step.more_cents, self.currency),
                step.copied_sooner_s / S_IN_MINUTE,
            )
            for step in self.choice.copying_steps
        ]

    @property
    def wasted_above(self) -> str:
        """The price above which nobody would notice more; empty without prices."""
        cents = self.choice.wasted_above_cents
        return "" if cents is None else amount(cents, self.currency)

    @property
    def owned_is_best(self) -> bool:
        """Whether no money would buy anything to be noticed."""
        return self.choice.wasted_above_cents == 0

    def _bought(self, steps: Sequence[Step]) -> list[Bought]:
        return [
            Bought(
                shown=self.names.shown(step.place),
                more=amount(step.more_cents, self.currency),
                buys=step_words(step),
                each=_each_ten(step),
            )
            for step in steps
        ]


def _each_ten(step: Step) -> str:
    """What ten units of the money bring, empty where that makes no difference."""
    tens = step.more_cents / TEN
    frames, sooner_s = round(step.more_frames / tens), round(step.sooner_s / tens, 1)
    return step_words(replace(step, more_frames=frames, sooner_s=sooner_s))
