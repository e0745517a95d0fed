"""The one filter by which a number reaches the page: its honest digits and its unit."""

from collections.abc import Mapping

from django import template

from engine.typed_numbers import as_typed

register = template.Library()

NO_BREAK_SPACE = "\u00a0"


@register.filter
def figure(value: float, unit: str = "") -> str:
    """`value` to a tenth below 10 and to the whole above, with `unit` after a space.

    Inputs are known to a few per cent at best: more digits would claim what nobody knows.
    """
    tenths = round(float(value), 1)
    number = f"{value:,.0f}" if tenths.is_integer() or abs(tenths) >= 10 else f"{tenths:.1f}"
    return f"{number}{NO_BREAK_SPACE}{unit}" if unit else number


@register.filter
def exact(value: float) -> str:
    """`value` as it was set by somebody, with no digit added or taken: 20, 0.5, 1500.

    It goes into fields and addresses, and is read back as the same number.
    """
    return as_typed(float(f"{value:.10g}"))


@register.filter
def at(mapping: Mapping[str, str], key: str) -> str:
    """What `mapping` has at `key`, or nothing."""
    return mapping.get(key, "")


@register.filter
def more(value: float) -> str:
    """`value` to the whole with its sign, + or a true minus."""
    return f"{value:+,.0f}".replace("-", "\u2212")


@register.filter
def percent(share: float) -> str:
    """A share of draws in whole per cent: 0 and 100 only where it is none or all of them."""
    return f"{100 * share if share in (0, 1) else min(max(100 * share, 1), 99):.0f} %"


def odds(share: float, draws: int, of: str = "bursts") -> str:
    """How often something happens that did in `share` of so many `draws` of bursts, or of days.

    Of draws alone nothing is "always" or "never".
    """
    if share in (0, 1):
        return f"in {'every one' if share else 'none'} of {figure(draws)} draws"
    return f"in {percent(share)} of {of}"
