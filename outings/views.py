"""A day that was shot, replayed on other set-ups."""

from typing import Any
from urllib.parse import parse_qsl

from django.http import HttpRequest, HttpResponse, QueryDict
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from bench.from_files import SetupOfFiles
from bench.views.measuring import HEADS_AT_ONCE, LONGEST_TOLD
from engine import InvalidScenario
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from engine.day.presses import InvalidDay
from engine.measurement.picture_files import HEAD_BYTES
from engine.measurement.picture_table import BadPictureTable, read_pictures
from outings.day import DayReplay, PicturesOfDay
from outings.example import example_table
from pages.limits import at_most
from pages.render import render_page_or_part
from setups import keys
from setups.kit import Kit
from setups.pins import Pins
from setups.prediction_words import fault_words
from setups.reader import Reading, read_address

PAGE, PART = "outings/replay.html", "outings/_shot_with.html"


@require_http_methods(["GET", "HEAD", "POST"])
@at_most(600, per="user_or_ip")
def replay(request: HttpRequest) -> HttpResponse:
    """The set-up that a day was shot with; sent its table of pictures, what was and could be.

    With "of_files" the set-up is what the files tell of it; with "example" the day is a made-up
    one. Nothing of the day is kept.
    """
    kit = Kit.of(request.user)
    told = request.POST if request.method == "POST" else request.GET
    asked = request.GET.dict()
    if request.method == "POST":
        asked = dict(parse_qsl(told.get("setup", "")[: keys.LONGEST_SETUP]))
    reading, pins = read_address(asked, kit), Pins.of(told.getlist(keys.PIN), kit)
    context: dict[str, Any] = {
        "largest": HEAD_BYTES, "batch": HEADS_AT_ONCE, "scenes": DETAIL_OF_SCENE, "isos": ISO_STEPS,
        "sentence_at": "replay", "whole_day": True, "pins": pins, "reading": reading,
    }  # fmt: skip
    if reading and request.method == "POST":
        context |= _replayed(told, reading, pins)
    at = None
    if shown := context["reading"]:
        context["setup"] = shown.setup
        at = f"{reverse('replay')}?{shown.address}{pins.query}"
    status = 422 if "faults" in context else 200
    return render_page_or_part(request, PAGE, PART, context, address=at, status=status)


def _replayed(told: QueryDict, reading: Reading, pins: Pins) -> dict[str, Any]:
    """The day that is sent, or the sentences on what is wrong with it."""
    table = told.get("table", "")
    refused = told.get("refused", "")[:LONGEST_TOLD].splitlines()
    context: dict[str, Any] = {"table": table, "refused": refused}
    if not reading.setup.complete:
        return context  # the page says so
    try:
        if "example" in told:
            context |= {"is_example": True, "table": (table := example_table(reading.setup))}
        pictures = PicturesOfDay.of(read_pictures(table), told.get("camera", ""))
        if "of_files" in told or "camera" in told:
            of_files = SetupOfFiles(pictures.told, reading, pins.kit)
            reading = of_files.reading()
            context |= {"reading": reading, "questions": of_files.questions}
        if reading.setup.complete:
            day = DayReplay(reading, pictures, pins)
            context |= {"day": day, "others": day.others}
    except BadPictureTable as error:
        context["faults"] = error.sentences
    except InvalidDay as error:
        context["faults"] = list(error.sentences())
    except InvalidScenario as error:
        context["faults"] = list(fault_words(error))
    return context
