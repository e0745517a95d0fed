"""What can be taken along: a burst as JSON, table and drawing, a choice as a table.

Addresses are those of the Desk and of Choose.
"""

import csv

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_safe

from desk import address, choosing, need_address
from desk.choice_page import ChoicePage
from desk.prediction import Prediction, predict
from engine.scenario_file import result_values, scenario_values
from engine.units import NS_IN_S
from kit.csv_tables import cell


@require_safe
def burst_json(request: HttpRequest) -> HttpResponse:
    """The scenario file and its result."""
    shot = _predicted(request).shot
    burst = {"scenario": scenario_values(shot.scenario), "result": result_values(shot)}
    return _as_file(JsonResponse(burst), "burst.json")


@require_safe
def frames_csv(request: HttpRequest) -> HttpResponse:
    """One line a frame: when it was taken, and when it was wholly on its cards."""
    shot = _predicted(request).shot
    response = HttpResponse(content_type="text/csv; charset=utf-8")
    table = csv.writer(response)
    table.writerow(["frame", "taken_s", "written_s"])
    taken_s, written_s = shot.taken_ns / NS_IN_S, shot.written_ns / NS_IN_S
    table.writerows(zip(range(1, shot.frames + 1), taken_s, written_s, strict=True))
    return _as_file(response, "frames.csv")


@require_safe
def choice_csv(request: HttpRequest) -> HttpResponse:
    """One line a card: its price, what came of it and why, and the best that it is part of."""
    reading = need_address.read(request.GET.dict(), address.Kit.of(request.user))
    page = reading and ChoicePage(reading, request.user, work_s=choosing.WORK_S)
    if not page or page.choice is None:
        raise Http404("There is no choice at this address, or it is not worked out yet.")
    response = HttpResponse(content_type="text/csv; charset=utf-8")
    table = csv.writer(response)
    table.writerow(["card", "owned", "price", "currency", "verdict", "why", "at_its_best", "desk"])
    for row in page.rows:
        now, shown = row.weighed.priced.now, row.shown
        desk = f"{reverse('desk')}?{shown.query}" if shown else ""
        values = (
            row.name, row.weighed.candidate.owned, row.price, now.currency if now else "",
            row.verdict, row.why, shown.cards if shown else "", desk,
        )  # fmt: skip
        table.writerow(map(cell, values))
    return _as_file(response, "choice.csv")


@require_safe
def burst_svg(request: HttpRequest) -> HttpResponse:
    """The drawing, with its words and colours in it."""
    prediction = _predicted(request)
    context = {"prediction": prediction, "setup": prediction.setup, "result": prediction.shot}
    response = render(request, "desk/burst.svg", context, content_type="image/svg+xml")
    return _as_file(response, "burst.svg")


def _predicted(request: HttpRequest) -> Prediction:
    reading = address.read(request.GET.dict(), address.Kit.of(request.user))
    prediction = predict(reading) if reading else None
    if prediction is None or prediction.result is None:
        raise Http404("There is no burst at this address.")
    return prediction


def _as_file(response: HttpResponse, name: str) -> HttpResponse:
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
