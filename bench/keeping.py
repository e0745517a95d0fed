"""What runs teach, written to the kit, so that every screen predicts with it."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date
from functools import cached_property

from django.db import transaction
from django.db.models import QuerySet
from django.utils.timezone import localdate

from bench.models import Run
from bench.report import BodyReport, FigureRow
from engine.figures.key import FigureKey, FigureKind
from engine.figures.uncertainty import LogNormal
from kit import edit
from kit.document import document_of
from kit.figure_places import Document
from kit.learnt import (
    Lesson,
    NewCoupling,
    NewFigure,
    body_document_as_assumed,
    body_document_with,
    card_document_as_assumed,
    card_document_with,
)
from kit.models import Body, Card, KitItem, LearntSpeed, Revision, Visitor


@dataclass(frozen=True)
class Keeping:
    """The figures of a visitor's own body, and of the cards in it, that `report` can give."""

    body: Body
    visitor: Visitor
    report: BodyReport

    @cached_property
    def learnt_on(self) -> date | None:
        """When the figures that the kit has were learnt; None: they were not."""
        return learnt_on(self.body, self.visitor)

    @cached_property
    def documents(self) -> list[tuple[KitItem, Document]]:
        """Body and cards as they would be with what was learnt; only what would change."""
        return self._changed(self.learnt_on or localdate())

    @property
    def is_kept(self) -> bool:
        """Whether the kit has just this already."""
        return self.learnt_on is not None and not self.documents

    def keep(self) -> Revision | None:
        """Writes the figures, to be undone at once; None where nothing is new."""
        with transaction.atomic():
            of_body = Run.objects.made_by(self.visitor).filter(body=self.body)
            of_body.update(taught=False)
            of_body.filter(pk__in=self.report.used).update(taught=True)
            return edit.rewrite_all(self._changed(localdate()))

    def _changed(self, on: date) -> list[tuple[KitItem, Document]]:
        """What learning it on that day would change."""
        before, lesson = document_of(self.body), Lesson(len(self.report.used), on)
        rows = [row for row in self.report.figures if row.is_kept]
        figures = [one for row in rows for one in _figures(row, before)]
        couplings = [
            NewCoupling(row.kind, row.likeliest, row.odds[row.likeliest])
            for row in self.report.odds
            if row.is_known
        ]
        documents: list[tuple[KitItem, Document, Document]] = [
            (self.body, before, body_document_with(before, figures, couplings, lesson))
        ]
        own = {row.key.of: row for row in rows if row.key.kind is FigureKind.CARD}
        kept_mb_s = {row.slug: row.middle_mb_s for row in reversed(self.report.speeds)}
        for card in Card.objects.owned_by(self.visitor).filter(slug__in=own):
            of_card, figure = document_of(card), _figure(own[card.slug].key, own[card.slug])
            new = card_document_with(of_card, figure, kept_mb_s[card.slug], self.body, lesson)
            documents.append((card, of_card, new))
        return [(item, new) for item, before, new in documents if new != before]


def learnt_on(body: Body, visitor: Visitor) -> date | None:
    """When the figures that the kit has of a body were learnt; None: they were not."""
    of_body = [*body.learnt_figures.all(), *body.learnt_couplings.all()]
    rows = [*of_body, *_speeds(body, visitor)]
    return max((row.learnt_on for row in rows), default=None)


def take_back(body: Body, visitor: Visitor) -> Revision | None:
    """Puts back all that was there before anything was learnt of the visitor's body."""
    documents: list[tuple[KitItem, Document]] = [
        (body, body_document_as_assumed(document_of(body)))
    ]
    for speed in _speeds(body, visitor):
        documents.append((speed.card, card_document_as_assumed(document_of(speed.card))))
    return edit.rewrite_all(documents)


def _speeds(body: Body, visitor: Visitor) -> QuerySet[LearntSpeed]:
    """Those of the visitor's cards that were learnt in a body."""
    here = LearntSpeed.objects.filter(card__owner=visitor.pk, learnt_in=str(body))
    return here.select_related("card")


def _figures(row: FigureRow, document: Document) -> Iterator[NewFigure]:
    """The kit's figures of a body that a learnt one is."""
    if row.key.kind is FigureKind.FILES:
        for recording in document["formats"]:
            if recording["slug"] == row.key.of:
                for file in recording["files"]:
                    yield _figure(replace(row.key, file=file["name"]), row)
    elif row.key.kind is FigureKind.FRAME_RATE:
        yield _rate(row)
    elif row.key.kind is not FigureKind.CARD:
        yield _figure(row.key, row)


def _rate(row: FigureRow) -> NewFigure:
    """A frame rate keeps the value by which the camera calls it; what it really is are samples."""
    of_typical = _figure(row.key, row)
    ratios = (float(one) * row.typical for one in row.samples.split())
    return replace(of_typical, ratio=1.0, samples=" ".join(f"{ratio:.4f}" for ratio in ratios))


def _figure(key: FigureKey, row: FigureRow) -> NewFigure:
    spread = LogNormal.within(math.sqrt(row.ratios.high / row.ratios.low)).spread
    return NewFigure(key, row.typical, round(spread, 6), row.assumed_in_kit, row.samples)
