"""One partial serves the whole page and the part of it that htmx swaps."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.cache import patch_vary_headers
from django_htmx.http import push_url


def render_page_or_part(
    request: HttpRequest,
    page: str,
    part: str,
    context: dict[str, Any],
    *,
    address: str | None = None,
    status: int = 200,
) -> HttpResponse:
    """`part` for a swap by htmx; `page`, which includes it, for everything else.

    A swap puts `address` into the address bar. htmx restores its history from whole pages, and
    caches must keep the two apart. `status` is that of the page: a part that says what is wrong has
    come all right, and a browser would tell its console of an error.
    """
    wants_part = request.htmx and not request.htmx.history_restore_request  # type: ignore[attr-defined]
    response = (
        render(request, part, context)
        if wants_part
        else render(request, page, context, status=status)
    )
    patch_vary_headers(response, ("HX-Request", "HX-History-Restore-Request"))
    if wants_part and address is not None:
        push_url(response, address)
    return response
