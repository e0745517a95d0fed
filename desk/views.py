"""The Desk: what one set-up does, and what would change it."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_safe

from desk.shown import Shown
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from pages.render import render_page_or_part
from setups import keys
from setups.changes import Changes
from setups.difference import SetupDifference
from setups.kit import Kit
from setups.pins import Pins
from setups.prediction import predict
from setups.reader import read_address, read_query
from setups.setup import HOLD_S

PAGE, PART = "desk/desk.html", "desk/_part.html"


@require_safe
def desk(request: HttpRequest) -> HttpResponse:
    """The set-up in the address, its answers, its drawing, and what would change it."""
    kit = Kit.of(request.user)
    reading = read_address(request.GET.dict(), kit)
    if reading is None:
        return render_page_or_part(request, PAGE, PART, {})
    was = request.GET.get(keys.BEFORE, "")
    before = read_query(was, kit) if was else None
    prediction = predict(reading.setup, before.setup if before else None)
    pins = Pins.of(request.GET.getlist(keys.PIN), kit)
    context: dict[str, Any] = {
        "pins": pins,
        "reading": reading,
        "setup": reading.setup,
        "before": before,
        "hold_range": HOLD_S,
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
        "prediction": prediction,
        "shown": Shown(prediction),
        "how_sure": SetupDifference(predict(before.setup), prediction).how_sure
        if before and prediction.tried
        else "",
        "changes": Changes(reading, prediction),
    }
    return render_page_or_part(
        request,
        PAGE,
        PART,
        context,
        address=f"{reverse('desk')}?{reading.address_beside(before)}{pins.query}",
        status=404 if reading.unknown else 200,
    )
