"""Compare: pinned set-ups side by side."""

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_safe

from compare.side_by_side import examples, side_by_side
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from engine.formats import exact
from pages.render import render_page_or_part
from setups import keys
from setups.in_view import now_pinned, remembered
from setups.kit import Kit
from setups.pins import Pins

LONGEST_MOMENT = 20
SWAPPED = (
    keys.HOLD,
    keys.SCENE,
    keys.ISO,
    keys.card(1),
)  # what can be swapped in all set-ups at once


@require_safe
def compare(request: HttpRequest) -> HttpResponse:
    """Pinned set-ups on one time axis, and the differences in words."""
    parts = {key: value for key in SWAPPED if (value := request.GET.get(f"all-{key}", ""))}
    at = request.GET.get("at", "")[:LONGEST_MOMENT]
    kit = Kit.of(request.user)
    pins = Pins.of(request.GET.getlist(keys.PIN), kit)
    is_example = not pins.queries
    if is_example:
        pins = examples(kit, remembered(request))
    shown = side_by_side(pins.swapped(parts) if parts else pins, at)
    kept = Pins([row.pin.query for row in shown.rows], kit)
    if not is_example:
        now_pinned(request, kept)
    context = {
        "shown": shown,
        "pins": kept,
        "is_example": is_example,
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
    }
    return render_page_or_part(
        request,
        "compare/compare.html",
        "compare/_compare.html",
        context,
        address=f"{reverse('compare')}?at={exact(round(shown.at_s, 2))}{kept.query}",
    )
