"""My camera: six questions, and what the camera does by the answers so far."""

from dataclasses import replace
from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST
from django_htmx.http import replace_url

from camera.answers_form import AnswersForm, answers_of
from camera.preview import Preview
from engine.estimates.spec_text import read_spec
from engine.typed_numbers import as_typed
from kit import edit
from kit.document import BadDocument
from kit.models import Body, Card
from kit.views.shared import keeper, say
from pages.render import render_page_or_part
from setups import keys
from setups.prediction import Prediction

EXAMPLE = {"electronic": "20", "megapixels": "24"}
PAGE, PART = "camera/camera.html", "camera/_preview.html"


@require_http_methods(["GET", "HEAD", "POST"])
def camera(request: HttpRequest) -> HttpResponse:
    """The questions, answered in the address; sent by POST, they are saved as a body."""
    if "csrfmiddlewaretoken" in request.GET:  # as the form sends it without script
        return redirect(f"{reverse('camera')}?{_kept(request.GET)}")
    asked = request.POST if request.method == "POST" else request.GET
    form = AnswersForm(asked or None)
    form.is_valid()
    preview = Preview(form, request.user) if form.is_bound else None
    saves = request.method == "POST" and form.is_valid() and form.require_room()
    if saves and preview and preview.prediction:
        return _saved(request, preview)
    response = _shown(request, form, preview, 422 if request.method == "POST" else 200)
    if request.htmx:  # type: ignore[attr-defined]
        replace_url(response, f"{reverse('camera')}?{_kept(asked)}")
    return response


@require_POST
def read_page(request: HttpRequest) -> HttpResponse:
    """The questions as a pasted page answers them, to be confirmed."""
    found = read_spec(request.POST.get("page", ""))
    values = answers_of(found)
    query = QueryDict(mutable=True)
    for name, value in values.items():
        shown = as_typed(value) if isinstance(value, float) else str(value)
        query.setlist(name, value if isinstance(value, list) else [shown])
    form = AnswersForm(query)
    form.is_valid()
    return _shown(request, form, Preview(form, request.user), 200, found=found)


def _shown(
    request: HttpRequest, form: AnswersForm, preview: Preview | None, status: int, **more: Any
) -> HttpResponse:
    context: dict[str, Any] = {
        "form": form,
        "preview": preview,
        "prediction": preview and preview.prediction,
    }
    if preview and preview.prediction and preview.prediction.result:
        context |= {"result": preview.prediction.result, "setup": preview.prediction.setup}
    elif not form.is_bound:
        context["example"] = _example(request)
    if more:
        return render(request, PAGE, context | more, status=status)
    return render_page_or_part(request, PAGE, PART, context, status=status)


def _example(request: HttpRequest) -> Prediction | None:
    """What an answer looks like, for somebody who has not typed anything yet."""
    form = AnswersForm(EXAMPLE)
    form.is_valid()
    return Preview(form, request.user).prediction


def _saved(request: HttpRequest, preview: Preview) -> HttpResponse:
    """The Desk with the new body and its card."""
    owner = keeper(request)
    try:
        with transaction.atomic():
            added = edit.add(Body, owner, preview.body_document)
            card = preview.own_card or edit.add_or_find(Card, owner, preview.card_document)
    except BadDocument as error:
        refused = replace(preview, refused=tuple(error.faults.values()))
        return _shown(request, preview.form, refused, 422)
    say(request, f"{added.words}.", added)
    return redirect(f"{reverse('desk')}?{keys.query_of(added.changed.slug, {1: card.slug})}")


def _kept(asked: QueryDict) -> str:
    """The answers as a query, without those left empty and without what a form adds."""
    kept = QueryDict(mutable=True)
    for name in AnswersForm.base_fields:
        if values := [value for value in asked.getlist(name) if value]:
            kept.setlist(name, values)
    return kept.urlencode()
