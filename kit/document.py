"""An item of the kit as one nested document, and back: for samples, copies, undoing and files.

The document of a body has the fields of the body, and under the names of PARTS a list for each
kind of row that belongs to it. Places in lists are not written: they follow from the order.
"""

import re
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import date
from functools import cache
from typing import Any, TypeVar, cast

from django.core.exceptions import NON_FIELD_ERRORS, ValidationError
from django.db import IntegrityError, models, transaction
from django.db.models import ManyToOneRel, UniqueConstraint

from engine.typed_numbers import quantity_in
from kit.constraints import Fact
from kit.figure_places import without_edited
from kit.models import Body, Card, KitItem, Reader, RecordingFormat, ShutterMode, Slot
from kit.models.body import USUAL_ARRANGEMENTS
from kit.numbers import unit_of, words_of
from pages.refusals import Refused

PARTS: Mapping[type[models.Model], tuple[str, ...]] = {
    Body: (
        "shutter_modes",
        "slots",
        "arrangements",
        "formats",
        "tested_cards",
        "estimates",
        "learnt_figures",
        "learnt_couplings",
    ),
    ShutterMode: ("frame_rates",),
    Slot: ("accepted_forms",),
    RecordingFormat: ("files",),
    Card: ("log", "learnt_speeds"),
    Reader: ("accepted_forms",),
}
KINDS: Mapping[str, type[KitItem]] = {"bodies": Body, "cards": Card, "readers": Reader}
MOST_IN_LIST = 500  # rows of one kind that belong to one row
# Lists in lists multiply; no camera comes near these.
MOST_OF_PART: Mapping[str, int] = {"shutter_modes": 20, "frame_rates": 100}
MOST_FAULTS = 20  # of an item; nobody reads more at once
LONGEST_KEY = 40

# Rows that hold as long as the owner leaves alone what they are laid over.
LAID_OVER: Mapping[type[models.Model], tuple[str, ...]] = {
    Body: ("estimates", "learnt_figures", "learnt_couplings"),
    Card: ("learnt_speeds",),
}
_KEPT_BY_ONDATA = {"id", "number", "owner", "version", "archived_at", "of_class"}

_Faults = dict[str, str]
_Item = TypeVar("_Item", bound=KitItem)


class BadDocument(Refused):
    """A document that the models refuse; `faults` maps the place of each fault to a sentence."""

    def __init__(self, faults: Mapping[str, str]) -> None:
        self.faults = dict(faults)
        super().__init__(list(faults.values()))

    def __str__(self) -> str:
        return "; ".join(f"{place}: {fault}" for place, fault in self.faults.items())


@dataclass
class Tree:
    """A row that is not saved yet, and the rows that are to belong to it in place of the old."""

    row: Any
    parts: dict[str, "list[Tree]"] = field(default_factory=dict)

    def document(self) -> dict[str, Any]:
        """The document that gives this tree again; parts that were left out are not in it."""
        inner = {part: [tree.document() for tree in trees] for part, trees in self.parts.items()}
        return _own_values(self.row) | inner


@cache
def own_fields(model: type[models.Model]) -> "list[models.Field[Any, Any]]":
    """The fields of `model` that a document has, in their order."""
    return [
        field
        for field in model._meta.concrete_fields
        if field.name not in _KEPT_BY_ONDATA and not field.is_relation
    ]


def part_model(model: type[models.Model], part: str) -> type[models.Model]:
    """The model of the rows in the list `part` of a document of `model`."""
    return _relation(model, part).related_model


def points_back(model: type[models.Model], part: str) -> str:
    """The field by which the rows in the list `part` say which row of `model` they belong to."""
    return str(_relation(model, part).field.name)


def with_parts(items: "models.QuerySet[Any]") -> "models.QuerySet[Any]":
    """`items` with all that their documents need, in a fixed number of queries."""
    return items.prefetch_related(*_paths(items.model))


def document_of(row: models.Model) -> dict[str, Any]:
    """The document of `row`, of values that JSON and TOML have besides dates and decimals."""
    inner = {
        part: [document_of(one) for one in getattr(row, part).all()]
        for part in PARTS.get(type(row), ())
    }
    return _own_values(row) | inner


