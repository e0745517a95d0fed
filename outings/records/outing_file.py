"""Outings as a JSON file, out and in again; docs/formats.md has its keys."""

import json
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from itertools import chain
from typing import Any, TypeVar

import numpy as np
from django.contrib.auth.base_user import AbstractBaseUser
from django.core.exceptions import ValidationError
from django.core.serializers.json import DjangoJSONEncoder
from django.db import IntegrityError, models, transaction
from django.forms import model_to_dict

from engine.burst.scenario import HOLD_S
from engine.day.frames_taken import FramesTaken
from engine.day.plan import MOST_CARDS
from engine.day.presses import InvalidDay
from engine.formats import figure
from engine.measurement.picture_table import LATEST_S, MB
from engine.quantities import Range
from kit.numbers import words_of
from outings.models import (
    MANY_NOTES,
    MOMENTS,
    MOST_NOTES,
    MOST_OUTINGS,
    FieldNote,
    Outing,
    OutingDay,
    OutingPeriod,
    OutingPlan,
)
from outings.plans.against_plan import NAMES
from outings.plans.cards import FURTHER, IN_SLOTS, MOST_FURTHER, FurtherCardForm
from outings.plans.forms import MOST_ROWS
from outings.records.record import OutingRecord
from pages.boundary import read_json
from pages.refusals import Refused

MARK = "ondata_outings"
OURS = ("id", "outing", "owner", "plan", "made_at", "version")  # mean nothing in a file
MOST_BYTES = 10_000_000
MOST_OBJECTS = 3_000  # outings and all that belongs to them, of a file
MOST_FRAMES = 200_000  # of a file, which take a second
MOST_FAULTS = 10
MOST_TEXTS, LONGEST_TEXT = 200, 400
AFTER_S = Range(0, LATEST_S, "s")
CARDS = Range(1, MOST_CARDS, "")
FIGURE = Range(0, 1e9, "")  # that was predicted of a day
TOLD_AS_TEXT = (models.CharField, models.DateField, models.TimeField, models.UUIDField)
LARGEST_ROW = 20  # values
TOO_MANY = "{} {} are the most at a time: send them in several files."
NO_OUTINGS = f'Outings are kept in a file that begins with {{"{MARK}": 1, "outings": [...]}}.'

Shape = Callable[[Any], bool]
Row = TypeVar("Row", bound=models.Model)


@dataclass
class OutingRows:
    """An outing that is not saved yet, with the rows that belong to it."""

    outing: Outing
    plan: OutingPlan | None = None
    periods: list[OutingPeriod] = field(default_factory=list)
    day: OutingDay | None = None
    notes: list[FieldNote] = field(default_factory=list)


def as_json(records: Iterable[OutingRecord]) -> Iterator[str]:
    """All that is kept of outings, one after the other, in pieces: never in memory as a whole."""
    yield f'{{"{MARK}": 1, "outings": ['
    for number, record in enumerate(records):
        outing, plan = record.outing, getattr(record.outing, "plan", None)
        told = _values(outing) | {"field_notes": [_values(one) for one in record.notes]}
        if plan:
            told["plan"] = _values(plan) | {"periods": [_values(o) for o in plan.periods.all()]}
        if record.day:
            told["day"] = _values(record.day)
        yield f"{',' if number else ''}\n{json.dumps(told, cls=DjangoJSONEncoder)}"
    yield "\n]}\n"


def read_outings(text: str) -> list[OutingRows]:
    """The outings of a file, nobody's yet. Raises Refused with the first faults."""
    if text.count("{") > MOST_OBJECTS:
        raise Refused([TOO_MANY.format(figure(MOST_OBJECTS), "outings, periods and notes")])
    if text.count(",") > 2 * MOST_FRAMES + LARGEST_ROW * MOST_OBJECTS:
        raise Refused([TOO_MANY.format(figure(MOST_FRAMES), "frames")])
    told = read_json(text)
    outings = told.get("outings") if isinstance(told, dict) and MARK in told else None
    if not isinstance(outings, list):
        raise Refused([NO_OUTINGS])
    if len(outings) > MOST_OUTINGS:
        raise Refused([f"{figure(MOST_OUTINGS)} outings are as many as are kept."])
    found: list[OutingRows] = []
    faults: list[str] = []
    for number, one in enumerate(outings, 1):
        try:
            found.append(_read(one, f"Outing {number}"))
        except Refused as error:
            faults += error.sentences
        if len(faults) >= MOST_FAULTS:
            break
    if faults or not found:
        raise Refused(faults[:MOST_FAULTS] or ["There is no outing in it."])
    return found


