"""How verdicts look, and what a page of the kit asks of an item."""

from engine.burst.wear import wear_sentences
from engine.cards.compatibility import Verdict
from kit.engine_adapter import card_alone, kept_writing
from kit.models import Card, KitItem, Revision

# Told apart by shape alone: a full disc, half of one, an arrow up, a diamond, a cross.
_SHAPES = {
    Verdict.MADE_FOR_IT: "M10 2a8 8 0 1 0 .01 0Z",
    Verdict.SPEED_WASTED: "M10 2a8 8 0 1 0 .01 0ZM10 4a6 6 0 0 1 0 12Z",
    Verdict.AFTER_FIRMWARE: "M10 2l8 9h-5v7h-6v-7h-5Z",
    Verdict.TEST_FIRST: "M10 1l9 9-9 9-9-9Z",
    Verdict.DOES_NOT_FIT: "M4 2l6 6 6-6 2 2-6 6 6 6-2 2-6-6-6 6-2-2 6-6-6-6Z",
}


_SHORT = {
    Verdict.MADE_FOR_IT: "all it can do",
    Verdict.SPEED_WASTED: "limited by camera",
    Verdict.AFTER_FIRMWARE: "after firmware",
    Verdict.TEST_FIRST: "test first",
    Verdict.DOES_NOT_FIT: "doesn't fit",
}


def short(verdict: Verdict) -> str:
    """The verdict in a word or two, for a cell of the matrix."""
    return _SHORT[verdict]


def shape(verdict: Verdict) -> str:
    """The outline of a verdict's mark in a square of 20."""
    return _SHAPES[verdict]


def last_change(item: KitItem) -> Revision | None:
    """The newest change of an item, which can be undone."""
    return Revision.objects.last_of(item)


def wear(card: Card) -> list[str]:
    """What a card does with its cache used up, and when it is nearly full."""
    return list(wear_sentences(card_alone(card)))


FUNCTIONS = {"last_change": last_change}
FILTERS = {"kept_writing": kept_writing, "short": short, "shape": shape, "wear": wear}
