"""A day that was shot, replayed on other set-ups."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from bench.views.measuring import HEADS_AT_ONCE
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from engine.measurement.picture_files import HEAD_BYTES
from outings.forms import OutingForm
from outings.replays.in_view import DayInView
from pages.limits import at_most
from pages.render import render_page_or_part

PAGE, PART = "outings/replay.html", "outings/_shot_with.html"


@require_http_methods(["GET", "HEAD", "POST"])
@at_most(600, per="user_or_ip")
def replay(request: HttpRequest) -> HttpResponse:
    """The set-up that a day was shot with; sent its table of pictures, what was and could be.

    With "of_files" the set-up is what the files tell of it; with "example" the day is a made-up
    one, with "kept" one of the visitor's outings. Nothing of a day that is sent is kept.
    """
    is_sent = request.method == "POST"
    return shown(request, DayInView.sent(request) if is_sent else DayInView.asked(request))


def shown(
    request: HttpRequest, found: DayInView, outing_form: OutingForm | None = None, **more: Any
) -> HttpResponse:
    """The page of a day and of the set-up in view, with what is wrong in `outing_form`."""
    reading, pins = found.reading, found.pins
    context = {
        "found": found, "reading": reading, "setup": reading.setup if reading else None,
        "pins": pins, "day": found.day, "faults": found.faults, "table": found.table,
        "largest": HEAD_BYTES, "batch": HEADS_AT_ONCE, "scenes": DETAIL_OF_SCENE, "isos": ISO_STEPS,
        "sentence_at": "replay", "whole_day": True,
        "outing_form": outing_form, **more,
    }  # fmt: skip
    at = f"{reverse('replay')}?{reading.address}{pins.query}" if reading else None
    status = 422 if found.faults or (outing_form and outing_form.errors) else 200
    return render_page_or_part(request, PAGE, PART, context, address=at, status=status)
