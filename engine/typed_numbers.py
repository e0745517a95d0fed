"""Numbers as people type and print them, with decimal commas, thousands and units.

Languages differ: "1,700" is 1700 in English and 1.7 in German. A number is read by the rules of
both (Babel, after Unicode's CLDR); one that both accept, with different results, is ambiguous.
"""

import math
import re
from collections.abc import Mapping
from decimal import Decimal
from functools import lru_cache

from babel.numbers import NumberFormatError, parse_decimal

from engine.quantities import BITS_IN_BYTE, GIB_IN_GB, MIB_IN_MB, Range

LOCALES = ("en", "de")  # a decimal point with commas between thousands, and the other way round
LONGEST = 40  # characters; no number of the trade has as many
_SPACE = re.compile(r"(?<=\d)[ \u00a0\u202f\u2009'\u2019_](?=\d{3}(?:\D|$))")
_LIKE_THOUSANDS = re.compile(r"-?[1-9]\d{0,2}\.\d{3}")
_NUMBER = re.compile(r"[+-]?[\d.,]+(?:[eE][+-]?\d+)?")

# What one of each is worth in the unit that a quantity is wanted in.
_WORTH: Mapping[str, Mapping[str, float]] = {
    "MB/s": {
        "MB/s": 1, "GB/s": 1_000, "kB/s": 1e-3, "MBps": 1, "GBps": 1_000,
        "Mb/s": 1 / BITS_IN_BYTE, "Mbit/s": 1 / BITS_IN_BYTE, "Mbps": 1 / BITS_IN_BYTE,
        "Gb/s": 1_000 / BITS_IN_BYTE, "Gbit/s": 1_000 / BITS_IN_BYTE, "Gbps": 1_000 / BITS_IN_BYTE,
    },
    "MB": {
        "MB": 1, "GB": 1_000, "kB": 1e-3, "B": 1e-6, "bytes": 1e-6,
        "MiB": MIB_IN_MB, "KiB": MIB_IN_MB / 1_024,
    },
    "GB": {"GB": 1, "TB": 1_000, "MB": 1e-3, "GiB": GIB_IN_GB, "TiB": 1_024 * GIB_IN_GB},
    "s": {"s": 1, "sec": 1, "ms": 1e-3, "min": 60},
    "min": {"min": 1, "s": 1 / 60, "h": 60},
    "fps": {"fps": 1, "/s": 1},
}  # fmt: skip


class NotANumber(ValueError):
    """A text that is no number, or may be two; says so in a sentence."""


@lru_cache(maxsize=10_000)  # a table has the same few numbers again and again
def readings(text: str) -> tuple[Decimal, ...]:
    """Every number that `text` may mean, the largest first; none where it is none, or not finite.

    A leading zero tells a decimal mark: "0,125" is never 125.
    """
    joined = _SPACE.sub("", text.strip())
    if len(joined) > LONGEST or not _NUMBER.fullmatch(joined):
        return ()
    found = set()
    for locale in LOCALES:
        try:
            number = parse_decimal(joined, locale=locale, strict=True)
        except NumberFormatError:
            continue
        if math.isfinite(float(number)):
            found.add(number)
    return tuple(sorted(found, reverse=True))


def number_in(text: str) -> Decimal:
    """The number that `text` means. Raises :class:`NotANumber`, also where it may mean two."""
    found = readings(text)
    if not found:
        raise NotANumber(f"“{_quoted(text)}” is not a number.")
    if len(found) > 1:
        large, small = (as_typed(float(number)) for number in found)
        raise NotANumber(f"“{_quoted(text)}” may mean {large} or {small}. Type one of these.")
    return found[0]


def quantity_in(text: str, unit: str, allowed: Range | None = None) -> float:
    """The number in `text` counted in `unit`, which may stand behind it, or another like it.

    "2 GB/s" are 2000 where MB/s are wanted, and "240 Mb/s" 30. Of two readings the one that is
    `allowed` holds, where the other is not. Raises :class:`NotANumber`.
    """
    number, said = _split(text)
    worths = _worths(said, unit)
    if not number or not worths:
        of_unit = f" of {unit}" if unit else ""
        raise NotANumber(f"“{_quoted(text)}” is not a number{of_unit}.")
    if len(worths) > 1:
        raise NotANumber(f"“{_quoted(text)}” may mean bytes (MB) or bits (Mb): type one of them.")
    worth = worths.pop()
    if allowed:
        possible = [float(one) * worth for one in readings(number)]
        possible = [one for one in possible if allowed.fault(one) is None]
        if len(possible) == 1:
            return possible[0]
    return float(number_in(number)) * worth


def unit_in(text: str) -> str:
    """The unit that stands behind the number in `text`, or nothing."""
    return _split(text)[1]


def as_typed(value: float) -> str:
    """The shortest text that `readings` reads as `value` and as nothing else.

    Three decimals could be taken for thousands, so that they get a zero more.
    """
    text = repr(float(value)).removesuffix(".0")
    return f"{text}0" if _LIKE_THOUSANDS.fullmatch(text) else text


def _split(text: str) -> tuple[str, str]:
    """The number and the unit behind it."""
    bare = text.strip()
    number = re.match(r"[+-]?[\d.,'\u2019_ \u00a0\u202f\u2009]*(?:[eE][+-]?\d+)?", bare)
    length = len(number.group()) if number else 0
    return bare[:length], bare[length:].strip()


def _worths(said: str, unit: str) -> set[float]:
    """What one of the unit `said` is worth in `unit`; two answers where it may mean two."""
    known = _WORTH.get(unit, {unit: 1})
    if not said:
        return {1}
    if said in known:
        return {known[said]}
    return {worth for name, worth in known.items() if name.casefold() == said.casefold()}


def _quoted(text: str) -> str:
    bare = text.strip()
    return bare if len(bare) <= LONGEST else f"{bare[:LONGEST]}…"
