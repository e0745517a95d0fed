"""An item of the kit as one nested document, and back: for samples, copies, undoing and files.

The document of a body has the fields of the body, and under the names of PARTS a list for each
kind of row that belongs to it. Places in lists are not written: they follow from the order.
"""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any, TypeVar, cast

from django.core.exceptions import NON_FIELD_ERRORS, ValidationError
from django.db import models, transaction
from django.db.models import ManyToOneRel, UniqueConstraint

from kit.constraints import Fact
from kit.models import Body, Card, KitItem, Reader, RecordingFormat, ShutterMode, Slot

PARTS: Mapping[type[models.Model], tuple[str, ...]] = {
    Body: ("shutter_modes", "slots", "arrangements", "formats", "tested_cards"),
    ShutterMode: ("frame_rates",),
    Slot: ("accepted_forms",),
    RecordingFormat: ("files",),
    Card: ("log",),
    Reader: ("accepted_forms",),
}
KINDS: Mapping[str, type[KitItem]] = {"bodies": Body, "cards": Card, "readers": Reader}
_KEPT_BY_ONDATA = {"id", "number", "owner", "version", "archived_at"}

_Faults = dict[str, str]
_Item = TypeVar("_Item", bound=KitItem)


class BadDocument(ValueError):
    """A document that the models refuse; `faults` maps the place of each fault to a sentence."""

    def __init__(self, faults: Mapping[str, str]) -> None:
        self.faults = dict(faults)
        super().__init__("; ".join(f"{place}: {fault}" for place, fault in faults.items()))


def own_fields(model: type[models.Model]) -> "list[models.Field[Any, Any]]":
    """The fields of `model` that a document has, in their order."""
    return [
        field
        for field in model._meta.concrete_fields
        if field.name not in _KEPT_BY_ONDATA and not field.is_relation
    ]


def document_of(row: models.Model) -> dict[str, Any]:
    """The document of `row`, of values that JSON and TOML have besides dates and decimals."""
    document = {field.name: getattr(row, field.name) for field in own_fields(type(row))}
    for part in PARTS.get(type(row), ()):
        document[part] = [document_of(inner) for inner in getattr(row, part).all()]
    return document


@transaction.atomic
def write(item: _Item, document: Mapping[str, Any]) -> _Item:
    """Gives `item`, new or old, what `document` says, whole or not at all; returns it saved.

    A field that the document leaves out keeps its value, a part that it leaves out its rows.
    Raises :class:`BadDocument`.
    """
    faults: dict[str, str] = {}
    if _take(item, document, "", faults):
        with _noting(faults, ""):
            item.validate_constraints()
    if not faults:
        item.save()
        _refill_parts(item, document, "", faults)
    if faults:
        raise BadDocument(faults)
    return item


def _take(row: models.Model, document: Mapping[str, Any], place: str, faults: _Faults) -> bool:
    """Gives `row` its own fields; whether each of them makes sense."""
    own = {field.name for field in own_fields(type(row))}
    for key in document.keys() - PARTS.get(type(row), ()):
        if key in own:
            setattr(row, key, document[key])
        else:
            faults[place + key] = "There is no such field."
    with _noting(faults, place):
        # What it belongs to exists: asking for that would cost a query a row.
        row.clean_fields(exclude=[field.name for field in row._meta.fields if field.is_relation])
        return True
    return False


def _refill_parts(
    row: models.Model, document: Mapping[str, Any], place: str, faults: _Faults
) -> None:
    for part in PARTS.get(type(row), ()):
        if part not in document:
            continue
        getattr(row, part).all().delete()
        relation = cast("ManyToOneRel", row._meta.get_field(part))
        listed: set[tuple[Any, ...]] = set()
        for number, entry in enumerate(_entries(document[part], place + part, faults), start=1):
            inner = relation.related_model(**{relation.field.name: row})
            if hasattr(inner, "number"):
                inner.number = number
            _write_part(inner, entry, f"{place}{part}[{number}].", listed, faults)


def _write_part(
    row: models.Model,
    document: Mapping[str, Any],
    place: str,
    listed: set[tuple[Any, ...]],
    faults: _Faults,
) -> None:
    """Saves `row` of a list of which `listed` holds what may not come twice."""
    if not _take(row, document, place, faults):
        return
    for constraint in row._meta.constraints:
        if isinstance(constraint, Fact):
            with _noting(faults, place):
                constraint.validate(type(row), row)
        elif isinstance(constraint, UniqueConstraint):
            key = (constraint.name, *(getattr(row, name) for name in constraint.fields))
            if key in listed:
                faults[place.rstrip(".")] = "This is listed twice."
            listed.add(key)
    if not any(key.startswith(place.rstrip(".")) for key in faults):
        row.save()
        _refill_parts(row, document, place, faults)


def _entries(value: Any, place: str, faults: _Faults) -> list[Mapping[str, Any]]:
    if isinstance(value, list) and all(isinstance(entry, Mapping) for entry in value):
        return value
    faults[place] = "This must be a list of entries."
    return []


@contextmanager
def _noting(faults: _Faults, place: str) -> Iterator[None]:
    try:
        yield
    except ValidationError as error:
        if hasattr(error, "error_dict"):
            for field, messages in error.message_dict.items():
                key = place + field if field != NON_FIELD_ERRORS else place.rstrip(".") or "all"
                faults[key] = " ".join(messages)
        else:
            faults[place.rstrip(".") or "all"] = " ".join(error.messages)
