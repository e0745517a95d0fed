"""What one set-up brings against another: decided and worded here, for every screen.

Only differences bigger than the uncertainty, and than a tenth, are told as certain. Where there may
be one, or none, what is predicted is told as probable.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from django.utils.text import get_text_list

from engine.figures.key import OF_CARD, Factor, FigureKind
from engine.formats import exact, figure
from engine.quantities import NOTICED_S
from engine.uncertainty.comparison import Comparison, Difference, compare
from setups.engine_adapter import figure_keys_of, write_speed
from setups.prediction import Prediction
from setups.setup import Setup


@dataclass(frozen=True)
class SetupDifference:
    """Of the `second` against the `first`, both of which can shoot."""

    first: Prediction
    second: Prediction

    @cached_property
    def comparison(self) -> Comparison:
        """The differences, in the shorter of the two holds."""
        return compared(self.first, self.second)

    @property
    def is_uncertain(self) -> bool:
        """Whether there may be a difference that somebody would notice, or none."""
        found = self.comparison
        differences = (found.frames, found.frames_at_full_speed, found.clear_s)
        return not self._certain and any(one.is_too_uncertain for one in differences)

    @property
    def is_practically_none(self) -> bool:
        """Whether there is none that somebody would notice, as far as anybody can tell."""
        return not self._certain and not self.is_uncertain

    def words(self, letter: str) -> str:
        """All of it against A, of a second that goes by `letter`."""
        if said := self._certain:
            return f"Against A: {'; '.join(said)}."
        if self.is_uncertain:
            probable = get_text_list(list(self._probable()), "and")
            return f"Too uncertain to call; {letter} probably {probable}. A test would tell."
        return "No practical difference from A."

    @property
    def how_sure(self) -> str:
        """Beside predicted differences, how sure they are; empty where they are certain."""
        if self.is_uncertain:
            return "too uncertain to call: a test would tell"
        return "" if self._certain else "no practical difference"

    @cached_property
    def _certain(self) -> list[str]:
        """The differences that anybody would notice, in words."""
        found, said = self.comparison, []
        if found.frames.noticed:
            way = "ahead" if found.frames.predicted > 0 else "behind"
            amount = amount_words(found.frames, "frames")
            said.append(f"after {exact(found.hold_s)} s {amount} {way}")
        if found.frames_at_full_speed.noticed:
            longer = found.frames_at_full_speed.predicted > 0
            amount = amount_words(found.frames_at_full_speed, "frames")
            said.append(f"full speed lasts {amount} {'longer' if longer else 'shorter'}")
        sooner_s = self.first.first_look_s - self.second.first_look_s
        if abs(sooner_s) > NOTICED_S:
            way = "sooner" if sooner_s > 0 else "later"
            said.append(f"the first picture can be viewed {figure(abs(sooner_s), 's')} {way}")
        if found.clear_s.noticed:
            way = "sooner" if found.clear_s.predicted < 0 else "later"
            said.append(f"the light is out {amount_words(found.clear_s, 's')} {way}")
        return said

    def _probable(self) -> Iterator[str]:
        """What is predicted of the differences that may be there or not, in words."""
        found = self.comparison
        for one, words, unit, less, more in (
            (found.frames, "gets {}", "frames", "fewer", "more"),
            (found.frames_at_full_speed, "goes on for {} at full speed", "frames", "fewer", "more"),
            (found.clear_s, "has its light out {}", "s", "sooner", "later"),
        ):
            if one.is_too_uncertain:
                amount = figure(abs(one.predicted), unit)
                said = words.format(f"{amount} {less if one.predicted < 0 else more}")
                yield f"{said} ({range_words(one, less, more)})"


def compared(first: Prediction, second: Prediction) -> Comparison:
    """The differences of the second against the first."""
    return compare(
        (first.shot.scenario, first.sources),
        (second.shot.scenario, second.sources),
        independent_factors(first.setup, second.setup),
    )


def amount_words(difference: Difference, unit: str) -> str:
    """The size of a difference with its range, whatever its sign."""
    ends = sorted((abs(difference.low), abs(difference.high)))
    low, high = map(figure, ends)
    between = f" ({low} to {high})" if low != high else ""
    return f"{figure(abs(difference.predicted), unit)}{between}"


def range_words(difference: Difference, less: str, more: str) -> str:
    """Its ends in words: "7 fewer to 9 more"."""
    low, high = difference.low, difference.high
    if low < 0 < high:
        return f"{figure(-low)} {less} to {figure(high)} {more}"
    return " to ".join(figure(end) for end in sorted((abs(low), abs(high))))


def independent_factors(first: Setup, second: Setup) -> frozenset[Factor]:
    """The factors that are not one and the same thing in both set-ups."""
    keys, others = figure_keys_of(first), figure_keys_of(second)
    other_body = first.body != second.body
    return frozenset(
        factor
        for factor in keys.keys() | others.keys()
        if (
            keys.get(factor) != others.get(factor)
            and not (factor.kind is FigureKind.PACE and _paced_by_slot(first, second))
        )
        or (other_body and factor.kind not in OF_CARD)
    )


def _paced_by_slot(*setups: Setup) -> bool:
    """Whether no card sets the pace of any: what a slot passes at most is one thing for all."""
    return all(write_speed(side).set_by == "slot" for setup in setups for side in setup.sides)
