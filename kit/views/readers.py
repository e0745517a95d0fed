"""Readers and ports: how long does copying take?"""

from typing import Any

from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_safe

from engine.cards.copy_time import RATE_OF_PORT, Port
from kit.fits import cards_to_fit, copied
from kit.forms import ReaderForm
from kit.models import Reader
from kit.views.shared import keep_change, keep_new, listed, mine, shown_in_form, visible

CARDS_ON_A_PAGE = 50


@require_safe
def readers(request: HttpRequest) -> HttpResponse:
    """The visitor's readers, then those of the sample kit."""
    page, archived = listed(Reader, request, "accepted_forms")
    context = {"page": page, "archived": archived}
    return render(request, "kit/readers.html", context)


@require_safe
def reader(request: HttpRequest, slug: str) -> HttpResponse:
    """One reader, and the minutes that it takes for each card."""
    shown = visible(Reader, request, slug)
    cards = cards_to_fit(request.user).taken_by(shown)
    page = Paginator(cards, CARDS_ON_A_PAGE).get_page(request.GET.get("page"))
    rows = copied((card, shown) for card in page)
    rate = RATE_OF_PORT.get(Port(shown.port))
    context = {"reader": shown, "rate": rate, "rows": rows, "page": page}
    return render(request, "kit/reader.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def reader_new(request: HttpRequest) -> HttpResponse:
    """A new reader."""
    form = ReaderForm(request.POST or None)
    if added := keep_new(request, Reader, form):
        return redirect("reader", slug=added.slug)
    return _form_page(request, form, {"title": "Add a reader"})


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def reader_edit(request: HttpRequest, slug: str) -> HttpResponse:
    """The form of one of the visitor's readers."""
    shown = mine(Reader, request, slug)
    form = ReaderForm(request.POST or None, instance=shown, initial=shown_in_form(shown))
    if keep_change(request, shown, form):
        return redirect("reader", slug=slug)
    return _form_page(request, form, {"title": str(shown), "reader": shown})


def _form_page(request: HttpRequest, form: ReaderForm, context: dict[str, Any]) -> HttpResponse:
    context |= {"form": form, "changed": form.changed}
    status = 422 if request.method == "POST" else 200
    return render(request, "kit/reader_edit.html", context, status=status)
