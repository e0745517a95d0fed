"""Figures learnt from runs: written to bodies and cards, and the figures that were there before.

What is learnt again begins from what was assumed before, so that no run is counted twice.
"""

from collections.abc import Iterable, Iterator, Mapping
from copy import deepcopy
from dataclasses import dataclass
from datetime import date
from typing import Any, TypeVar

from kit.detached import detached
from kit.document import document_of
from kit.models import Body, Card, KitItem, LearntCoupling, LearntFigure, Source
from kit.models.body import MEMORY, figure_of_rate, slot_of_cap

Document = dict[str, Any]
_Item = TypeVar("_Item", bound=KitItem)
DIGITS, DIGITS_OF_SPREAD = 4, 9


@dataclass(frozen=True)
class NewFigure:
    """A figure of a body by its name, or a card's sustained write, as runs have it.

    `ratio` is to what was assumed, or to `usual` where nobody had noted anything; `spread` is the
    standard deviation of the logarithm, `samples` are equally likely ratios to the new value.
    """

    figure: str
    ratio: float
    spread: float
    usual: float
    samples: str = ""


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


def holding(body: Body) -> list[LearntFigure | LearntCoupling]:
    """What was learnt of `body` and is still as it was learnt."""
    document = document_of(body)
    figures = [
        one
        for one in body.learnt_figures.all()
        if any(place.has(one.value) for place in _places(document, one.figure))
    ]
    couplings = [
        one
        for one in body.learnt_couplings.all()
        if any(_has(arrangement, one.coupling) for arrangement in _arrangements(document, one.kind))
    ]
    return [*figures, *couplings]


def body_as_assumed(body: Body) -> Body:
    """`body`, whose choices are fetched, without what runs have taught; itself if that is nothing.

    It keeps its primary key, but is not to be saved.
    """
    if not (body.learnt_figures.all() or body.learnt_couplings.all()):
        return body
    return _not_saved(body, body_document_as_assumed(document_of(body)))


def card_as_assumed(card: Card, body: Body) -> Card:
    """`card` without what runs in `body` have taught; itself if that is nothing."""
    if card.learnt is None or card.source_in(body) != Source.MEASURED_HERE:
        return card
    return _not_saved(card, card_document_as_assumed(document_of(card)))


def body_document_as_assumed(document: Document) -> Document:
    """The document of a body as it was before anything was learnt."""
    before = deepcopy(document)
    for row in before["learnt_figures"]:
        if (place := _Place.of(before, row["figure"])) and place.has(row["value"]):
            place.put(row["assumed_value"], row["assumed_source"])
    for row in before["learnt_couplings"]:
        for one in _arrangements(before, row["kind"]):
            if _has(one, row["coupling"]):
                one |= {"coupling": row["assumed_coupling"], "source": Source.ESTIMATED.value}
    return before | {"learnt_figures": [], "learnt_couplings": []}


def card_document_as_assumed(document: Document) -> Document:
    """The document of a card as it was before anything was learnt."""
    before = document | {"learnt_speeds": []}
    for row in document["learnt_speeds"]:
        is_here = document["sustained_source"] == Source.MEASURED_HERE
        if is_here and document["sustained_write_mb_s"] == row["value"]:
            before |= {
                "sustained_write_mb_s": row["assumed_value"],
                "sustained_source": row["assumed_source"],
                "sustained_spread": row["assumed_spread"],
                "measured_in": row["assumed_in"],
            }
    return before


def body_document_with(
    document: Document,
    figures: Iterable[NewFigure],
    couplings: Iterable[NewCoupling],
    lesson: Lesson,
) -> Document:
    """The document of a body with what was learnt, in place of all that was learnt before."""
    new = body_document_as_assumed(document)
    for one in figures:
        if place := _Place.of(new, one.figure):
            assumed, source = place.value, place.source
            place.put(_rounded((assumed or one.usual) * one.ratio), Source.MEASURED_HERE.value)
            new["learnt_figures"].append({
                "figure": one.figure, "value": place.value, "spread": one.spread,
                "samples": one.samples,
                "assumed_value": assumed, "assumed_source": source, **lesson.row,
            })  # fmt: skip
    for coupling in couplings:
        for arrangement in _arrangements(new, coupling.kind):
            if arrangement["source"] != Source.ESTIMATED:
                continue  # somebody knows better
            new["learnt_couplings"].append({
                "kind": coupling.kind, "coupling": coupling.coupling, "odds": coupling.odds,
                "assumed_coupling": arrangement["coupling"], **lesson.row,
            })  # fmt: skip
            arrangement |= {
                "coupling": coupling.coupling,
                "source": Source.MEASURED_HERE.value,
            }
    return new


