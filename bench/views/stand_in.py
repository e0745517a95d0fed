"""The made-up camera: a page to press its button on, and the files that its bursts leave."""

from dataclasses import replace
from typing import Any

from django.http import (
    Http404,
    HttpRequest,
    HttpResponse,
    HttpResponseBase,
    JsonResponse,
    StreamingHttpResponse,
)
from django.shortcuts import render
from django.utils.crypto import get_random_string
from django.views.decorators.http import require_safe

from bench.stand_in import MOST_SEEDS, StandIn, TooMuch
from engine import InvalidScenario
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from engine.measurement.synthetic_camera import strokes_s
from engine.typed_numbers import NotANumber, quantity_in
from pages.downloads import as_file
from pages.limits import at_most
from pages.render import render_page_or_part
from setups.kit import Kit
from setups.reader import read_address
from setups.setup import HOLD_S

PAGE, PART = "bench/stand_in.html", "bench/_stand_in.html"
LONGEST_PRESS_S = 60.0
KINDS = {
    "shutter.wav": ("audio/wav", StandIn.sound),
    "files.csv": ("text/csv; charset=utf-8", StandIn.table),
    "pictures.zip": ("application/zip", StandIn.pictures),
}


@require_safe
def stand_in(request: HttpRequest) -> HttpResponse:
    """A hidden body with a set-up in its hands; a new one each time, unless the address says so."""
    reading = read_address(request.GET.dict(), Kit.of(request.user))
    if reading is None:
        return render(request, "bench/no_body.html")
    seed = _seed(request) or 1 + int(get_random_string(5, "0123456789"))
    context: dict[str, Any] = {
        "reading": reading,
        "setup": reading.setup,
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
        "sentence_at": "bench-stand-in",
        "seed": seed,
    }
    if reading.setup.complete:
        camera = StandIn(reading.setup, seed)
        try:
            context |= {"hidden": camera.figures, "frames": camera.result.frames}
            faults = {"shutter.wav": camera.sound_fault, "pictures.zip": camera.files_fault}
            context["too_much"] = [fault for fault in faults.values() if fault]
            context["kinds"] = [name for name in KINDS if not faults.get(name)]
        except InvalidScenario as error:
            context["faults"] = list(error.faults.values())
    at = f"{request.path}?{reading.address}&seed={seed}"
    return render_page_or_part(request, PAGE, PART, context, address=at)


@require_safe
def stand_in_press(request: HttpRequest) -> HttpResponse:
    """When the shutter clicks while the button is down, or what comes of a press of `held` s."""
    camera = _camera(request)
    if "held" not in request.GET:
        longest = StandIn(replace(camera.setup, hold_s=LONGEST_PRESS_S), camera.seed)
        return JsonResponse({"taken_s": [round(one, 4) for one in strokes_s(longest.result)]})
    try:
        held_s = quantity_in(request.GET["held"], "s", HOLD_S)
    except NotANumber as error:
        return JsonResponse({"fault": str(error)}, status=422)
    if fault := HOLD_S.fault(held_s):
        return JsonResponse({"fault": f"A press {fault}."}, status=422)
    result = StandIn(replace(camera.setup, hold_s=held_s), camera.seed).result
    return JsonResponse({"frames": result.frames, "light_out_s": round(result.light_out_s, 3)})


@require_safe
@at_most(200, per="user_or_ip", method="GET")
def stand_in_file(request: HttpRequest, name: str) -> HttpResponseBase:
    """What a burst leaves: its sound, its files, or a table of these."""
    if name not in KINDS:
        raise Http404("The camera leaves no such file.")
    kind, make = KINDS[name]
    try:
        content = make(_camera(request))
    except TooMuch as error:
        return HttpResponse(str(error), "text/plain; charset=utf-8", 422)
    return as_file(StreamingHttpResponse(content, kind), name)


def _camera(request: HttpRequest) -> StandIn:
    """The camera of an address; raises Http404 where it can't shoot."""
    reading = read_address(request.GET.dict(), Kit.of(request.user))
    seed = _seed(request)
    if reading is None or not reading.setup.complete or seed is None:
        raise Http404("There is no such camera.")
    camera = StandIn(reading.setup, seed)
    try:
        camera.result  # noqa: B018  # to see whether it can shoot at all
    except InvalidScenario as error:
        raise Http404("The camera can't shoot this.") from error
    return camera


def _seed(request: HttpRequest) -> int | None:
    told = request.GET.get("seed", "")
    is_one = told.isascii() and told.isdigit() and len(told) < 8 and 0 < int(told) <= MOST_SEEDS
    return int(told) if is_one else None
