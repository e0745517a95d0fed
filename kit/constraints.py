"""Facts that the database guards, each named as the sentence it holds."""

import operator
import re
from collections.abc import Callable, Collection
from typing import Any

from django.core.exceptions import ValidationError
from django.db import DEFAULT_DB_ALIAS
from django.db.models import CheckConstraint, F, Model, Q

from engine.scenario import Range


class Fact(CheckConstraint):
    """A check constraint that `full_clean` decides without asking the database.

    The fault is told at the first field that it is about. Django asks for every constraint of
    every row, which makes a kit of some thousand rows a matter of minutes. In migrations it is the
    plain constraint.
    """

    def validate(
        self,
        model: type[Model],
        instance: Model,
        exclude: Collection[str] | None = None,
        using: str = DEFAULT_DB_ALIAS,
    ) -> None:
        fields = _fields(self.condition)
        if set(fields) & set(exclude or ()):
            return
        if _holds(self.condition, instance) is False:
            fault = ValidationError(self.get_violation_error_message(), self.violation_error_code)
            raise ValidationError({fields[0]: fault})

    def deconstruct(self) -> tuple[str, Any, Any]:
        _, args, kwargs = super().deconstruct()
        return "django.db.models.CheckConstraint", args, kwargs


_LOOKUPS: dict[str, Callable[[Any, Any], bool]] = {
    "exact": operator.eq,
    "gt": operator.gt,
    "gte": operator.ge,
    "lte": operator.le,
    "in": lambda value, choices: value in choices,
    "regex": lambda value, pattern: re.search(pattern, value) is not None,
}


def _holds(condition: Any, row: Model) -> bool | None:
    """The truth of `condition` for `row` as SQL has it: None where it hangs on a null."""
    if isinstance(condition, Q):
        truths = [_holds(child, row) for child in condition.children]
        if condition.connector == Q.AND:
            truth = False if False in truths else None if None in truths else True
        else:
            truth = True if True in truths else None if None in truths else False
        return not truth if condition.negated and truth is not None else truth
    name, wanted = condition
    field, _, lookup = name.partition("__")
    value = getattr(row, field)
    wanted = getattr(row, wanted.name) if isinstance(wanted, F) else wanted  # type: ignore[attr-defined]
    if lookup == "isnull" or (not lookup and wanted is None):
        return (value is None) is (wanted is None or wanted)
    if value is None or wanted is None:
        return None
    return _LOOKUPS[lookup or "exact"](value, wanted)


def _fields(condition: Any) -> list[str]:
    if isinstance(condition, Q):
        return [field for child in condition.children for field in _fields(child)]
    name, wanted = condition
    other = [wanted.name] if isinstance(wanted, F) else []  # type: ignore[attr-defined]
    return [name.partition("__")[0], *other]


def within(field: str, allowed: Range, *, name: str) -> Fact:
    """`field` lies in the range that the engine accepts; an unknown (null) value passes."""
    return Fact(
        condition=Q(**{f"{field}__gte": allowed.lowest, f"{field}__lte": allowed.highest}),
        name=name,
        violation_error_code="out_of_range",
        violation_error_message=(
            f"{_words(field)} must be from {allowed.lowest:,} to {allowed.highest:,} "
            f"{allowed.unit}."
        ),
    )


def one_of(field: str, choices: list[Any], *, name: str) -> Fact:
    """`field` is one of the values that its choices list."""
    return Fact(
        condition=Q(**{f"{field}__in": choices}),
        name=name,
        violation_error_code="unknown_choice",
        violation_error_message=f"{_words(field)} must be one of the values offered.",
    )


def both_or_neither(field: str, other: str, *, name: str) -> Fact:
    """`field` is null exactly where the text `other` is empty."""
    return Fact(
        condition=Q(**{f"{field}__isnull": True, other: ""})
        | (Q(**{f"{field}__isnull": False}) & ~Q(**{other: ""})),
        name=name,
        violation_error_code="half_given",
        violation_error_message=f"{_words(field)} and {_words(other).lower()} go together.",
    )


def at_most(field: str, other: str, *, name: str) -> Fact:
    """`field` is not above the field `other` of the same row."""
    return Fact(
        condition=Q(**{f"{field}__lte": F(other)}),
        name=name,
        violation_error_code="too_large",
        violation_error_message=f"{_words(field)} must not be above {_words(other).lower()}.",
    )


def _words(field: str) -> str:
    """The name of a field without its unit, which the range has."""
    return re.sub(r"_(mb_s|mb|gb|fps|s)$", "", field).replace("_", " ").capitalize()
