"""What every request passes before a screen sees it."""

from collections.abc import Callable
from http import HTTPStatus

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

Respond = Callable[[HttpRequest], HttpResponse]


def limit_body(respond: Respond) -> Respond:
    """Refuses a request by the length of its body, unread, files included."""

    def limited(request: HttpRequest) -> HttpResponse:
        length = request.META.get("CONTENT_LENGTH") or "0"
        if not length.isdigit() or int(length) > settings.MOST_BODY_BYTES:
            return render(request, "400.html", status=HTTPStatus.REQUEST_ENTITY_TOO_LARGE)
        return respond(request)

    return limited
