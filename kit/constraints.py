"""Facts that the database guards, each named as the sentence it holds."""

import operator
import re
from collections.abc import Callable, Collection, Iterator
from functools import cached_property
from typing import Any

from django.core.exceptions import ValidationError
from django.db import DEFAULT_DB_ALIAS
from django.db.models import CheckConstraint, F, Model, Q

from engine.quantities import Range
from kit.numbers import words_of


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
        if exclude and not set(self._fields).isdisjoint(exclude):
            return
        if self._holds(instance) is False:
            fault = ValidationError(self.get_violation_error_message(), self.violation_error_code)
            raise ValidationError({self._fields[0]: fault})

    def deconstruct(self) -> tuple[str, Any, Any]:
        _, args, kwargs = super().deconstruct()
        return "django.db.models.CheckConstraint", args, kwargs

    @cached_property
    def _fields(self) -> list[str]:
        return list(_fields(self.condition))

    @cached_property
    def _holds(self) -> "_Test":
        return _test(self.condition)


_Test = Callable[[Model], bool | None]
_LOOKUPS: dict[str, Callable[[Any, Any], bool]] = {
    "exact": operator.eq,
    "gt": operator.gt,
    "gte": operator.ge,
    "lte": operator.le,
    "in": lambda value, choices: value in choices,
    "regex": lambda value, pattern: re.search(pattern, value) is not None,
}


def _test(condition: Any) -> _Test:
    """The truth of `condition` for a row as SQL has it: None where a null decides it."""
    if isinstance(condition, Q):
        return _joined([_test(child) for child in condition.children], condition)
    name, wanted = condition
    field, _, lookup = name.partition("__")
    if lookup == "isnull" or wanted is None:
        is_null = wanted is None or wanted
        return lambda row: (getattr(row, field) is None) is is_null
    compare = _LOOKUPS[lookup or "exact"]
    if isinstance(wanted, F):
        other: str = wanted.name  # type: ignore[attr-defined]
        return lambda row: _known(compare, getattr(row, field), getattr(row, other))
    return lambda row: _known(compare, getattr(row, field), wanted)


def _joined(tests: list[_Test], condition: Q) -> _Test:
    decides = condition.connector == Q.OR  # the outcome of one test that decides all

    def truth(row: Model) -> bool | None:
        found: bool | None = not decides
        for test in tests:
            one = test(row)
            if one is decides:
                return decides is not condition.negated
            if one is None:
                found = None
        return found if found is None else found is not condition.negated

    return truth


def _known(compare: Callable[[Any, Any], bool], value: Any, wanted: Any) -> bool | None:
    return None if value is None or wanted is None else compare(value, wanted)


def _fields(condition: Any) -> Iterator[str]:
    if isinstance(condition, Q):
        for child in condition.children:
            yield from _fields(child)
        return
    name, wanted = condition
    yield name.partition("__")[0]
    if isinstance(wanted, F):
        yield wanted.name  # type: ignore[attr-defined]


def within(field: str, allowed: Range, *, name: str, words: str = "") -> Fact:
    """`field` lies in the range that the engine accepts; an unknown (null) value passes.

    `words` is what it is called, where its name does not say that.
    """
    return Fact(
        condition=Q(**{f"{field}__gte": allowed.lowest, f"{field}__lte": allowed.highest}),
        name=name,
        violation_error_code="out_of_range",
        violation_error_message=(
            f"{words or words_of(field)} must be from {allowed.lowest:,} to {allowed.highest:,} "
            f"{allowed.unit.replace('%', '%%')}."
        ),
    )


def one_of(field: str, choices: list[Any], *, name: str) -> Fact:
    """`field` is one of the values that its choices list."""
    return Fact(
        condition=Q(**{f"{field}__in": choices}),
        name=name,
        violation_error_code="unknown_choice",
        violation_error_message=f"{words_of(field)} must be one of the values offered.",
    )


def iso_currency(field: str, *, name: str) -> Fact:
    """`field` is a currency as ISO 4217 writes it."""
    return Fact(
        condition=Q(**{f"{field}__regex": "^[A-Z]{3}$"}),
        name=name,
        violation_error_code="unknown_currency",
        violation_error_message="A currency is three capital letters, as in EUR.",
    )


def both_or_neither(field: str, other: str, *, name: str) -> Fact:
    """`field` is null exactly where the text `other` is empty."""
    return Fact(
        condition=Q(**{f"{field}__isnull": True, other: ""})
        | (Q(**{f"{field}__isnull": False}) & ~Q(**{other: ""})),
        name=name,
        violation_error_code="half_given",
        violation_error_message=f"{words_of(field)} and {words_of(other).lower()} go together.",
    )


def at_most(field: str, other: str, *, name: str) -> Fact:
    """`field` is not above the field `other` of the same row."""
    return Fact(
        condition=Q(**{f"{field}__lte": F(other)}),
        name=name,
        violation_error_code="too_large",
        violation_error_message=f"{words_of(field)} must not be above {words_of(other).lower()}.",
    )
