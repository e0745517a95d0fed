"""A burst as files: scenario and result as JSON, its frames as a table, its drawing.

Addresses are those of the Desk.
"""

from collections.abc import Iterator
from itertools import chain

from django.http import (
    Http404,
    HttpRequest,
    HttpResponse,
    HttpResponseBase,
    JsonResponse,
    StreamingHttpResponse,
)
from django.shortcuts import render
from django.views.decorators.http import require_safe

from desk.shown import Shown
from engine.burst.result import Result
from engine.files.scenario_file import result_values, scenario_values
from engine.quantities import NS_IN_S
from kit.csv_cells import table_text
from pages.downloads import as_file
from setups.kit import Kit
from setups.prediction import Prediction, predict
from setups.reader import read_address


@require_safe
def burst_json(request: HttpRequest) -> HttpResponse:
    """The scenario file and its result."""
    shot = _predicted(request).shot
    burst = {"scenario": scenario_values(shot.scenario), "result": result_values(shot)}
    return as_file(JsonResponse(burst), "burst.json")


@require_safe
def frames_csv(request: HttpRequest) -> HttpResponseBase:
    """One line a frame: when it was taken, and when it was wholly on its cards."""
    lines = _lines(_predicted(request).shot)
    return as_file(StreamingHttpResponse(lines, "text/csv; charset=utf-8"), "frames.csv")


def _lines(shot: Result) -> Iterator[str]:
    """The table of frames in pieces of some thousand lines."""
    taken_s, written_s = shot.taken_ns / NS_IN_S, shot.written_ns / NS_IN_S
    frames = zip(range(1, shot.frames + 1), taken_s, written_s, strict=True)
    yield from table_text(chain([("frame", "taken_s", "written_s")], frames))


@require_safe
def burst_svg(request: HttpRequest) -> HttpResponse:
    """The drawing, with its words and colours in it."""
    prediction = _predicted(request)
    context = {
        "prediction": prediction, "shown": Shown(prediction), "setup": prediction.setup,
        "result": prediction.shot,
    }  # fmt: skip
    response = render(request, "desk/burst.svg", context, content_type="image/svg+xml")
    return as_file(response, "burst.svg")


def _predicted(request: HttpRequest) -> Prediction:
    reading = read_address(request.GET.dict(), Kit.of(request.user))
    prediction = predict(reading.setup) if reading else None
    if prediction is None or prediction.result is None:
        raise Http404("There is no burst at this address.")
    return prediction
