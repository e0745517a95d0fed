"""Pinned set-ups side by side, on one time axis, and the differences in words."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from string import ascii_uppercase

from engine import Result
from engine.figures.key import OF_CARD, Factor, FigureKind
from engine.formats import exact, figure
from engine.quantities import NOTICED_S, ns_of
from engine.typed_numbers import NotANumber, quantity_in
from engine.uncertainty.comparison import Comparison, Difference, compare
from setups import keys
from setups.drawing import Drawing, axis_end_s, draw, percent_of
from setups.engine_adapter import figure_keys_of, write_speed
from setups.kit import Kit
from setups.pins import Pin, Pins
from setups.prediction import Prediction, predict
from setups.reader import read_address
from setups.setup import Setup

EXAMPLES = 3


@dataclass(frozen=True)
class ComparedRow:
    """One set-up among those compared.

    `differences` say whether it differs from the first, nothing for the first itself; `earlier` and
    `later` are the pins with this one moved; the figures of the ruler are of its moment.
    """

    letter: str
    pin: Pin
    prediction: Prediction
    drawing: Drawing
    differences: str
    earlier: Pins
    later: Pins
    frames_at: int
    memory_percent_at: float

    @property
    def shot(self) -> Result:
        """The burst."""
        return self.prediction.shot

    @property
    def price(self) -> str:
        """What its cards cost, in words."""
        costs = self.pin.reading.costs
        cards = [side.card for side in self.setup.sides if side.card]
        return " and ".join(costs.words(card) for card in cards)

    @property
    def setup(self) -> Setup:
        """The set-up that is shot."""
        return self.prediction.setup


@dataclass(frozen=True)
class SideBySide:
    """The rows, what could not be shot, the end of the axis, and the moment of the ruler."""

    rows: Sequence[ComparedRow]
    refused: Sequence[str]
    ends_s: float
    at_s: float

    @property
    def winner(self) -> str:
        """Which set-up is best at what, in a line; empty with fewer than two."""
        return winner_words(self.rows) if len(self.rows) > 1 else ""

    @property
    def at_percent(self) -> float:
        """Where the ruler stands along the axis."""
        return percent_of(self.at_s, self.ends_s)


def side_by_side(pins: Pins, asked_at: str) -> SideBySide:
    """The set-ups of `pins`, read at the moment that `asked_at` asks for, or at a finger up."""
    shot, refused = [], []
    for number, pin in enumerate(pins.all):
        prediction = predict(pin.reading.setup)
        if prediction.result:
            shot.append((number, pin, prediction))
        else:
            refused.append(f"{pin.words}: this can't be predicted, and is left out.")
    if not shot:
        return SideBySide((), refused, 1.0, 0.0)
    ends_s = axis_end_s(*(prediction.shot for _, _, prediction in shot))
    at_s = shot[0][2].setup.hold_s
    if asked_at:
        try:
            at_s = quantity_in(asked_at, "s")
        except NotANumber as error:
            refused.append(f"{error} The ruler stands at finger up.")
    at_s = min(max(at_s, 0.0), ends_s)
    rows = [
        ComparedRow(
            letter=ascii_uppercase[place],
            pin=pin,
            prediction=prediction,
            drawing=draw(prediction.shot, prediction.ranges.frames_at_full_speed, ends_s=ends_s),
            differences=_in_words(shot[0][2], prediction) if place else "",
            earlier=pins.moved(number, -1),
            later=pins.moved(number, 1),
            frames_at=prediction.shot.frames_taken_before(ns_of(at_s) + 1),
            memory_percent_at=100
            * prediction.shot.memory_mb_at(ns_of(at_s))
            / prediction.setup.body.memory.value,
        )
        for place, (number, pin, prediction) in enumerate(shot)
    ]
    return SideBySide(rows, refused, ends_s, at_s)


def winner_words(rows: Sequence[ComparedRow]) -> str:
    """Which row lasts longest at full speed, and whose card light is out first.

    A lead counts where the difference to each other row is noticed, as it is told beside them.
    """
    longest = _leader(rows, lambda comparison: comparison.frames_at_full_speed, sign=1)
    soonest = _leader(rows, lambda comparison: comparison.clear_s, sign=-1)
    if longest and longest == soonest:
        return f"{longest} is best: longest at full speed, and its card light is out first."
    said = [f"{longest} lasts longest at full speed"] if longest else []
    if soonest:
        said.append(f"{soonest}'s card light is out first")
    if said:
        return f"{'; '.join(said)}."
    first, *others = (row.prediction for row in rows)
    if any(_too_uncertain(_compared(first, other)) for other in others):
        return "Too uncertain to say which is best."
    return "No practical difference."


def _leader(
    rows: Sequence[ComparedRow], figure_of: Callable[[Comparison], Difference], *, sign: int
) -> str:
    """The letter of the row that beats each other one, if any; `sign` -1: less is better."""
    for row in rows:
        others = (_compared(other.prediction, row.prediction) for other in rows if other is not row)
        differences = map(figure_of, others)
        if all(one.noticed and sign * one.middle > 0 for one in differences):
            return row.letter
    return ""


def _compared(first: Prediction, second: Prediction) -> Comparison:
    return compare(
        (first.shot.scenario, first.sources),
        (second.shot.scenario, second.sources),
        _independent(first.setup, second.setup),
    )


def examples(kit: Kit) -> Pins:
    """Set-ups to begin with: one body, with each of the first cards that fit it."""
    reading = read_address({}, kit)
    if reading is None:
        return Pins((), kit)
    side = reading.setup.sides[0]
    body, slot = reading.setup.body.slug, side.slot.number
    queries = [keys.query_of(body, {slot: card.slug}) for card in side.cards[:EXAMPLES]]
    return Pins.of(queries, kit)


def _in_words(first: Prediction, second: Prediction) -> str:
    """What the second brings against the first, A, or that nobody could tell."""
    comparison = _compared(first, second)
    if said := _noticed(first, second, comparison):
        return f"Against A: {'; '.join(said)}."
    if not (differences := _too_uncertain(comparison)):
        return "No difference from A that you could notice."
    return f"Too uncertain to tell from A: {'; '.join(differences)}. A test would tell."


def _too_uncertain(comparison: Comparison) -> list[str]:
    """The differences that may be large or none, in words."""
    after = f"frames after {exact(comparison.hold_s)} s"
    of_each = (
        (comparison.frames, f"{after} fewer", "more"),
        (comparison.frames_at_full_speed, "frames at full speed fewer", "more"),
        (comparison.clear_s, "s sooner until the light is out", "later"),
    )
    return [_span(one, less, more) for one, less, more in of_each if one.is_too_uncertain]


def _span(difference: Difference, less: str, more: str) -> str:
    """From so much less to so much more; 0 where it is only one of these."""
    low, high = (figure(max(end, 0.0)) for end in (-difference.low, difference.high))
    return f"{low} {less} to {high} {more}"


def _noticed(first: Prediction, second: Prediction, comparison: Comparison) -> list[str]:
    """The differences that anybody would notice, in words."""
    said = []
    if comparison.frames.noticed:
        said.append(
            f"after {exact(comparison.hold_s)} s {_amount(comparison.frames, 'frames')} "
            f"{'ahead' if comparison.frames.middle > 0 else 'behind'}"
        )
    if comparison.frames_at_full_speed.noticed:
        longer = comparison.frames_at_full_speed.middle > 0
        said.append(
            f"full speed lasts {_amount(comparison.frames_at_full_speed, 'frames')} "
            f"{'longer' if longer else 'shorter'}"
        )
    sooner_s = first.first_look_s - second.first_look_s
    if abs(sooner_s) > NOTICED_S:
        way = "sooner" if sooner_s > 0 else "later"
        said.append(f"the first picture can be looked at {figure(abs(sooner_s), 's')} {way}")
    if comparison.clear_s.noticed:
        sooner = comparison.clear_s.middle < 0
        said.append(
            f"the light is out {_amount(comparison.clear_s, 's')} {'sooner' if sooner else 'later'}"
        )
    return said


def _amount(difference: Difference, unit: str) -> str:
    """The size of a difference with its range, whatever its sign."""
    ends = sorted((abs(difference.low), abs(difference.high)))
    low, high = map(figure, ends)
    between = f" ({low} to {high})" if low != high else ""
    return f"{figure(abs(difference.middle), unit)}{between}"


def _independent(first: Setup, second: Setup) -> frozenset[Factor]:
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
