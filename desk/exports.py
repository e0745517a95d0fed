"""What can be taken along: a burst as JSON, table and drawing, a choice as a table.

Addresses are those of the Desk and of Choose.
"""

import csv
import io
from collections.abc import Iterator
from typing import TypeVar

from django.http import (
    Http404,
    HttpRequest,
    HttpResponse,
    HttpResponseBase,
    JsonResponse,
    StreamingHttpResponse,
)
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_safe

from desk import address, choosing, need_address
from desk.choice_page import ChoicePage
from desk.prediction import Prediction, predict
from engine.burst.result import Result
from engine.quantities import NS_IN_S
from engine.scenario_file import result_values, scenario_values
from kit.csv_tables import cell

LINES_AT_ONCE = 5_000
_Response = TypeVar("_Response", bound=HttpResponseBase)


@require_safe
def burst_json(request: HttpRequest) -> HttpResponse:
    """The scenario file and its result."""
    shot = _predicted(request).shot
    burst = {"scenario": scenario_values(shot.scenario), "result": result_values(shot)}
    return _as_file(JsonResponse(burst), "burst.json")


@require_safe
def frames_csv(request: HttpRequest) -> HttpResponseBase:
    """One line a frame: when it was taken, and when it was wholly on its cards."""
    lines = _lines(_predicted(request).shot)
    return _as_file(StreamingHttpResponse(lines, "text/csv; charset=utf-8"), "frames.csv")


def _lines(shot: Result) -> Iterator[str]:
    """The table of frames in pieces of some thousand lines."""
    yield "frame,taken_s,written_s\r\n"
    for start in range(0, shot.frames, LINES_AT_ONCE):
        piece = io.StringIO()
        frames = slice(start, start + LINES_AT_ONCE)
        taken_s, written_s = shot.taken_ns[frames] / NS_IN_S, shot.written_ns[frames] / NS_IN_S
        lines = zip(range(start + 1, shot.frames + 1), taken_s, written_s, strict=False)
        csv.writer(piece).writerows(lines)
        yield piece.getvalue()


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


def _as_file(response: _Response, name: str) -> _Response:
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
