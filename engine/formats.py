"""How numbers, amounts and dates are written for people: English, by Unicode's CLDR (Babel).

A quantity that the engine worked out goes through `figure`, what somebody typed through `exact`.
"""

from datetime import date
from functools import lru_cache

from babel import Locale
from babel.dates import format_date
from babel.numbers import NumberPattern, parse_pattern

from engine.typed_numbers import as_typed

NO_BREAK_SPACE = "\u00a0"
TRUE_MINUS = "\u2212"
LEAST_WAIT_S = 0.05
THREE_DIGITS_FROM = 1_000
_LOCALE = Locale("en", "GB")
_BY_DECIMALS: tuple[NumberPattern, ...] = tuple(
    parse_pattern(pattern) for pattern in ("#,##0", "#,##0.0", "#,##0.00")
)


@lru_cache(maxsize=20_000)  # a screen has the same few hundred again at its next change
def written(value: float, decimals: int = 0) -> str:
    """`value` with so many decimals (0 to 2), thousands set apart by commas."""
    return str(_BY_DECIMALS[decimals].apply(value, _LOCALE))


def figure(value: float, unit: str = "") -> str:
    """`value` to a tenth below 10, to the whole above, and to three digits from 1,000 on, with
    `unit` after a space. What is whole from the start, as a count, keeps all its digits.

    Inputs are known to a few per cent at best: more digits would claim what nobody knows.
    """
    value = float(value)
    if abs(value) >= THREE_DIGITS_FROM and not value.is_integer():
        value = float(f"{value:.3g}")
    tenths = round(value, 1)
    said = written(value) if tenths.is_integer() or abs(tenths) >= 10 else written(tenths, 1)
    return f"{said}{NO_BREAK_SPACE}{unit}" if unit else said


def span(low: float, high: float, unit: str = "") -> str:
    """From one figure to another, "45 to 54 MB/s"; one alone where both read the same."""
    first, last = figure(low), figure(high)
    return figure(high, unit) if first == last else f"{first} to {figure(high, unit)}"


def waiting(seconds: float) -> str:
    """How long somebody waits: "after 2.5 s", or "at once" where it would read 0."""
    return "at once" if seconds < LEAST_WAIT_S else f"after {figure(seconds, 's')}"


def exact(value: float) -> str:
    """`value` as it was set by somebody, with no digit added or taken: 20, 0.5, 1500.

    It goes into fields and addresses, and is read back as the same number.
    """
    return as_typed(float(f"{value:.10g}"))


def signed(value: float) -> str:
    """`value` to the whole with its sign, + or a true minus."""
    sign = TRUE_MINUS if value < 0 else "+"
    return f"{sign}{written(abs(value))}"


def percent(share: float) -> str:
    """A share of draws in whole per cent: 0 and 100 only where it is none or all of them."""
    return f"{written(100 * share if share in (0, 1) else min(max(100 * share, 1), 99))} %"


_FRACTIONS = ((0.15, "a tenth"), (0.225, "a fifth"), (0.29, "a quarter"), (0.4, "a third"),
              (0.58, "half"), (0.7, "two thirds"), (0.8, "three quarters"))  # fmt: skip


def fraction(share: float) -> str:
    """About how large a part of something is, as one says it: "a quarter"."""
    return next((words for below, words in _FRACTIONS if share < below), "most")


_ONE_OF = {"bursts": "burst", "days": "day", "series of bursts": "series of bursts"}


def odds(share: float, draws: int, of: str = "bursts") -> str:
    """How often something happens that did in `share` of so many `draws`, `of` one of _ONE_OF.

    Of draws alone nothing is "always" or "never".
    """
    if share in (0, 1):
        return f"in {'every' if share else 'no'} {_ONE_OF[of]} we tried ({figure(draws)})"
    return f"in {percent(share)} of {of}"


def money(amount: float, currency: str) -> str:
    """An amount with the code of its currency; cents only where there are some."""
    return f"{written(amount, 0 if amount == round(amount) else 2)}{NO_BREAK_SPACE}{currency}"


def day(on: date) -> str:
    """A day: 1 Nov 2026."""
    return format_date(on, "d MMM y", _LOCALE)
