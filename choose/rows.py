"""Every card of a choice, and why: what it does at its best, what it misses, why it is left out."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from choose.evaluating import EvaluatedCard
from choose.names import NamedOption, Names, name_of
from choose.need_address import NeedReading
from choose.words import miss_words
from engine.formats import exact, figure
from engine.selection.choice import Choice
from engine.selection.options import NONE
from kit.models import CardState
from prices.history import Sparkline, sparkline

Verdict = Literal["passes", "fails", "no use", "left out", "doesn't fit"]
_ORDER: tuple[Verdict, ...] = ("passes", "fails", "no use", "left out", "doesn't fit")
WASTED_PERCENT = 10.0  # of a card's own speed; less is not mentioned


@dataclass(frozen=True)
class CardRow:
    """One card, what came of it, and the `place` of the best that it is part of.

    What it says is worked out when it is shown: of a thousand cards a page shows a few.
    """

    reading: NeedReading
    number: int
    evaluated: EvaluatedCard
    names: Names | None
    place: int | None
    verdict: Verdict

    @property
    def counts(self) -> bool:
        """Whether it does it, or could but for what it misses."""
        return self.verdict in ("passes", "fails")

    @property
    def name(self) -> str:
        """What it is called."""
        return name_of(self.evaluated.card, self.reading)

    @property
    def price(self) -> str:
        """Its price as it was noted, without the currency; empty: none."""
        now = self.evaluated.priced.now
        return exact(float(now.price)) if now else ""

    @property
    def history(self) -> Sparkline | None:
        """Its prices, drawn."""
        return sparkline(self.evaluated.priced)

    @cached_property
    def shown(self) -> NamedOption | None:
        """The best that it is part of."""
        return self.names.shown(self.place) if self.names and self.place is not None else None

    @property
    def wasted(self) -> str:
        """How much of its own speed is lost in the slot that it would go into."""
        fitted = [held for held in self.evaluated.held if held.mounts]
        percent = min((held.wasted_percent for held in fitted), default=0.0)
        return figure(percent, "%") if percent >= WASTED_PERCENT else ""

    @property
    def why(self) -> str:
        """Why it has its verdict; empty where there is no more to say."""
        if self.evaluated.card.state == CardState.SUSPECT:
            return "It is suspect: not to be relied on until it has been tested."
        if not self.evaluated.counts:
            return _misfit(self.evaluated)
        if self.names is None or self.place is None:
            return "Nothing can be shot with it in this way."
        if self.verdict == "no use":
            return "It goes into slot 2, where it adds nothing that you ask for."
        choice = self.names.choice
        if miss := choice.miss(self.place):
            return miss_words(miss, choice.need, self.reading.money)
        return _standing(choice, self.place, self.reading.money)


def card_rows(
    reading: NeedReading, evaluated: Sequence[EvaluatedCard], names: Names | None
) -> list[CardRow]:
    """Every card, those that pass first, the cheapest of a kind first."""
    best = dict(names.choice.best_of_cards) if names else {}
    if names and (answer := names.choice.answer) is not None:
        _, _, *chosen = names.choice.options.which(answer)
        best |= dict.fromkeys(chosen, answer)  # what is chosen is told as such
    rows = [
        CardRow(
            reading, number, one, names, best.get(number),
            _verdict(number, one, names.choice if names else None, best.get(number)),
        )
        for number, one in enumerate(evaluated)
    ]  # fmt: skip
    return sorted(rows, key=lambda row: (_ORDER.index(row.verdict), _price(row.evaluated)))


def _verdict(number: int, one: EvaluatedCard, choice: Choice | None, place: int | None) -> Verdict:
    if one.card.state == CardState.SUSPECT:
        return "left out"
    if not one.counts:
        return "doesn't fit"
    if choice is None or place is None:
        return "left out"
    if not choice.options.passes[place]:
        return "fails"
    useless = place in choice.needless and choice.options.second[place] == number
    return "no use" if useless else "passes"


def _price(one: EvaluatedCard) -> tuple[bool, int]:
    cents = 0 if one.candidate.owned else one.candidate.price_cents
    return cents is None, cents or 0


def _standing(choice: Choice, place: int, currency: str) -> str:
    """Where a card that passes stands among the others."""
    if choice.options.price_cents[place] == NONE:
        return f"its price in {currency} is not known"
    if choice.answer == place:
        return "the cheapest that works"
    if choice.ties and place in choice.ties[0]:
        return "no practical difference from the cheapest"
    if place in choice.dominated:
        return "a cheaper card does as well"
    return ""


def _misfit(one: EvaluatedCard) -> str:
    """Why a card goes into none of the slots."""
    fitting = [held for held in one.held if held.fits]
    if fitting:
        return " ".join(held.fit.reasons[0] for held in fitting)
    takes = (
        f"{held.slot} takes {' or '.join(sorted(held.slot.forms_taken()))}" for held in one.held
    )
    return f"It is {one.card.form}; {', '.join(takes)}."