def keep_outings(found: Iterable[OutingRows], owner: AbstractBaseUser) -> str:
    """Gives outings to somebody, all or none; those that are there already are left out.

    What came of it, in words. Raises Refused where there is no room.
    """
    mine = Outing.objects.made_by(owner)
    known = {_told_by(one, getattr(one, "day", None)) for one in Outing.objects.listed(owner)}
    every = list(found)
    new = [one for one in every if _told_by(one.outing, one.day) not in known]
    if new:
        mine.require_room(sum(one.day.frames for one in new if one.day), len(new))
    for one in new:
        one.outing.owner_id = owner.pk
    try:
        with transaction.atomic():
            Outing.objects.bulk_create([one.outing for one in new])
            OutingPlan.objects.bulk_create([one.plan for one in new if one.plan])
            OutingDay.objects.bulk_create([one.day for one in new if one.day])
            OutingPeriod.objects.bulk_create(chain.from_iterable(one.periods for one in new))
            FieldNote.objects.bulk_create(chain.from_iterable(one.notes for one in new))
    except IntegrityError as error:
        raise Refused(["Two periods of a plan, or two notes, have one number or key."]) from error
    saved = "1 outing is" if len(new) == 1 else f"{figure(len(new))} outings are"
    there = len(every) - len(new)
    return f"{saved} saved{f'; {figure(there)} were there already' if there else ''}."


def _told_by(outing: Outing, day: OutingDay | None) -> tuple[Any, ...]:
    """What tells one outing from others."""
    shot = (day.start_s, day.frames) if day else None
    return outing.name, outing.on, outing.notes, shot


def _values(row: models.Model) -> dict[str, Any]:
    return model_to_dict(row, exclude=OURS)


def _read(told: Any, place: str) -> OutingRows:
    found = OutingRows(_row(Outing, told, place, parts=("plan", "day", "field_notes")))
    if (plan := told.get("plan")) is not None:
        found.plan = _row(OutingPlan, plan, f"{place}, plan", outing=found.outing,
                          parts=("periods",))  # fmt: skip
        periods = _list(plan.get("periods"), f"{place}, periods")
        if len(periods) > MOST_ROWS:
            raise Refused([f"{place}: a plan has {MOST_ROWS} periods at most."])
        found.periods = [
            _row(OutingPeriod, one, f"{place}, period {number}", plan=found.plan)
            for number, one in enumerate(periods, 1)
        ]
    if (day := told.get("day")) is not None:
        found.day = _day(day, f"{place}, day", found.outing)
    notes = _list(told.get("field_notes"), f"{place}, field notes")
    if len(notes) > MOST_NOTES:
        raise Refused([f"{place}: {MANY_NOTES}"])
    found.notes = [
        _row(FieldNote, one, f"{place}, note {number}", outing=found.outing)
        for number, one in enumerate(notes, 1)
    ]
    return found


def _day(told: Any, place: str, outing: Outing) -> OutingDay:
    """A day whose frames are such as a replay takes."""
    row = _row(OutingDay, told, place, outing=outing)
    if len(row.times_s) != len(row.sizes_mb):
        raise Refused([f"{place}: there must be as many sizes as times."])
    try:
        taken = FramesTaken.of(np.column_stack([row.times_s, row.sizes_mb]), 0.0)
    except InvalidDay as error:
        raise Refused([f"{place}: {sentence}" for sentence in error.sentences()]) from error
    row.times_s, row.sizes_mb = taken.times_s.tolist(), taken.mb.tolist()
    row.frames, row.mb = len(taken.mb), float(taken.mb.sum())
    return row


