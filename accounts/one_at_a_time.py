"""The changes of one visitor come one after the other, on all machines."""

import hashlib
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress

from django.conf import settings
from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse

from accounts import guests
from pages.changes import MEANWHILE, SAFE, overtaken
from pages.middleware import Respond

PATIENCE_S = 10.0  # for the change before this one
LOOK_S = 0.02
BUSY = "The change before this one still goes on, so nothing was done. Send it again in a moment."


class OneChangeAtATime:
    """Middleware: what a visitor sends waits until what they sent before is done.

    By advisory locks of PostgreSQL, which end with their connection: they hold between processes
    and machines, and whoever is killed leaves none behind. Who the visitor is, is asked again once
    it is their turn: a guest may have signed in meanwhile.
    """

    def __init__(self, respond: Respond) -> None:
        self.respond = respond

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if request.method in SAFE:
            return self.respond(request)
        visitor = request.user.pk
        with _locked(_name_of(request)) as is_free:
            if not is_free:
                return overtaken(request, BUSY)
            guests.look_again(request)
            if visitor not in (None, request.user.pk) or guests.is_lost(request):
                return overtaken(request, MEANWHILE)
            return self.respond(request)


def _name_of(request: HttpRequest) -> str:
    """Whose changes follow each other: a visitor's, or those of a browser that is nobody's yet."""
    if request.user.pk:
        return f"visitor {request.user.pk}"
    browser = request.COOKIES.get(settings.CSRF_COOKIE_NAME)
    return f"browser {browser}" if browser else ""


@contextmanager
def _locked(name: str) -> Iterator[bool]:
    """Whether the lock of that name could be had in time; without a name there is none."""
    if not name:
        yield True
        return
    number = int.from_bytes(hashlib.sha256(name.encode()).digest()[:8], signed=True)
    until, is_free = time.monotonic() + PATIENCE_S, False
    with connection.cursor() as cursor:
        while not is_free and time.monotonic() < until:
            cursor.execute("SELECT pg_try_advisory_lock(%s)", [number])
            [is_free] = cursor.fetchone()
            if not is_free:
                time.sleep(LOOK_S)
    try:
        yield is_free
    finally:
        # A connection that broke has taken its locks with it.
        if is_free:
            with suppress(DatabaseError), connection.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_unlock(%s)", [number])
