"""Units, ranges and the one error that tells every fault by its field.

This is the one place where MB, seconds and rates become whole bytes and nanoseconds.
Whole numbers let things that fall on the same instant compare equal. Sizes, speeds and moments
are rounded to the nearest byte, byte a second and nanosecond. Durations that follow from a rate
are rounded up: a writer exactly as fast as the sensor gets the same duration and never falls
behind, and no frame comes sooner than its rate allows. The error is under 1 ns a frame, that is
one frame in a million at the highest rate a scenario may have.
"""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, fields
from functools import cache
from typing import Any, cast

BYTES_IN_MB = 1_000_000
MB_IN_GB = 1_000
GIB_IN_GB = 2**30 / 10**9
MIB_IN_MB = 2**20 / 10**6
BITS_IN_BYTE = 8
NS_IN_S = 1_000_000_000
S_IN_MINUTE = 60
S_IN_HOUR = 3_600
MS_IN_S = 1_000
MICRO = 1_000_000

LOW, MIDDLE, HIGH = 0.1, 0.5, 0.9  # an 80 % range: four draws in five lie between the ends
NOTICED_SHARE = 0.1  # under a tenth nobody notices; docs/model.md says so of comparing cards
NOTICED_S = 0.3  # what a thumb on a stopwatch errs by


@dataclass(frozen=True)
class Range:
    """The values a quantity may take, both ends included."""

    lowest: float
    highest: float
    unit: str

    def fault(self, value: float) -> str | None:
        """One sentence on what is wrong with `value`, or None."""
        if math.isfinite(value) and self.lowest <= value <= self.highest:
            return None
        return f"must be from {self.lowest:,} to {self.highest:,} {self.unit}, got {value:g}"


_RANGE = "range"  # in the metadata of a field


def quantity(allowed: Range, **options: Any) -> Any:
    """The field of a dataclass whose values lie in a range, None aside; read by `ranges_of`."""
    return field(metadata={_RANGE: allowed}, **options)


@cache
def ranges_of(kind: Any) -> Mapping[str, Range]:
    """The ranges of a dataclass's fields, by their names."""
    return {one.name: one.metadata[_RANGE] for one in fields(kind) if _RANGE in one.metadata}


def out_of_range(values: Any) -> dict[str, str]:
    """What is wrong with the fields of a dataclass that don't lie in their ranges."""
    faults, kind = {}, cast("Any", type(values))
    for name, allowed in ranges_of(kind).items():
        value = getattr(values, name)
        if value is None or allowed.lowest <= value <= allowed.highest < math.inf:
            continue  # nearly always, and of very many set-ups
        if fault := allowed.fault(value):
            faults[name] = fault
    return faults


WRITE_MB_S = Range(0.001, 100_000, "MB/s")  # any speed of a card, a slot or a reader


class InvalidValues(ValueError):
    """Values that make no sense; all their faults are told at once.

    `faults` maps each field at fault to what is wrong with it ("must be ...").
    """

    def __init__(self, faults: Mapping[str, str]) -> None:
        self.faults = dict(faults)
        super().__init__(" ".join(self.sentences()))

    def sentences(self) -> Iterator[str]:
        """One sentence per fault, each naming its field."""
        for name, fault in self.faults.items():
            yield f"{name} {fault}."


def bytes_of(mb: float) -> int:
    """Bytes in `mb` megabytes (10^6 bytes), to the nearest byte."""
    return round(mb * BYTES_IN_MB)


def ns_of(s: float) -> int:
    """Nanoseconds in `s` seconds, to the nearest nanosecond."""
    return round(s * NS_IN_S)


def interval_ns(rate_per_s: float) -> int:
    """Nanoseconds from one event to the next at `rate_per_s` (read to 6 decimals), rounded up."""
    return _quotient_up(NS_IN_S * MICRO, round(rate_per_s * MICRO))


def writing_ns(size_bytes: int, write_mb_s: float) -> int:
    """Nanoseconds to write `size_bytes` at `write_mb_s`, rounded up."""
    return _quotient_up(size_bytes * NS_IN_S, bytes_of(write_mb_s))


def _quotient_up(dividend: int, divisor: int) -> int:
    return -(-dividend // divisor)
