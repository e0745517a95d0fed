"""What is said when a request can't be answered just now."""

import sys
from smtplib import SMTPException

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string

from pages.context import site

TRY_AGAIN_S = 5


def server_error(request: HttpRequest) -> HttpResponse:
    """Page 500; 503 where the database, the disk or the mail does not answer, which passes.

    Neither asks the database who is there.
    """
    if isinstance(sys.exception(), OperationalError | InterfaceError | OSError | SMTPException):
        page = render_to_string("503.html", site(request))
        return HttpResponse(page, status=503, headers={"Retry-After": str(TRY_AGAIN_S)})
    return HttpResponse(render_to_string("500.html", site(request)), status=500)


def too_many(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Page 429: the same was tried too often from one place, or by one person."""
    return render(request, "429.html", {"sentence": str(exception)}, status=429)
