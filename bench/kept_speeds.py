"""What a body keeps writing to its cards, as a photographer would say it."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from bench.possible_tests import PossibleTests
from bench.report import KeptSpeedRow
from engine.formats import figure
from engine.measurement.kept_speeds import Held, KeptSpeed, kept_speeds
from engine.measurement.learnt import LearntBody
from kit.models import Card
from setups.setup import Setup

HELD_WORDS = {
    Held.CARD: "the card itself",
    Held.SLOT: "the slot",
    Held.PROCESSOR: "the processor",
}
LEAST_ODDS = 0.05  # less is not worth a word
FRACTIONS = {
    0.25: "a quarter", 1 / 3: "a third", 0.5: "half", 2 / 3: "two thirds", 0.75: "three quarters",
    1.0: "all",
}  # fmt: skip
CLOSE = 0.06  # of a fraction that is named


def kept_rows(
    learnt: LearntBody, setups: Sequence[Setup], possible: PossibleTests
) -> list[KeptSpeedRow]:
    """Each card in each slot that it was tested in; the one of a maker's claim is nobody's."""
    cards = {side.fitted.slug: side.fitted for setup in setups for side in setup.sides}
    return [
        _row(one, cards[one.card], possible) for one in kept_speeds(learnt) if one.card in cards
    ]


def _row(one: KeptSpeed, card: Card, possible: PossibleTests) -> KeptSpeedRow:
    low_mb_s, middle_mb_s, high_mb_s = one.range_mb_s
    ranked = sorted(one.odds, key=one.odds.__getitem__, reverse=True)
    row = KeptSpeedRow(
        slug=card.slug, card=str(card), slot=one.slot, low_mb_s=low_mb_s, middle_mb_s=middle_mb_s,
        high_mb_s=high_mb_s, share=one.share, is_stopped=one.is_stopped,
        of_printed=of_printed(middle_mb_s, card),
        odds=[(HELD_WORDS[held], one.odds[held]) for held in ranked
              if one.odds[held] >= LEAST_ODDS],
    )  # fmt: skip
    if row.is_known:
        return row
    is_likeliest = (one.held == ranked[0]).astype(np.float64)
    return replace(row, next=possible.of_figure(is_likeliest))


def of_printed(kept_mb_s: float, card: Card) -> str:
    """What part of the printed speed that is: "half of the 90 MB/s printed for writing"."""
    for printed_mb_s, words in (
        (card.printed_write_mb_s, "for writing"),
        (card.printed_read_mb_s, "for reading"),
    ):
        if printed_mb_s:
            of_it = fraction(kept_mb_s / printed_mb_s)
            return f"{of_it} of the {figure(printed_mb_s, 'MB/s')} printed on it {words}"
    return ""


def fraction(share: float) -> str:
    """A share as somebody would say it: "half", "0.6", "1.2 times"."""
    nearest = min(FRACTIONS, key=lambda one: abs(one - share))
    if abs(nearest - share) <= CLOSE * nearest:
        return FRACTIONS[nearest]
    return figure(share) if share < 1 else f"{figure(share)} times"
