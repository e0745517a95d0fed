"""What can't be done is told on the page that asked for it, whichever view it was asked of."""

from collections.abc import Callable, Sequence

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.urls import reverse

from pages.redirects import back_to, came_from


class Refused(ValueError):
    """Something that can't be done; `sentences` say why."""

    def __init__(self, sentences: Sequence[str]) -> None:
        self.sentences = sentences
        super().__init__(" ".join(sentences))


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
        return back_to(came_from(request), reverse("desk"))
