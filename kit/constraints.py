"""Facts that the database guards, each named as the sentence it holds."""

from typing import Any

from django.db.models import CheckConstraint, F, Q

from engine.scenario import Range


def within(field: str, allowed: Range, *, name: str) -> CheckConstraint:
    """`field` lies in the range that the engine accepts; an unknown (null) value passes."""
    return CheckConstraint(
        condition=Q(**{f"{field}__gte": allowed.lowest, f"{field}__lte": allowed.highest}),
        name=name,
        violation_error_code="out_of_range",
        violation_error_message=(
            f"{_words(field)} must be from {allowed.lowest:,} to {allowed.highest:,} "
            f"{allowed.unit}."
        ),
    )


def one_of(field: str, choices: list[Any], *, name: str) -> CheckConstraint:
    """`field` is one of the values that its choices list."""
    return CheckConstraint(
        condition=Q(**{f"{field}__in": choices}),
        name=name,
        violation_error_code="unknown_choice",
        violation_error_message=f"{_words(field)} must be one of the values offered.",
    )


def both_or_neither(field: str, other: str, *, name: str) -> CheckConstraint:
    """`field` is null exactly where the text `other` is empty."""
    return CheckConstraint(
        condition=Q(**{f"{field}__isnull": True, other: ""})
        | (Q(**{f"{field}__isnull": False}) & ~Q(**{other: ""})),
        name=name,
        violation_error_code="half_given",
        violation_error_message=f"{_words(field)} and {_words(other).lower()} go together.",
    )


def at_most(field: str, other: str, *, name: str) -> CheckConstraint:
    """`field` is not above the field `other` of the same row."""
    return CheckConstraint(
        condition=Q(**{f"{field}__lte": F(other)}),
        name=name,
        violation_error_code="too_large",
        violation_error_message=f"{_words(field)} must not be above {_words(other).lower()}.",
    )


def _words(field: str) -> str:
    return field.replace("_", " ").capitalize()
