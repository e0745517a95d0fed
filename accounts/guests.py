"""People without an account: what they add is kept for their browser, until they have one.

A guest is a row of `User` without an address. The browser knows it by a signed cookie, so that all
that holds for the kits of accounts holds for theirs.
"""

import hashlib
from collections.abc import Callable
from datetime import timedelta
from functools import partial
from typing import Any

from django.apps import apps
from django.conf import settings
from django.contrib.auth.middleware import get_user
from django.core.cache import cache
from django.db import transaction
from django.dispatch import Signal
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.functional import SimpleLazyObject
from django_ratelimit.exceptions import Ratelimited

from accounts.models import User
from kit import edit
from kit.document import KINDS
from pages.changes import SAFE
from pages.limits import is_over
from pages.refusals import Refused

COOKIE = "guest"
KEPT = timedelta(days=30)
RENEWED = timedelta(days=25)  # less is left of it: then the days count anew
MOST_GUESTS = 10_000
GUESTS_AN_HOUR = 20  # from one address
ANSWER_ON_ITS_WAY_S = 600  # the longest that a browser waits to be told which guest it has begun
TOO_MANY = (
    "Too many people are trying Ondata without an account just now. Nothing was saved: sign up, "
    "or try again in an hour."
)


# For apps that this one doesn't know, while a `guest` moves into an `account`: what each of their
# items `became` there, in pairs.
moved_in = Signal()


class TooManyGuests(Ratelimited):  # type: ignore[misc]  # which has no types
    """Too many people without an account have added something."""


class GuestMiddleware:
    """Knows guests by their cookie; `request.begin_guest` makes one of who saves something."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        signed_in = request.user
        request.user = SimpleLazyObject(partial(_visitor, request, signed_in))  # type: ignore[assignment]
        request.begin_guest = partial(_begin, request)  # type: ignore[attr-defined]
        response = self.get_response(request)
        if is_lost(request):
            response.delete_cookie(COOKIE, samesite="Lax")
        elif guest := getattr(request, "renewed_guest", None):
            _remember(response, guest)
        return response


def look_again(request: HttpRequest) -> None:
    """Forgets who the visitor was: they may have signed in or out since."""
    request.session = type(request.session)(request.session.session_key)
    request.__dict__.pop("_cached_user", None)
    signed_in = SimpleLazyObject(partial(get_user, request))
    request.user = SimpleLazyObject(partial(_visitor, request, signed_in))  # type: ignore[assignment]


def is_lost(request: HttpRequest) -> bool:
    """Whether the browser still names a guest who is gone: has signed in, or was forgotten."""
    return getattr(request, "has_lost_guest", False)


def part_with(request: HttpRequest) -> None:
    """Has the browser forget the guest that it names, who is gone."""
    request.has_lost_guest = True  # type: ignore[attr-defined]


def move_in(guest: User, user: User) -> None:
    """Gives all that a guest has to an account; the guest is gone then.

    Raises Refused where the account has no room for it; then all stays the guest's.
    """
    with transaction.atomic():
        edit.lock(user)
        items = [item for model in KINDS.values() for item in model.objects.owned_by(guest)]
        became = [(item, edit.give(item, user)) for item in items]
        moved_in.send(User, guest=guest, account=user, became=became)
        kinds = tuple(KINDS.values())
        for other in apps.get_models():
            owner = next((f for f in other._meta.fields if f.name == "owner"), None)
            if owner is not None and owner.related_model is User and not issubclass(other, kinds):
                other._base_manager.filter(owner=guest).update(owner=user)
        guest.delete()


def no_room(words: str) -> Refused:
    """That nothing of a guest moves, as the account has no room: `words` say for what."""
    return Refused([f"What you added in this browser stays in it for now. {words}"])


def guest_of(request: HttpRequest) -> User | None:
    """The guest that the visitor is; None for who is signed in, or has added nothing."""
    return request.user if isinstance(request.user, User) and request.user.is_guest else None


def _visitor(request: HttpRequest, signed_in: Any) -> Any:
    if signed_in.is_authenticated:
        return signed_in
    pk = request.get_signed_cookie(COOKIE, default="", max_age=int(KEPT.total_seconds()))
    began = None if pk or request.method in SAFE else cache.get(_began_key(request))
    known = pk or began
    guest = User.objects.guests().filter(pk=int(known)).first() if known else None
    if guest is None:
        request.has_lost_guest = bool(pk)  # type: ignore[attr-defined]
        return signed_in
    if began:
        request.renewed_guest = guest  # type: ignore[attr-defined]
    if guest.guest_until and guest.guest_until - timezone.now() < RENEWED:
        guest.guest_until = timezone.now() + KEPT
        guest.save(update_fields=["guest_until"])
        request.renewed_guest = guest  # type: ignore[attr-defined]
    return guest


def _begin(request: HttpRequest) -> User:
    """The guest that a visitor without an account becomes."""
    if is_over(request, "guests", GUESTS_AN_HOUR) or not _is_room():
        raise TooManyGuests(TOO_MANY)
    guest = User(guest_until=timezone.now() + KEPT)
    guest.set_unusable_password()
    guest.save()
    request.user = request.renewed_guest = guest  # type: ignore[attr-defined]
    if request.COOKIES.get(settings.CSRF_COOKIE_NAME):
        cache.set(_began_key(request), guest.pk, ANSWER_ON_ITS_WAY_S)
    return guest


def _began_key(request: HttpRequest) -> str:
    """Where it is kept which guest a browser began, until it has been told.

    It is known by the cookie against forged requests, which it has from its first page on.
    """
    browser = request.COOKIES.get(settings.CSRF_COOKIE_NAME, "")
    return f"began:{hashlib.sha256(browser.encode()).hexdigest()}"


def _is_room() -> bool:
    if User.objects.guests().count() < MOST_GUESTS:
        return True
    User.objects.expired_guests().delete()
    return User.objects.guests().count() < MOST_GUESTS


def _remember(response: HttpResponse, guest: User) -> None:
    response.set_signed_cookie(
        COOKIE,
        str(guest.pk),
        max_age=int(KEPT.total_seconds()),
        httponly=True,
        samesite="Lax",
        secure=settings.SESSION_COOKIE_SECURE,
    )
