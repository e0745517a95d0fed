"""The Desk: what will this set-up do when I hold the button down?"""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_safe

from desk import address, engine_adapter
from desk.drawing import draw
from engine import InvalidScenario, simulate
from pages.render import render_page_or_part

PAGE, PART = "desk/desk.html", "desk/_part.html"


@require_safe
def desk(request: HttpRequest) -> HttpResponse:
    """The set-up in the address, its answers and its drawing."""
    reading = address.read(request.GET.dict())
    if reading is None:
        return render_page_or_part(request, PAGE, PART, {})
    return render_page_or_part(
        request,
        PAGE,
        PART,
        {"reading": reading, "setup": reading.setup, "hold_range": address.HOLD_S}
        | _prediction(reading.setup),
        address=f"{reverse('desk')}?{reading.address}",
        status=404 if reading.unknown else 200,
    )


def _prediction(setup: address.Setup) -> dict[str, Any]:
    card = setup.card
    if card is None:
        return {}
    try:
        result = simulate(engine_adapter.scenario_of(setup, card))
    except InvalidScenario as error:
        return {"impossible": list(error.sentences())}
    return {
        "result": result,
        "drawing": draw(result),
        "write": engine_adapter.write_speed(card, setup.slot),
    }