def usual_document(model: type[models.Model]) -> dict[str, Any]:
    """What a document of `model` means by what it leaves out."""
    own = {field.name: field.get_default() for field in own_fields(model) if field.has_default()}
    return own | {part: [] for part in PARTS.get(model, ())}


def build(item: KitItem, document: Mapping[str, Any]) -> Tree:
    """`item`, new or old, as `document` has it; the database is neither asked nor changed.

    A field that the document leaves out keeps its value, a part that it leaves out its rows.
    Raises :class:`BadDocument`.
    """
    faults: _Faults = {}
    if isinstance(item, Body):
        document = _with_arrangements(item, document)
    left_out = [part for part in LAID_OVER.get(type(item), ()) if part not in document]
    has_rows = item.pk is not None and any(getattr(item, part).all() for part in left_out)
    before = document_of(item) if has_rows else {}
    tree = _build(item, document, "", faults)
    if has_rows and not faults:
        # Rows laid over figures that are changed by hand go, unless the document has them itself.
        after = {**before, **tree.document()}
        kept = {part: without_edited(before, after, part) for part in left_out}
        tree = _build(item, {**document, **kept}, "", faults)
    if faults:
        raise BadDocument(faults)
    return tree


def _with_arrangements(body: Body, document: Mapping[str, Any]) -> Mapping[str, Any]:
    """`document` with the usual arrangements, where there are two slots and it gives none."""
    slots = document.get("slots")
    has_two = isinstance(slots, list) and len(slots) > 1
    keeps_its_own = body.pk is not None and "arrangements" not in document
    if has_two and not keeps_its_own and not document.get("arrangements"):
        return {**document, "arrangements": list(USUAL_ARRANGEMENTS)}
    return document


@transaction.atomic
def write(item: _Item, document: Mapping[str, Any]) -> _Item:
    """Gives `item` what `document` says, whole or not at all; returns it saved.

    Raises :class:`BadDocument`, also when another item of the owner's has its name.
    """
    tree = build(item, document)
    faults: _Faults = {}
    with _noting(faults, ""):
        item.validate_constraints()
    if faults:
        raise BadDocument(faults)
    is_new = item.pk is None
    try:
        item.save()
    except IntegrityError as error:  # it came to be between the question and the answer
        raise BadDocument({"all": "There is one of that name already."}) from error
    save_parts([tree], replacing=not is_new)
    return item


def save_parts(trees: Iterable[Tree], *, replacing: bool) -> None:
    """Saves what belongs to the rows of `trees`, all of one model and saved themselves.

    `replacing` what they had: not where the rows are new.
    """
    trees = list(trees)
    for part in PARTS.get(type(trees[0].row), ()) if trees else ():
        owners = [tree for tree in trees if part in tree.parts]
        if not owners:
            continue
        owner, model = points_back(type(trees[0].row), part), part_model(type(trees[0].row), part)
        if replacing:
            had = {f"{owner}__in": [tree.row.pk for tree in owners]}
            model._base_manager.filter(**had).delete()
        inner = [one for tree in owners for one in tree.parts[part]]
        for tree in owners:
            for one in tree.parts[part]:
                setattr(one.row, owner, tree.row)
        model._base_manager.bulk_create([one.row for one in inner])
        save_parts(inner, replacing=False)


def _own_values(row: models.Model) -> dict[str, Any]:
    return {field.name: getattr(row, field.name) for field in own_fields(type(row))}


def _relation(model: type[models.Model], part: str) -> ManyToOneRel:
    return cast("ManyToOneRel", model._meta.get_field(part))


def _paths(model: type[models.Model]) -> Iterator[str]:
    for part in PARTS.get(model, ()):
        yield part
        yield from (f"{part}__{inner}" for inner in _paths(part_model(model, part)))


def _build(row: models.Model, document: Mapping[str, Any], place: str, faults: _Faults) -> Tree:
    parts = PARTS.get(type(row), ())
    own = {field.name: field for field in own_fields(type(row))}
    for key in sorted(document.keys() - parts):
        if len(faults) >= MOST_FAULTS:
            break
        if key not in own:
            faults[place + key[:LONGEST_KEY]] = "There is no such field."
            continue
        try:
            setattr(row, key, taken(own[key], document[key]))
        except ValueError as error:
            faults[place + key] = str(error)
    _check(row, place, faults)
    tree = Tree(row)
    for part in parts:
        if part in document:
            tree.parts[part] = list(_build_part(row, part, document[part], place + part, faults))
    return tree


