"""Bodies: what do I own, and what does it take?"""

from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_safe

from kit.body_drawing import draw_slot
from kit.body_forms import BodyForm
from kit.models import Body
from kit.unknowns import unknowns
from kit.views.shared import keep_change, keep_new, listed, mine, shown_in_form, visible


@require_safe
def bodies(request: HttpRequest) -> HttpResponse:
    """The visitor's bodies, then those of the sample kit."""
    page, archived = listed(
        Body,
        request,
        "slots__accepted_forms",
        "shutter_modes__frame_rates",
        "formats__files",
        "estimates",
        "learnt_figures",
    )
    rows = [(body, [(slot, draw_slot(slot)) for slot in body.slots.all()]) for body in page]
    context = {"rows": rows, "page": page, "archived": archived}
    return render(request, "kit/bodies.html", context)


@require_safe
def body(request: HttpRequest, slug: str) -> HttpResponse:
    """One body: its slots drawn, its rates and formats, and what nobody knows of it yet."""
    shown = visible(Body, request, slug)
    shown.fetch_choices()
    context = {
        "body": shown,
        "slots": [(slot, draw_slot(slot)) for slot in shown.slots.all()],
        "memory": [(one, one.frames_in(shown.memory.value)) for one in shown.formats.all()],
        "unknowns": list(unknowns(shown)),
        "estimates": shown.estimates.all(),
        "learnt": [*shown.learnt_figures.all(), *shown.learnt_couplings.all()],
    }
    return render(request, "kit/body.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def body_new(request: HttpRequest) -> HttpResponse:
    """A new body, from nothing."""
    form = BodyForm(request.POST or None)
    if added := keep_new(request, Body, form):
        return redirect("body", slug=added.slug)
    return _form_page(request, form, {"title": "Add a body"})


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def body_edit(request: HttpRequest, slug: str) -> HttpResponse:
    """The form of one of the visitor's bodies."""
    shown = mine(Body, request, slug)
    form = BodyForm(request.POST or None, instance=shown, initial=shown_in_form(shown))
    if keep_change(request, shown, form):
        return redirect("body", slug=slug)
    return _form_page(request, form, {"title": str(shown), "body": shown})


def _form_page(request: HttpRequest, form: BodyForm, context: dict[str, Any]) -> HttpResponse:
    sent = request.method == "POST"
    context |= {"form": form, "changed": form.changed, "sent": sent}
    return render(request, "kit/body_edit.html", context, status=422 if sent else 200)
