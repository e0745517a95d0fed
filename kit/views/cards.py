"""Cards: what do I own, what do its marks mean, does it fit?"""

from typing import Any

from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.utils.timezone import localdate
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from engine.cards.label.parser import read_marks
from engine.estimates.write_speed import estimate_write
from kit.card_log import add_line
from kit.card_reading import proposal
from kit.face_drawing import draw_face
from kit.filters import CardFilter
from kit.fits import bodies_to_fit, copied, in_every_slot, readers_to_copy, suits
from kit.forms import CardForm, CopyForm, LogForm
from kit.models import Card, Visitor
from kit.models.card import NAMED_BY
from kit.views.shared import keep_change, keep_new, mine, say, visible
from pages.refusals import Refused
from pages.render import render_page_or_part

CARDS_ON_A_PAGE = 50


@require_safe
def cards(request: HttpRequest) -> HttpResponse:
    """The visitor's cards and those of the sample kit, and the bodies that each suits."""
    chosen = CardFilter(request.GET, visitor=request.user)
    page = Paginator(chosen.cards(), CARDS_ON_A_PAGE).get_page(request.GET.get("page"))
    bodies = list(bodies_to_fit(request.user))
    held = in_every_slot(page, bodies)
    rows = [(card, suits(of_card)) for card, of_card in zip(page, held, strict=True)]
    context = {"filter": chosen, "page": page, "rows": rows, "bodies": bodies}
    return render_page_or_part(
        request, "kit/cards.html", "kit/_cards.html", context, address=request.get_full_path()
    )


@require_safe
def card(request: HttpRequest, slug: str) -> HttpResponse:
    """One card: its face read mark by mark, what it does, where it fits, how it fared."""
    shown = visible(Card, request, slug)
    context = card_context(shown, request.user, request.GET)
    context["log"] = LogForm(initial={"on": localdate()})
    return render(request, "kit/card.html", context)


def card_context(shown: Card, visitor: Visitor, asked: QueryDict) -> dict[str, Any]:
    """What the page of one card shows, held against the bodies and readers of `visitor`.

    `asked` may have the number and size of the frames that are to be copied.
    """
    reading = read_marks(shown.marks)
    form = CopyForm(asked)
    held = in_every_slot([shown], bodies_to_fit(visitor))[0]
    size_gb = form.size_gb(shown.capacity_gb) if form.is_valid() else shown.capacity_gb
    return {
        "card": shown,
        "reading": reading,
        "face": draw_face(reading, str(shown)),
        "estimate": estimate_write(reading.face),
        "held": held,
        "misfits": [one for one in held if not one.fits],
        "copy_form": form,
        "copies": copied(((shown, reader) for reader in readers_to_copy(visitor)), size_gb),
    }


@require_http_methods(["GET", "HEAD", "POST"])
def card_new(request: HttpRequest) -> HttpResponse:
    """A new card, from its pasted text and the corrections of what was read from it."""
    if "save" in request.POST:
        form = CardForm(request.POST)
        if added := keep_new(request, Card, form):
            return redirect("card", slug=added.slug)
    else:
        form = _proposed(request)
    reading = read_marks(form["marks"].value() or "")
    context = {
        "form": form,
        "reading": reading,
        "face": draw_face(reading, " ".join(filter(None, (form[key].value() for key in NAMED_BY)))),
        "estimate": estimate_write(reading.face),
        "bodies": bodies_to_fit(request.user),
    }
    return render_page_or_part(
        request,
        "kit/card_new.html",
        "kit/_card_new.html",
        context,
        status=422 if form.errors else 200,
    )


def _proposed(request: HttpRequest) -> CardForm:
    """The form as the text proposes it, what was corrected by hand kept."""
    text = request.POST.get("marks", request.GET.get("marks", ""))
    values = {"marks": text} | proposal(read_marks(text))
    if "read_before" in request.POST:
        before = CardForm(initial=proposal(read_marks(request.POST["read_before"])))
        values |= before.corrections(request.POST)
    return CardForm(initial=values)


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def card_edit(request: HttpRequest, slug: str) -> HttpResponse:
    """The form of one of the visitor's cards."""
    shown = mine(Card, request, slug)
    form = CardForm(request.POST or None, instance=shown, initial={"version": shown.version})
    if keep_change(request, shown, form):
        return redirect("card", slug=slug)
    context = {
        "form": form,
        "card": shown,
        "changed": form.changed,
        "bodies": bodies_to_fit(request.user),
    }
    status = 422 if request.method == "POST" else 200
    return render(request, "kit/card_edit.html", context, status=status)


@login_required
@require_POST
def card_log(request: HttpRequest, slug: str) -> HttpResponse:
    """One more line in the log of one of the visitor's cards."""
    shown = mine(Card, request, slug)
    form = LogForm(request.POST)
    if form.is_valid():
        try:
            revision = add_line(shown, form.save(commit=False))
        except Refused as error:
            form.add_error(None, str(error))
        else:
            say(request, f"{revision.words}.", revision)
            return redirect("card", slug=slug)
    context = card_context(shown, request.user, request.GET) | {"log": form}
    return render(request, "kit/card.html", context, status=422)
