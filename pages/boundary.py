"""What comes in from outside, cleaned once, before any view or form reads it.

Text that no database keeps (a character 0, half a surrogate pair) and numbers that no float holds
end here, for addresses, forms, files and JSON alike.
"""

import json
import math
import re
from collections.abc import Iterator
from itertools import chain
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, QueryDict

from pages.middleware import Respond
from pages.refusals import Refused

LONGEST_WHOLE = 18  # digits that 64 bits hold
_NO_TEXT = re.compile("[\0\ud800-\udfff]")
_ESCAPED_NO_TEXT = re.compile(r"\\u(?:0000|[dD][89a-fA-F])")


class NoJson(Refused):
    """Text that is no JSON; says why in a sentence."""


def clean_text(text: str) -> str:
    """`text` without characters 0 and halves of characters."""
    return _NO_TEXT.sub("", text)


def read_json(text: str) -> Any:
    """What JSON says, its numbers finite and its texts whole. Raises :class:`NoJson`."""
    try:
        value = json.loads(
            text, parse_constant=_refuse_constant, parse_float=_finite, parse_int=_whole
        )
    except RecursionError:
        raise NoJson(["It is nested too deeply."]) from None
    except ValueError as error:
        raise NoJson([f"It is no JSON: {error}."]) from None
    if _ESCAPED_NO_TEXT.search(text) and any(map(_NO_TEXT.search, _texts_in(value))):
        raise NoJson(["There is a character 0 or half a character in it, which no text has."])
    return value


class CleanInput:
    """Middleware: addresses and forms arrive without what is no text."""

    def __init__(self, respond: Respond) -> None:
        self.respond = respond

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if _NO_TEXT.search(request.path_info):
            raise Http404("No address has a character 0.")
        request.GET = _cleaned(request.GET)
        return self.respond(request)

    def process_view(self, request: HttpRequest, *_: Any) -> None:
        """Cleans a form once it is known to be one of this site's (CSRF)."""
        if request.method == "POST":
            request.POST = _cleaned(request.POST)


def _cleaned(sent: QueryDict) -> Any:
    """The same object where nothing is wrong, as nearly always."""
    pairs = [(key, value) for key, values in sent.lists() for value in values]
    if not any(_NO_TEXT.search(key) or _NO_TEXT.search(value) for key, value in pairs):
        return sent
    cleaned = QueryDict(mutable=True)
    for key, value in pairs:
        cleaned.appendlist(clean_text(key), clean_text(value))
    return cleaned


def _texts_in(value: Any) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict | list):
        for one in chain(value, value.values()) if isinstance(value, dict) else value:
            yield from _texts_in(one)


def _refuse_constant(name: str) -> None:
    raise ValueError(f"{name} is no number")


def _finite(text: str) -> float:
    number = float(text)
    if not math.isfinite(number):
        raise ValueError(f"{text[:20]} is larger than any number can be")
    return number


def _whole(text: str) -> int | float:
    return int(text) if len(text) <= LONGEST_WHOLE else _finite(text)
