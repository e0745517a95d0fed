"""What can't be done is told on the page that asked for it, whichever view it was asked of."""

from collections.abc import Callable, Sequence
from urllib.parse import urlsplit

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from pages.redirects import back_to


class Refused(ValueError):
    """Something that can't be done; `sentences` say why."""

    sentences: Sequence[str]


class TellRefusals:
    """Middleware for what no form tells: a view need not catch it."""

    def __init__(self, respond: Callable[[HttpRequest], HttpResponse]) -> None:
        self.respond = respond

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.respond(request)

    def process_exception(self, request: HttpRequest, fault: Exception) -> HttpResponse | None:
        """Back to where a visitor came from, with the sentences."""
        if not isinstance(fault, Refused) or request.method != "POST":
            return None
        for sentence in fault.sentences:
            messages.warning(request, sentence)
        came_from = urlsplit(request.META.get("HTTP_REFERER", ""))
        is_ours = came_from.netloc == request.get_host()
        asked = f"{came_from.path}?{came_from.query}" if came_from.query else came_from.path
        return back_to(asked if is_ours else "", reverse("desk"))
