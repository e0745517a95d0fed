"""The Desk, Compare and Choose: what a set-up does, which is better, what is cheapest."""

from typing import Any
from urllib.parse import parse_qsl

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_safe

from desk import address, choosing, need_address
from desk.choice_page import ChoicePage
from desk.compare import examples, side_by_side
from desk.pins import Pins
from desk.prediction import predict
from desk.setup import HOLD_S
from desk.tasks import leave_to_worker
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from engine.cards.standards import Form
from engine.selection.stories import STORIES
from kit.models import Visitor
from pages.render import render_page_or_part
from pages.templatetags.figures import exact

LONGEST_MOMENT = 20
PAGE, PART = "desk/desk.html", "desk/_part.html"


@require_safe
def desk(request: HttpRequest) -> HttpResponse:
    """The set-up in the address, its answers, its drawing, and what would change it."""
    kit = address.Kit.of(request.user)
    reading = address.read(request.GET.dict(), kit)
    if reading is None:
        return render_page_or_part(request, PAGE, PART, {})
    was = request.GET.get("was", "")
    before = address.read(dict(parse_qsl(was)), kit) if was else None
    pins = Pins.of(request.GET.getlist("pin"))
    context: dict[str, Any] = {
        "pins": pins,
        "reading": reading,
        "setup": reading.setup,
        "before": before,
        "hold_range": HOLD_S,
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
        "prediction": predict(reading, before),
    }
    return render_page_or_part(
        request,
        PAGE,
        PART,
        context,
        address=f"{reverse('desk')}?{reading.address_beside(before)}{pins.query}",
        status=404 if reading.unknown else 200,
    )


SWAPPED = ("hold", "over", "iso", "card1")  # what can be swapped in all set-ups at once


@require_safe
def compare(request: HttpRequest) -> HttpResponse:
    """Pinned set-ups on one time axis, and the differences in words."""
    pins = Pins.of(request.GET.getlist("pin"))
    parts = {key: value for key in SWAPPED if (value := request.GET.get(f"all-{key}", ""))}
    at = request.GET.get("at", "")[:LONGEST_MOMENT]
    kit = address.Kit.of(request.user)
    shown = side_by_side(pins.swapped(parts) if parts else pins, kit, at)
    kept = Pins([row.pin.query for row in shown.rows])
    context = {
        "shown": shown,
        "pins": kept,
        "examples": examples(kit),
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
    }
    return render_page_or_part(
        request,
        "desk/compare.html",
        "desk/_compare.html",
        context,
        address=f"{reverse('compare')}?at={exact(round(shown.at_s, 2))}{kept.query}",
    )


@require_safe
def choose(request: HttpRequest) -> HttpResponse:
    """The cheapest cards that do what the need in the address asks for, and every card with why."""
    reading = need_address.read(request.GET.dict(), address.Kit.of(request.user))
    pins = Pins.of(request.GET.getlist("pin"))
    asked = request.GET
    stopped, goes_on = "stop" in asked, "go" in asked  # of work that is done in the background
    work_s = 0 if stopped or goes_on else choosing.WORK_S
    page = reading and ChoicePage(reading, request.user, work_s=work_s, page=asked.get("page", ""))
    context = {
        "page": page,
        "waiting": page and leave_to_worker(request, page, stopped=stopped),
        "pins": pins,
        "stories": STORIES,
        "forms": list(Form),
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
    }
    address_of_view = f"{reverse('choose')}?{reading.address}{pins.query}" if reading else None
    return render_page_or_part(
        request,
        "desk/choose.html",
        "desk/_choose.html",
        context,
        address=None if goes_on else address_of_view,
    )


def shown_setup(query: str, owner: Visitor) -> dict[str, Any]:
    """The set-up in `query`, of the kit of `owner`, for others to look at.

    Empty when its body or a card of it can't be had: what would stand in is not what was shared.
    """
    reading = address.read(dict(parse_qsl(query)), address.Kit.of(owner))
    if reading is None or not reading.notes.keys().isdisjoint(("body", "card1", "card2")):
        return {}
    return {"reading": reading, "setup": reading.setup, "prediction": predict(reading)}
