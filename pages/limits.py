"""How often the same may be tried."""

from collections.abc import Callable
from typing import Any, Literal, TypeVar, cast

from django.http import HttpRequest
from django_ratelimit.core import is_ratelimited
from django_ratelimit.decorators import ratelimit

_View = TypeVar("_View", bound=Callable[..., Any])


def at_most(
    times_an_hour: int, per: Literal["ip", "user", "user_or_ip", "post:email"]
) -> Callable[[_View], _View]:
    """Refuses what is sent to a view more often; `per` tells whose tries are counted together."""
    limited = ratelimit(key=per, rate=f"{times_an_hour}/h", method="POST")
    return cast("Callable[[_View], _View]", limited)


def is_guessing(request: HttpRequest, what: str, secret: str) -> bool:
    """Counts a try at a secret from the request's place, and tells whether that is too often.

    `secret` tells it from others, and from what it was before: five tries are free at each, then a
    quarter of an hour has to pass.
    """

    def key(group: str, request: HttpRequest) -> str:
        return f"{request.META['REMOTE_ADDR']} {secret}"

    return bool(is_ratelimited(request, group=what, key=key, rate="5/15m", increment=True))


def is_over(request: HttpRequest, what: str, times_an_hour: int) -> bool:
    """Counts that a visitor does `what` once more, and tells whether that is too often."""
    rate = f"{times_an_hour}/h"
    return bool(is_ratelimited(request, group=what, key="user_or_ip", rate=rate, increment=True))