def card_document_with(document: Document, one: NewFigure, body: Body, lesson: Lesson) -> Document:
    """The document of a card with what runs in `body` have taught of its sustained write.

    What is printed on it, and its cache, stay the limits that they are.
    """
    before = card_document_as_assumed(document)
    assumed = before["sustained_write_mb_s"]
    limits = (before["printed_write_mb_s"], before["cache_write_mb_s"])
    value = min([_rounded(assumed * one.ratio), *(limit for limit in limits if limit)])
    row = {
        "value": value, "spread": one.spread, "samples": one.samples, "assumed_value": assumed,
        "assumed_source": before["sustained_source"],
        "assumed_spread": before["sustained_spread"], "assumed_in": before["measured_in"],
        **lesson.row,
    }  # fmt: skip
    return before | {
        "sustained_write_mb_s": value,
        "sustained_source": Source.MEASURED_HERE.value,
        "sustained_spread": None,
        "measured_in": str(body),
        "learnt_speeds": [row],
    }


@dataclass(frozen=True)
class _Place:
    """Where a figure is in the document of a body."""

    holder: Document
    value_key: str
    source_key: str

    @classmethod
    def of(cls, document: Document, figure: str) -> "_Place | None":
        return next(_places(document, figure), None)

    @property
    def value(self) -> float | None:
        found: float | None = self.holder[self.value_key]
        return found

    @property
    def source(self) -> str:
        return str(self.holder[self.source_key])

    def has(self, value: float) -> bool:
        return (self.value, self.source) == (value, Source.MEASURED_HERE)

    def put(self, value: float | None, source: str) -> None:
        if "spread_mb" in self.holder and self.value and value:
            spread_mb = self.holder["spread_mb"] * value / self.value  # it goes with the size
            self.holder["spread_mb"] = min(_rounded(spread_mb, DIGITS_OF_SPREAD), value)
        self.holder.update({self.value_key: value, self.source_key: source})


def _places(document: Document, figure: str) -> Iterator[_Place]:
    if figure == MEMORY:
        yield _Place(document, "memory_mb", "memory_source")
    if number := slot_of_cap(figure):
        for slot in document["slots"][number - 1 : number]:
            yield _Place(slot, "cap_mb_s", "cap_source")
    for mode in reversed(document["shutter_modes"]):  # of two alike a set-up takes the last one
        for rate in mode["frame_rates"]:
            if figure == figure_of_rate(rate["fps"]):
                yield _Place(rate, "fps", "source")
    yield from _format_places(document, figure)


def _format_places(document: Document, figure: str) -> Iterator[_Place]:
    first, _, part = figure.partition(" ")
    for recording in document["formats"]:
        if recording["slug"] != first:
            continue
        if part in ("held_mb", "process_fps"):
            yield _Place(recording, part, part.partition("_")[0] + "_source")
        for file in recording["files"]:
            if file["name"] == part:
                yield _Place(file, "file_mb", "source")


def _arrangements(document: Mapping[str, Any], kind: str) -> Iterator[Document]:
    return (one for one in document["arrangements"] if one["kind"] == kind)


def _has(arrangement: Document, coupling: str) -> bool:
    return (arrangement["coupling"], arrangement["source"]) == (coupling, Source.MEASURED_HERE)


def _not_saved(item: _Item, document: Document) -> _Item:
    made = detached(type(item)(owner_id=item.owner_id), document)
    made.pk, made.archived_at = item.pk, item.archived_at
    return made


def _rounded(value: float, digits: int = DIGITS) -> float:
    return float(f"{value:.{digits}g}")
