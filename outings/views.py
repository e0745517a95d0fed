"""A day that was shot, replayed on other set-ups."""

from typing import Any
from urllib.parse import parse_qsl

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from bench.from_files import SetupOfFiles
from bench.views.measuring import HEADS_AT_ONCE, LONGEST_TOLD
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from engine.day.presses import InvalidDay
from engine.measurement.picture_files import HEAD_BYTES
from engine.measurement.picture_table import BadPictureTable, read_pictures
from outings.day import DayReplay, PicturesOfDay
from pages.limits import at_most
from pages.render import render_page_or_part
from setups import keys
from setups.kit import Kit
from setups.pins import Pins
from setups.reader import read_address

PAGE, PART = "outings/replay.html", "outings/_shot_with.html"


@require_http_methods(["GET", "HEAD", "POST"])
@at_most(600, per="user_or_ip")
def replay(request: HttpRequest) -> HttpResponse:
    """The set-up that a day was shot with; sent its table of pictures, what was and could be.

    With "of_files" the set-up is what the files tell of it. Nothing of the day is kept.
    """
    kit = Kit.of(request.user)
    asked = request.GET.dict()
    told = request.POST if request.method == "POST" else request.GET
    pins = Pins.of(told.getlist(keys.PIN), kit)
    if request.method == "POST":
        asked = dict(parse_qsl(request.POST.get("setup", "")[: keys.LONGEST_SETUP]))
    reading = read_address(asked, kit)
    context: dict[str, Any] = {
        "largest": HEAD_BYTES,
        "batch": HEADS_AT_ONCE,
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
        "sentence_at": "replay",
        "whole_day": True,
        "pins": pins,
    }
    if reading and request.method == "POST":
        context["table"] = table = request.POST.get("table", "")
        context["refused"] = request.POST.get("refused", "")[:LONGEST_TOLD].splitlines()
        try:
            pictures = PicturesOfDay.of(read_pictures(table))
            if "of_files" in request.POST:
                of_files = SetupOfFiles(pictures.told, reading, kit)
                reading, context["questions"] = of_files.reading(), of_files.questions
            if reading.setup.complete:
                day = DayReplay(reading, pictures, pins)
                context |= {"day": day, "others": day.others}
        except BadPictureTable as error:
            context["faults"] = error.sentences
        except InvalidDay as error:
            context["faults"] = list(error.sentences())
    if reading:
        context |= {"reading": reading, "setup": reading.setup}
    at = f"{reverse('replay')}?{reading.address}{pins.query}" if reading else None
    status = 422 if "faults" in context else 200
    return render_page_or_part(request, PAGE, PART, context, address=at, status=status)
