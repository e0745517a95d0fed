"""Every card of a choice, and why: what it does at its best, what it misses, why it is left out."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from desk.choice_names import Names, Shown, name_of
from desk.choice_words import miss_words
from desk.choosing import Weighed
from desk.need_address import NeedReading
from kit.models import CardState
from pages.templatetags.figures import exact, figure
from prices.history import Sparkline, sparkline

Verdict = Literal["passes", "fails", "no use", "left out", "doesn't fit"]
_ORDER: tuple[Verdict, ...] = ("passes", "fails", "no use", "left out", "doesn't fit")
WASTED_PERCENT = 10.0  # of a card's own speed; less is not worth a word


@dataclass(frozen=True)
class CardRow:
    """One card with its price and the history of that; `shown` is the best that it is part of."""

    weighed: Weighed
    name: str
    price: str
    history: Sparkline | None
    verdict: Verdict
    why: str
    shown: Shown | None

    @property
    def counts(self) -> bool:
        """Whether it does it, or could but for what it misses."""
        return self.verdict in ("passes", "fails")

    @property
    def wasted(self) -> str:
        """How much of its own speed is lost in the slot that it would go into."""
        fitted = [held for held in self.weighed.held if held.mounts]
        percent = min((held.wasted_percent for held in fitted), default=0.0)
        return figure(percent, "%") if percent >= WASTED_PERCENT else ""


def card_rows(
    reading: NeedReading, weighed: Sequence[Weighed], names: Names | None
) -> list[CardRow]:
    """Every card, those that pass first, the cheapest of a kind first."""
    rows = [_row(reading, number, one, names) for number, one in enumerate(weighed)]
    return sorted(rows, key=lambda row: (_ORDER.index(row.verdict), _price(row.weighed)))


def _price(one: Weighed) -> tuple[bool, int]:
    cents = 0 if one.candidate.owned else one.candidate.price_cents
    return cents is None, cents or 0


def _row(reading: NeedReading, number: int, one: Weighed, names: Names | None) -> CardRow:
    place = names.choice.best_of_cards.get(number) if names else None
    verdict, why = _why(number, one, names, place)
    now = one.priced.now
    return CardRow(
        weighed=one,
        name=name_of(one.card, reading),
        price=exact(float(now.price)) if now else "",
        history=sparkline(one.priced),
        verdict=verdict,
        why=why,
        shown=names.shown(place) if names and place is not None else None,
    )


def _why(number: int, one: Weighed, names: Names | None, place: int | None) -> tuple[Verdict, str]:
    if one.card.state == CardState.SUSPECT:
        return "left out", "It is suspect: not to be relied on until it has been tested."
    if not one.counts:
        return "doesn't fit", _misfit(one)
    if names is None or place is None:
        return "left out", "Nothing can be shot with it in this way."
    choice = names.choice
    if miss := choice.miss(place):
        return "fails", miss_words(miss, choice.need, names.reading.money)
    if place in choice.needless and choice.options.second[place] == number:
        return "no use", "It goes into slot 2, where it adds nothing that you ask for."
    return "passes", _standing(names, place)


def _standing(names: Names, place: int) -> str:
    """Where a card that passes stands among the others."""
    choice = names.choice
    if choice.answer == place:
        return "the cheapest that does it"
    if choice.ties and place in choice.ties[0]:
        return "nobody could tell it from the cheapest"
    if place in choice.dominated:
        return "costs more than another, and is better in nothing that you ask for"
    return ""


def _misfit(one: Weighed) -> str:
    """Why a card goes into none of the slots."""
    fitting = [held for held in one.held if held.fits]
    if fitting:
        return " ".join(held.fit.reasons[0] for held in fitting)
    takes = (
        f"{held.slot} takes {' or '.join(sorted(held.slot.forms_taken()))}" for held in one.held
    )
    return f"It is {one.card.form}; {', '.join(takes)}."
