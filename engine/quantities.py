"""The one place where MB, seconds and rates become whole bytes and nanoseconds.

Whole numbers let things that fall on the same instant compare equal. Sizes, speeds and moments
are rounded to the nearest byte, byte a second and nanosecond. Durations that follow from a rate
are rounded up: a writer exactly as fast as the sensor gets the same duration and never falls
behind, and no frame comes sooner than its rate allows. The error is under 1 ns a frame, that is
one frame in a million at the highest rate a scenario may have.
"""

BYTES_IN_MB = 1_000_000
MB_IN_GB = 1_000
BITS_IN_BYTE = 8
NS_IN_S = 1_000_000_000
S_IN_MINUTE = 60
MICRO = 1_000_000


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
