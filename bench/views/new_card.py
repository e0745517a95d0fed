"""A new card: is it what its label says?"""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.timezone import localdate
from django.views.decorators.http import require_http_methods

from bench.card_check_form import CardCheckForm
from kit.models import Card, CardEvent
from kit.views.shared import visible


@require_http_methods(["GET", "HEAD", "POST"])
def card_check(request: HttpRequest, slug: str) -> HttpResponse:
    """The steps of a check, and what they have shown."""
    card = visible(Card, request, slug)
    form = CardCheckForm(*([request.POST] if request.method == "POST" else []), card=card)
    context = {"card": card, "form": form}
    if form.is_valid() and form.check:
        event = CardEvent.FAILURE if form.check.is_bad else CardEvent.CHECKED
        words = " ".join(one.words for one in form.check.findings)
        entry = {"on": localdate().isoformat(), "event": event.value, "words": words[:200]}
        context |= {"check": form.check, "entry": entry}
    status = 422 if form.errors else 200
    return render(request, "bench/card_check.html", context, status=status)
