"""Pinned set-ups side by side, on one time axis, and the differences in words."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from string import ascii_uppercase

from engine import Result
from engine.quantities import ns_of
from engine.typed_numbers import NotANumber, quantity_in
from engine.uncertainty.comparison import Comparison, Difference
from setups import keys
from setups.difference import SetupDifference, compared
from setups.drawing import Drawing, axis_end_s, draw, percent_of
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
            differences=SetupDifference(shot[0][2], prediction).words(ascii_uppercase[place])
            if place
            else "",
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
    differences = [SetupDifference(first, other) for other in others]
    if all(one.is_practically_none for one in differences):
        return "No practical difference."
    if any(one.is_uncertain for one in differences):
        return "Too uncertain to call which is best."
    return "No single one is best."


def _leader(
    rows: Sequence[ComparedRow], figure_of: Callable[[Comparison], Difference], *, sign: int
) -> str:
    """The letter of the row that beats each other one, if any; `sign` -1: less is better."""
    for row in rows:
        others = (compared(other.prediction, row.prediction) for other in rows if other is not row)
        differences = map(figure_of, others)
        if all(one.noticed and sign * one.predicted > 0 for one in differences):
            return row.letter
    return ""


def examples(kit: Kit, in_view: Mapping[str, str]) -> Pins:
    """Set-ups to begin with: the body in view, with each of the first cards that fit it."""
    reading = read_address({keys.BODY: in_view.get(keys.BODY, "")}, kit)
    if reading is None:
        return Pins((), kit)
    side = reading.setup.sides[0]
    body, slot = reading.setup.body.slug, side.slot.number
    queries = [keys.query_of(body, {slot: card.slug}) for card in side.cards[:EXAMPLES]]
    return Pins.of(queries, kit)
