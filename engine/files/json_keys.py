"""Typed values out of a JSON object that somebody else wrote, with every fault it has."""

import json
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import MISSING, Field, fields
from typing import Any, NoReturn, TypeVar, get_args

from engine.figures.figure import Figure
from engine.figures.uncertainty import (
    ESTIMATED,
    OF_SOURCE,
    PRINTED,
    SPREAD,
    LogNormal,
    Uncertainty,
)
from engine.quantities import InvalidValues, Range, ranges_of

Value = TypeVar("Value")
REQUIRED: Any = object()


class InvalidFile(InvalidValues):
    """A file that is not what it should be; fields are its keys."""


def json_object(text: str, what: str) -> dict[str, Any]:
    """The one object that `text` is; `what` names the file. Raises :class:`InvalidFile`."""
    try:
        value = json.loads(text, parse_constant=_refuse_constant, object_pairs_hook=_unique_keys)
    except RecursionError:
        raise InvalidFile({what: "is nested too deeply"}) from None
    except ValueError as error:
        raise InvalidFile({what: f"is not valid JSON: {error}"}) from None
    if not isinstance(value, dict):
        raise InvalidFile({what: "must be one JSON object in { }"})
    return value


def _refuse_constant(name: str) -> NoReturn:
    raise ValueError(f"{name} is not a number")


def _unique_keys(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    if len(dict(pairs)) < len(pairs):
        raise ValueError("a key is given twice in one object")
    return dict(pairs)


class Keys:
    """Takes typed values out of one JSON object and gathers what is wrong with them."""

    def __init__(self, json_object: dict[str, Any]) -> None:
        self.values = dict(json_object)
        self.faults: dict[str, str] = {}
        self.sources: Mapping[str, Uncertainty] = {}

    def build(self, kind: Callable[..., Value], /, **values: Any) -> Value:
        """`kind` from `values`, unless a key was at fault or nobody asked for it."""
        self.faults |= dict.fromkeys(self.values, "is not a key of this file")
        if self.faults:
            raise InvalidFile(self.faults)
        return kind(**values)

    def of(self, kind: Callable[..., Value], **given: Any) -> Value:
        """A `kind`, a dataclass whose fields are the keys, but for those that are `given`."""
        return self.build(kind, **self.fields_of(kind, without=given), **given)

    def fields_of(self, kind: Any, without: Collection[str] = ()) -> dict[str, Any]:
        """The values of the fields of a dataclass, each as its type and its range say.

        Where some are figures, `sources` of the file says how sure each of them is.
        """
        if any(Figure in _types(one) for one in fields(kind)):
            self.sources = self.optional_part("sources", _sources, {})
        return {
            one.name: self._field(one, ranges_of(kind).get(one.name))
            for one in fields(kind)
            if one.name not in without
        }

    def _field(self, field: Field[Any], allowed: Range | None) -> Any:
        name, types = field.name, _types(field)
        default = REQUIRED if field.default is MISSING else field.default
        if Uncertainty in types:
            return self.source(name)
        if allowed is None:
            return self.flag(name) if bool in types else self.text(name, default)
        if Figure in types:
            return self._figure(name, self.number(name, allowed, None))
        read = self.whole_number if int in types else self.number
        return read(name, allowed, default)

    def _figure(self, name: str, value: float | None) -> Figure | None:
        """None and 0 that are said to be estimated are left to be estimated."""
        if not value and self.sources.get(name) is ESTIMATED:
            return None
        if value is None and name in self.sources:
            self.fault(f"sources.{name}", "tells of a number that is not there")
        return None if value is None else Figure(float(value), self.source_of(name))

    def source_of(self, name: str) -> Uncertainty:
        """How sure the number called so is, once `fields_of` has read the sources."""
        return self.sources.get(name, PRINTED)

    def flag(self, key: str) -> Any:
        """True or false, which it is where it is left out."""
        value = self._take(key, False)
        return value if isinstance(value, bool) else self.fault(key, "must be true or false")

    def number(self, key: str, allowed: Range, default: float | None = REQUIRED) -> Any:
        """A number within `allowed`; null is taken where null is the default."""
        value = self._take(key, default)
        if value is None and default is None:
            return None
        if isinstance(value, bool) or not isinstance(value, int | float):
            return self.fault(key, "must be a number")
        if fault := allowed.fault(_as_float(value)):
            return self.fault(key, fault)
        return value

    def numbers(self, key: str, allowed: Range) -> tuple[float, ...]:
        """A list of numbers within `allowed`; none where it is left out."""
        values = self._take(key, [])
        if not isinstance(values, list):
            self.fault(key, "must be a list")
            return ()
        each = Keys({f"{key}[{place}]": value for place, value in enumerate(values)})
        numbers = tuple(each.number(one, allowed) for one in list(each.values))
        self.faults |= each.faults
        return numbers

    def whole_number(self, key: str, allowed: Range, default: int | None) -> Any:
        """The same, of whole numbers."""
        value = self.number(key, allowed, default)
        if value is not None and value != int(value):
            return self.fault(key, f"must be a whole number, got {value}")
        return None if value is None else int(value)

    def text(self, key: str, default: str = REQUIRED) -> Any:
        """Text."""
        value = self._take(key, default)
        return value if isinstance(value, str) else self.fault(key, "must be text")

    def word(self, key: str, words: Sequence[str], default: str) -> Any:
        """One of `words`."""
        value = self._take(key, default)
        return value if value in words else self.fault(key, f"must be one of {', '.join(words)}")

    def source(self, key: str) -> Any:
        """How sure a number is, by the word for its source or its spread; exact if left out."""
        if isinstance(self.values.get(key), str):
            return OF_SOURCE.get(self.word(key, list(OF_SOURCE), ""))
        spread = self.number(key, SPREAD, 0.0)
        return None if spread is None else LogNormal(float(spread))

    def optional_part(self, key: str, read: Callable[["Keys"], Value], default: Value) -> Value:
        """An object read by `read`, or `default` where it is left out; faults are key.name."""
        if key not in self.values:
            return default
        part = self._part(key, self.values.pop(key), read)
        return default if part is None else part

    def parts(self, key: str, read: Callable[["Keys"], Value]) -> tuple[Value, ...]:
        """A list of objects, each read by `read`; their faults are told as key[0].name."""
        items = self._take(key, REQUIRED)
        if not isinstance(items, list):
            self.fault(key, "must be a list")
            return ()
        return tuple(
            part
            for number, item in enumerate(items)
            if (part := self._part(f"{key}[{number}]", item, read)) is not None
        )

    def _part(self, key: str, item: Any, read: Callable[["Keys"], Value]) -> Value | None:
        if not isinstance(item, dict):
            self.fault(key, "must be an object in { }")
            return None
        try:
            return read(Keys(item))
        except InvalidValues as error:
            self.faults |= {f"{key}.{inner}": fault for inner, fault in error.faults.items()}
            return None

    def _take(self, key: str, default: Any) -> Any:
        value = self.values.pop(key, default)
        return self.fault(key, "is missing") if value is REQUIRED else value

    def fault(self, key: str, fault: str) -> None:
        """Notes what is wrong with a key; the first fault of a key stands."""
        self.faults.setdefault(key, fault)


def _types(field: Field[Any]) -> tuple[Any, ...]:
    return get_args(field.type) or (field.type,)


def _sources(keys: Keys) -> dict[str, Uncertainty]:
    return {key: keys.source(key) for key in list(keys.values)} | keys.build(dict)


def _as_float(value: float) -> float:
    try:
        return float(value)
    except OverflowError:
        return float("inf")