def taken(field: "models.Field[Any, Any]", value: Any) -> Any:
    """`value` as `field` keeps it: text without blanks around it, a typed number as the number.

    Raises :class:`ValueError` with a sentence.
    """
    if isinstance(value, list | dict):
        raise ValueError("This must be one value, not a list of them.")
    if value is None and field.blank and not field.null:
        return field.get_default()
    if not isinstance(value, str):
        if isinstance(field, models.DateField) and not isinstance(value, date | None):
            raise ValueError("This must be a day, as 2026-11-25 is.")
        return value
    text = "\n".join(value.strip().splitlines())  # browsers and files end lines in several ways
    if isinstance(field, models.FloatField | models.IntegerField) and text:
        return quantity_in(text, unit_of(field.name))
    return text


def place_in_words(place: str) -> str:
    """Where a fault is, as a reader would say it: "shutter modes 1, frame rates 2, fps"."""
    steps = (re.fullmatch(r"(\w+)(?:\[(\d+)\])?", step) for step in place.split("."))
    return ", ".join(
        f"{words_of(step[1]).lower()} {step[2] or ''}".rstrip() for step in steps if step
    )


def _build_part(
    row: models.Model, part: str, entries: Any, place: str, faults: _Faults
) -> Iterator[Tree]:
    if not (isinstance(entries, list) and all(isinstance(one, Mapping) for one in entries)):
        faults[place] = "This must be a list of entries."
        return
    most = MOST_OF_PART.get(part, MOST_IN_LIST)
    if len(entries) > most:
        faults[place] = f"This has more than {most} entries."
        return
    model = part_model(type(row), part)
    listed: set[tuple[Any, ...]] = set()
    for number, entry in enumerate(entries, start=1):
        if len(faults) >= MOST_FAULTS:
            return
        inner = model()
        if hasattr(inner, "number"):
            inner.number = number
        tree = _build(inner, entry, f"{place}[{number}].", faults)
        for key in _unique_keys(inner):
            if key in listed:
                faults[f"{place}[{number}]"] = "This is listed twice."
            listed.add(key)
        yield tree


def _check(row: models.Model, place: str, faults: _Faults) -> None:
    """Notes what is wrong with the row's own fields."""
    before = len(faults)
    try:
        with _noting(faults, place):
            relations = [field.name for field in row._meta.fields if field.is_relation]
            row.clean_fields(exclude=relations)
    except OverflowError:
        faults[place.rstrip(".") or "all"] = "One of its numbers is too large."
    if len(faults) > before:
        return
    for constraint in row._meta.constraints:
        if isinstance(constraint, Fact):
            with _noting(faults, place):
                constraint.validate(type(row), row)


def _unique_keys(row: models.Model) -> Iterator[tuple[Any, ...]]:
    """What may not come twice in one list: the unique fields besides the one that points back."""
    for constraint in row._meta.constraints:
        if isinstance(constraint, UniqueConstraint):
            fields = [row._meta.get_field(name) for name in constraint.fields]
            own = (getattr(row, field.name) for field in fields if not field.is_relation)
            yield constraint.name, *own


@contextmanager
def _noting(faults: _Faults, place: str) -> Iterator[None]:
    try:
        yield
    except ValidationError as error:
        by_field = hasattr(error, "error_dict")
        told = error.error_dict if by_field else {NON_FIELD_ERRORS: error.error_list}
        for field_name, errors in told.items():
            key = place + field_name if field_name != NON_FIELD_ERRORS else place.rstrip(".")
            faults.setdefault(key or "all", " ".join(map(_sentence, errors)))


def _sentence(error: ValidationError) -> str:
    """What is wrong, for somebody who knows nothing of fields and types."""
    value = str((error.params or {}).get("value", ""))[:40]
    if error.code in ("null", "blank"):
        return "This is missing."
    if error.code == "invalid_choice":
        return f"“{value}” is none of the values offered."
    if error.code in ("invalid", "invalid_date", "invalid_datetime") and value:
        return f"“{value}” does not belong here."
    return " ".join(error.messages)
