"""What every template may use: addresses, numbers and days in words, Django's own filters."""

from collections.abc import Callable, Iterable
from datetime import date, datetime
from functools import lru_cache
from itertools import groupby
from operator import attrgetter
from typing import Any

from crispy_forms.templatetags.crispy_forms_filters import as_crispy_field, as_crispy_form
from django.core.cache import caches
from django.core.cache.utils import make_template_fragment_key
from django.http import HttpRequest
from django.template import defaultfilters
from django.templatetags.static import static
from django.urls import reverse
from django.utils.safestring import SafeString
from django.utils.timezone import is_aware, localtime

from engine import formats

KEPT_S = 3_600


@lru_cache(maxsize=4_096)  # a page of cards asks for several of each
def url(name: str, *args: object, **kwargs: object) -> str:
    """The address of a view, by its name."""
    return reverse(name, args=args, kwargs=kwargs)


def querystring(request: HttpRequest, **changes: object) -> str:
    """The query of the page that is shown with some keys changed."""
    query = request.GET.copy()
    for key, value in changes.items():
        query[key] = str(value)
    return f"?{query.urlencode()}"


def kept(name: str, *vary_on: object, caller: Callable[[], str]) -> SafeString:
    """What a call block says, for an hour while `vary_on` stays the same."""
    cache, key = caches["rendered"], make_template_fragment_key(name, vary_on)
    said: str | None = cache.get(key)
    if said is None:
        said = caller()
        cache.set(key, said, KEPT_S)
    return SafeString(said)  # a template's own, escaped as it was rendered


def grouped(items: Iterable[Any], by: str) -> list[tuple[Any, list[Any]]]:
    """Items that follow each other and agree in the attribute `by`, with what they agree in."""
    return [(value, list(alike)) for value, alike in groupby(items, attrgetter(by))]


def date_in(day: date | datetime | None, style: str) -> str:
    """A date or time as `style` has it, in the letters of Django's date filter; none: nothing."""
    if isinstance(day, datetime) and is_aware(day):
        day = localtime(day)
    return defaultfilters.date(day, style) if day else ""


FUNCTIONS = {
    "url": url,
    "static": static,
    "querystring": querystring,
    "now": localtime,
    "kept": kept,
}
FILTERS = {
    "figure": formats.figure,
    "waiting": formats.waiting,
    "exact": formats.exact,
    "signed": formats.signed,
    "percent": formats.percent,
    "fraction": formats.fraction,
    "day": formats.day,
    "grouped": grouped,
    "date": date_in,
    "as_crispy_field": as_crispy_field,
    "crispy": as_crispy_form,
} | {
    name: getattr(defaultfilters, name)
    for name in (
        "capfirst", "default_if_none", "join", "length", "linebreaksbr", "lower", "pluralize",
        "slugify", "stringformat", "urlencode",
    )
}  # fmt: skip
