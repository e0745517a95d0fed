"""The set-up in view follows through the menu: each screen that shows one opens with the last one.

What the address of a screen leaves out is taken from a cookie and put into the address, by a
redirect, so that going back, a reload and a copied address show the same. An empty `pin` in an
address takes the pins away; none at all leaves them.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any
from urllib.parse import parse_qsl, urlencode

from django.conf import settings
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect

from setups import keys
from setups.kit import Kit
from setups.pins import Pins
from setups.reader import read_address

COOKIE = "setup"
KEPT_S = 30 * 24 * 3_600
LONGEST_COOKIE = 3_500  # characters; browsers keep 4,096
ANY_OF = ("any", "raw")  # of Choose, which stand for several

_MODE = (keys.BODY, keys.FORMAT, keys.FRAME_RATE, keys.SCENE, keys.ISO, keys.ISO_RULE,
         keys.DETAIL_RULE)  # fmt: skip
_CARDS = (keys.ARRANGEMENT, *(key(number) for number in (1, 2)
                              for key in (keys.card, keys.free, keys.write)))  # fmt: skip
_ALL = (*_MODE, keys.HOLD, *_CARDS)
# The keys that each screen takes, by the name of its address.
TAKEN_BY: dict[str, tuple[str, ...]] = {
    "desk": _ALL,
    "table": (*_MODE, keys.HOLD, keys.ARRANGEMENT, keys.card(1), keys.card(2)),
    "choose": _MODE,
    "compare": (),
    "bench-test": _ALL,
    "bench-next": _ALL,
    "replay": _ALL,
    "plan": _ALL,
    "practice": _ALL,
}


@dataclass(frozen=True)
class InView:
    """What is remembered: the keys of a set-up with their values, and the pins."""

    setup: dict[str, str]
    pins: tuple[str, ...]

    @classmethod
    def of(cls, cookie: str) -> "InView":
        """What a cookie says; what makes no sense in it is left out."""
        pairs = parse_qsl(cookie[:LONGEST_COOKIE])
        setup = {key: value for key, value in pairs if key in _ALL}
        return cls(setup, tuple(value for key, value in pairs if key == keys.PIN))

    @property
    def cookie(self) -> str:
        """What `of` reads; of too many long pins the first ones."""
        pairs = [*self.setup.items(), *((keys.PIN, pin) for pin in self.pins)]
        while len(said := urlencode(pairs)) > LONGEST_COOKIE:
            pairs.pop()
        return said

    def after(self, request: HttpRequest, taken: tuple[str, ...]) -> "InView":
        """What is in view once the address of `request` is."""
        asked = {key: value for key in taken if (value := request.GET.get(key, ""))}
        several = {key for key, value in asked.items() if value in ANY_OF}
        kept = {key: value for key, value in self.setup.items() if key not in {*taken} - several}
        if body := asked.get(keys.BODY):
            of_before = {keys.BODY: self.setup.get(keys.BODY, "")}
            kept = keys.for_body(kept | of_before, body)
        asked = {key: value for key, value in asked.items() if key not in several}
        pins = self.pins
        if keys.PIN in request.GET:
            pins = tuple(Pins.of(request.GET.getlist(keys.PIN), Kit.of(request.user)).queries)
        return InView(kept | asked, pins)

    def left_out(self, request: HttpRequest, taken: tuple[str, ...]) -> Iterator[tuple[str, str]]:
        """The keys and values that the address of `request` does not say."""
        if not any(key in request.GET for key in taken):
            yield from ((key, self.setup[key]) for key in taken if key in self.setup)
        if keys.PIN not in request.GET:
            yield from ((keys.PIN, pin) for pin in self.pins)

    def still_there(self, request: HttpRequest) -> "InView":
        """What of it the visitor's kit has, as it is now."""
        reading = read_address(self.setup, Kit.of(request.user)) if self.setup else None
        if reading is None or keys.BODY in reading.notes:
            return replace(self, setup={})
        setup = {key: value for key, value in self.setup.items() if key not in reading.notes}
        return replace(self, setup=setup)


def remembered(request: HttpRequest) -> dict[str, str]:
    """The keys and values of the set-up that was in view last, as far as it is still there."""
    return InView.of(request.COOKIES.get(COOKIE, "")).still_there(request).setup


def now_pinned(request: HttpRequest, pins: Pins) -> None:
    """Notes the pins that a screen shows in place of those that its address had."""
    said = InView.of(getattr(request, "setup_in_view", ""))
    request.setup_in_view = replace(said, pins=tuple(pins.queries)).cookie  # type: ignore[attr-defined]


class SetupInView:
    """Middleware, which sees every screen that takes a set-up."""

    def __init__(self, respond: Callable[[HttpRequest], HttpResponse]) -> None:
        self.respond = respond

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.respond(request)
        said = getattr(request, "setup_in_view", None)
        if said is not None and said != request.COOKIES.get(COOKIE) and response.status_code < 300:
            response.set_cookie(
                COOKIE, said, max_age=KEPT_S, httponly=True, samesite="Lax",
                secure=settings.SESSION_COOKIE_SECURE,
            )  # fmt: skip
        return response

    def process_view(self, request: HttpRequest, *view: Any) -> HttpResponse | None:
        """Sends a visitor on to what was in view; notes what is from now on."""
        match = request.resolver_match
        taken = TAKEN_BY.get(match.view_name if match else "")
        if taken is None or request.method not in ("GET", "HEAD"):
            return None
        before = InView.of(request.COOKIES.get(COOKIE, ""))
        if not request.htmx:  # type: ignore[attr-defined]
            more = any(before.left_out(request, taken)) and [
                *before.still_there(request).left_out(request, taken)
            ]
            if more:
                said = [(key, value) for key, values in request.GET.lists() for value in values]
                return HttpResponseRedirect(f"{request.path}?{urlencode([*said, *more])}")
        request.setup_in_view = before.after(request, taken).cookie  # type: ignore[attr-defined]
        return None
