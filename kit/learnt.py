"""Figures learnt from runs, as rows of the documents of bodies and cards.

Each time they take the place of all that was learnt before; what the owner entered stays beneath
them, so that no run is counted twice.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from engine.figures.key import FigureKey
from kit.figure_places import Document, arrangement_of, entered_of, has_figure, row_of
from kit.models import Body, Source

DIGITS = 4


@dataclass(frozen=True)
class NewFigure:
    """A figure of a body, or a card's own speed, as runs have it.

    `ratio` is to what was assumed, or to `usual` where nobody had noted anything; `spread` is the
    standard deviation of the logarithm, `samples` are equally likely ratios to the new value.
    """

    key: FigureKey
    ratio: float
    spread: float
    usual: float
    samples: str = ""

    def row(self, assumed: float | None) -> Document:
        """The fields of its row where the owner has entered `assumed`."""
        value = float(f"{(assumed or self.usual) * self.ratio:.{DIGITS}g}")
        return {"value": value, "spread": self.spread, "samples": self.samples}


@dataclass(frozen=True)
class NewCoupling:
    """How the slots share the work in an arrangement, and the odds of that."""

    kind: str
    coupling: str
    odds: float


@dataclass(frozen=True)
class Lesson:
    """From how many runs something was learnt, and when."""

    runs: int
    on: date

    @property
    def row(self) -> Document:
        """The fields of each row that it is the origin of."""
        return {"runs": self.runs, "learnt_on": self.on}


def body_document_as_assumed(document: Document) -> Document:
    """The document of a body without what was learnt."""
    return document | {"learnt_figures": [], "learnt_couplings": []}


def card_document_as_assumed(document: Document) -> Document:
    """The document of a card without what was learnt."""
    return document | {"learnt_speeds": []}


def body_document_with(
    document: Document,
    figures: Iterable[NewFigure],
    couplings: Iterable[NewCoupling],
    lesson: Lesson,
) -> Document:
    """The document of a body with what was learnt, in place of all that was learnt before."""
    of_figures = [
        row_of(one.key) | one.row(entered_of(document, one.key)) | lesson.row
        for one in figures
        if has_figure(document, one.key)
    ]
    of_couplings = [
        {"kind": one.kind, "coupling": one.coupling, "odds": one.odds} | lesson.row
        for one in couplings
        if (arrangement := arrangement_of(document, one.kind))
        and arrangement["source"] == Source.ESTIMATED  # else somebody knows better
    ]
    return document | {"learnt_figures": of_figures, "learnt_couplings": of_couplings}


def card_document_with(
    document: Document, own: NewFigure, kept_mb_s: float, body: Body, lesson: Lesson
) -> Document:
    """The document of a card with what runs in `body` have taught of its own speed.

    The body keeps writing `kept_mb_s` to it. What is printed on it, and its cache, stay the limits
    that they are.
    """
    row = own.row(None)
    limits = (document["printed_write_mb_s"], document["cache_write_mb_s"])
    # Rounded before it is held against them: rounding up would pass a limit of more digits.
    rounded_mb_s = float(f"{kept_mb_s:.{DIGITS}g}")
    value = min([rounded_mb_s, *(limit for limit in limits if limit)])
    row |= {"own_mb_s": row["value"], "value": value}
    return document | {"learnt_speeds": [row | lesson.row | {"learnt_in": str(body)}]}
