"""The filters by which numbers and days reach a page; `engine.formats` says how they look."""

from collections.abc import Mapping

from django import template

from engine import formats

register = template.Library()
register.filter("figure", formats.figure)
register.filter("waiting", formats.waiting)
register.filter("exact", formats.exact)
register.filter("signed", formats.signed)
register.filter("percent", formats.percent)
register.filter("fraction", formats.fraction)
register.filter("day", formats.day)


@register.filter
def at(mapping: Mapping[str, str], key: str) -> str:
    """What `mapping` has at `key`, or nothing."""
    return mapping.get(key, "")