def _row(model: type[Row], told: Any, place: str, parts: Iterable[str] = (), **given: Any) -> Row:
    """A row of a file's object, its values as the columns have them. Raises Refused."""
    if not isinstance(told, dict):
        raise Refused([f"{place}: must be an object in {{ }}."])
    columns = [one for one in model._meta.fields if one.name not in OURS]
    if unknown := told.keys() - {one.name for one in columns} - {*parts}:
        raise Refused([f"{place}: “{min(unknown)[:30]}” is not a key of it."])
    row = model(**given)
    for one in columns:
        if one.name in told:
            if not _is_of(one, told[one.name]):
                raise Refused([f"{place}: “{one.name}” is not as it goes out."])
            setattr(row, one.name, told[one.name])
    try:
        row.full_clean(exclude=(*OURS, *MOMENTS), validate_unique=False)
    except ValidationError as error:
        raise Refused(
            [f"{place}, {words_of(name).lower()}: {fault}"
             for name, faults in error.message_dict.items() for fault in faults]
        ) from error  # fmt: skip
    for one in columns:
        value = getattr(row, one.name)
        if isinstance(one, models.JSONField) and not SHAPES[model, one.name](value):
            raise Refused([f"{place}: “{one.name}” is not as it goes out."])
    return row


def _is_of(column: "models.Field[Any, Any]", value: Any) -> bool:
    """Whether a value is of the kind that a file has for a column."""
    if value is None or isinstance(column, models.JSONField):
        return column.null or value is not None
    if isinstance(column, models.BooleanField):
        return isinstance(value, bool)
    if isinstance(column, TOLD_AS_TEXT):
        return isinstance(value, str) and (bool(value) or isinstance(column, models.CharField))
    return isinstance(value, int | float) and not isinstance(value, bool)


def _list(value: Any, place: str) -> list[Any]:
    if not isinstance(value, list):
        raise Refused([f"{place}: must be a list."])
    return value


def _is_number(value: Any, allowed: Range) -> bool:
    is_number = isinstance(value, int | float) and not isinstance(value, bool)
    return is_number and allowed.fault(value) is None


def _are_numbers(allowed: Range) -> Shape:
    """Whether a value is a list of numbers in a range."""

    def are_numbers(value: Any) -> bool:
        try:
            numbers = np.array(value if isinstance(value, list) else [[]])
        except ValueError:  # lists of several lengths
            return False
        is_series = numbers.ndim == 1 and (numbers.dtype.kind in "if" or not value)
        return is_series and not any(map(allowed.fault, (min(value), max(value)) if value else ()))

    return are_numbers


def _are_texts(value: Any) -> bool:
    return (
        isinstance(value, list)
        and len(value) <= MOST_TEXTS
        and all(isinstance(one, str) and len(one) <= LONGEST_TEXT for one in value)
    )


def _are_holds(value: Any) -> bool:
    return isinstance(value, list) and all(
        isinstance(one, list)
        and len(one) == len(("after_s", "hold_s"))
        and _is_number(one[0], AFTER_S)
        and _is_number(one[1], HOLD_S)
        for one in value
    )


def _are_cards(value: Any) -> bool:
    if not isinstance(value, dict):
        return False
    further = value.get(FURTHER, [])
    of_slots = {name: told for name, told in value.items() if name != FURTHER}
    return (
        all(name in IN_SLOTS and _is_of_cards(told) for name, told in of_slots.items())
        and isinstance(further, list)
        and len(further) <= MOST_FURTHER
        and all(
            isinstance(row, dict)
            and isinstance(row.get("card"), str)
            and all(name in FurtherCardForm.base_fields and _is_of_cards(told)
                    for name, told in row.items())
            for row in further
        )
    )  # fmt: skip


def _is_of_cards(told: Any) -> bool:
    """Whether it is a number of cards, or what a text field of them may have."""
    return _is_number(told, CARDS) or (isinstance(told, str) and len(told) <= LONGEST_TEXT)


def _are_predicted(value: Any) -> bool:
    return isinstance(value, dict) and all(
        name in NAMES
        and _are_numbers(FIGURE)(ends)
        and len(ends) == len(("low", "middle", "high"))
        and ends == sorted(ends)
        for name, ends in value.items()
    )


# What the columns hold that a database takes for any JSON.
SHAPES: Mapping[tuple[type[models.Model], str], Shape] = {
    (OutingPlan, "cards"): _are_cards,
    (OutingPlan, "ticked"): _are_texts,
    (OutingPlan, "predicted"): _are_predicted,
    (OutingPeriod, "listed_s"): _are_numbers(HOLD_S),
    (OutingDay, "notes"): _are_texts,
    (OutingDay, "times_s"): _are_numbers(AFTER_S),
    (OutingDay, "sizes_mb"): _are_numbers(MB),
    (OutingDay, "holds"): _are_holds,
}
