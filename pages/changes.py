"""What holds for whatever is sent to be changed, whichever view it is for.

A form that arrives twice acts once, and who has lost a race is told so.
"""

import hashlib
import logging
from http import HTTPStatus
from typing import Any

from django.contrib import messages
from django.contrib.messages.storage.base import Message
from django.core.cache import cache
from django.core.exceptions import ObjectDoesNotExist
from django.db import DatabaseError, IntegrityError, OperationalError
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import render

from pages.middleware import Respond
from pages.redirects import came_from, own_path

SAFE = ("GET", "HEAD", "OPTIONS", "TRACE")
REMEMBERED_S = 24 * 3600
MEANWHILE = "Something else has changed it meanwhile, so nothing was done. Look at it as it is now."


class Overtaken(Exception):
    """What was to be changed is no longer what it was."""


class ActOnce:
    """Middleware: a form that is sent twice, by a double click or a bad line, acts once.

    The token against forged requests is another on each page, so that it tells one form from the
    same one on a page that was loaded anew. Only what ended in a redirect is remembered: a form
    that tells faults may be sent again.
    """

    def __init__(self, respond: Respond) -> None:
        self.respond = respond

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.respond(request)
        key = getattr(request, "act_once_key", "")
        if key and isinstance(response, HttpResponseRedirect):
            queued: list[Message] = request._messages._queued_messages  # type: ignore[attr-defined]
            said = [(one.level, one.message, one.extra_tags) for one in queued]
            cache.set(key, (response.url, said), REMEMBERED_S)
        return response

    def process_view(self, request: HttpRequest, *_: Any) -> HttpResponse | None:
        """Answers as before where the same was sent before; after the token was checked."""
        key = _form_key(request)
        if not key:
            return None
        if (before := cache.get(key)) is None:
            request.act_once_key = key  # type: ignore[attr-defined]
            return None
        address, said = before
        for level, sentence, tags in said:
            messages.add_message(request, level, sentence, extra_tags=tags)
        return HttpResponseRedirect(address)


class TellOvertaken:
    """Middleware: a change that lost a race is answered with a sentence, not as an error."""

    def __init__(self, respond: Respond) -> None:
        self.respond = respond

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.respond(request)

    def process_exception(self, request: HttpRequest, fault: Exception) -> HttpResponse | None:
        """Page 409 where what was to be changed is gone or taken by now."""
        if request.method in SAFE or not _is_lost_race(fault):
            return None
        logging.getLogger(__name__).warning("A change was overtaken", exc_info=fault)
        return overtaken(request, MEANWHILE)


def overtaken(request: HttpRequest, sentence: str) -> HttpResponse:
    """Page 409: what was sent was not done, and why."""
    context = {"sentence": sentence, "page": own_path(came_from(request))}
    return render(request, "409.html", context, status=HTTPStatus.CONFLICT)


def _is_lost_race(fault: Exception) -> bool:
    """Whether rows were gone, or taken by others; a database that is away is another matter."""
    if isinstance(fault, OperationalError):
        return False
    not_updated = isinstance(fault, DatabaseError) and not fault.__cause__  # of `save`, by Django
    return isinstance(fault, IntegrityError | ObjectDoesNotExist | Overtaken) or not_updated


def _form_key(request: HttpRequest) -> str:
    token = request.POST.get("csrfmiddlewaretoken") if request.method == "POST" else None
    if not token or request.headers.get("HX-Request"):
        return ""
    sent = [(name, request.POST.getlist(name)) for name in sorted(request.POST)]
    files = [(name, len(file), str(file)) for name, file in sorted(request.FILES.items())]
    told = repr((request.get_full_path(), sent, files))
    return f"sent:{hashlib.sha256(told.encode()).hexdigest()}"
