"""The Desk: what will this set-up do when I hold the button down?"""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_safe
from django_htmx.http import push_url

from desk import address, engine_adapter
from desk.drawing import draw
from engine import InvalidScenario, simulate
from ondata.pages import render_page_or_part


@require_safe
def desk(request: HttpRequest) -> HttpResponse:
    """The set-up in the address, its answers and its drawing."""
    reading = address.read(request.GET.dict())
    if reading is None:
        return render_page_or_part(request, "desk/desk.html", "desk/_part.html", {})
    context = {"reading": reading, "setup": reading.setup} | _prediction(reading.setup)
    status = 404 if reading.unknown else 200
    response = render_page_or_part(request, "desk/desk.html", "desk/_part.html", context, status)
    return push_url(response, f"{reverse('desk')}?{reading.address}")


def _prediction(setup: address.Setup) -> dict[str, Any]:
    if setup.card is None:
        return {}
    try:
        result = simulate(engine_adapter.scenario_of(setup))
    except InvalidScenario as error:
        return {"impossible": list(error.sentences())}
    return {
        "result": result,
        "drawing": draw(result),
        "write": engine_adapter.write_speed(setup.card, setup.slot),
    }
