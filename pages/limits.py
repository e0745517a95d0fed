"""How often the same may be tried."""

from collections.abc import Callable
from typing import Any, Literal, TypeVar, cast

from django.http import HttpRequest
from django_ratelimit.core import is_ratelimited
from django_ratelimit.decorators import ratelimit

TRIES, TRIES_AT_ALL = 5, 60  # in a quarter of an hour

_View = TypeVar("_View", bound=Callable[..., Any])


def at_most(
    times_an_hour: int,
    per: Literal["ip", "user", "user_or_ip"] | Callable[[str, HttpRequest], str],
    method: Literal["POST", "GET"] = "POST",
) -> Callable[[_View], _View]:
    """Refuses what is asked of a view more often; `per` tells whose tries are counted together.

    What is counted is what costs: forms that are sent, or, of views that compute when they are only
    looked at, that.
    """
    limited = ratelimit(key=per, rate=f"{times_an_hour}/h", method=method)
    return cast("Callable[[_View], _View]", limited)


def is_guessing(request: HttpRequest, what: str, secret: str = "") -> bool:
    """Counts a try at a secret from the request's place, and tells whether that is too often.

    `secret` tells it from others, and from what it was before: five tries are free at each, then a
    quarter of an hour has to pass. Without it tries at all secrets are counted together, for who
    tries the same one everywhere.
    """

    def key(group: str, request: HttpRequest) -> str:
        return f"{request.META['REMOTE_ADDR']} {secret}"

    rate = f"{TRIES if secret else TRIES_AT_ALL}/15m"
    return bool(is_ratelimited(request, group=what, key=key, rate=rate, increment=True))


def is_over(request: HttpRequest, what: str, times_an_hour: int) -> bool:
    """Counts that a visitor does `what` once more, and tells whether that is too often."""
    rate = f"{times_an_hour}/h"
    return bool(is_ratelimited(request, group=what, key="user_or_ip", rate=rate, increment=True))
