"""Ways to measure: a burst by its files or its sound, and a new card against its label."""

import time
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.utils.timezone import localdate
from django.views.decorators.http import require_http_methods, require_POST

from bench.forms import CardCheckForm, MarksForm, SoundForm
from bench.found_bursts import FoundBurst, FoundFolder
from bench.picture_form import PicturesForm
from engine.measurement.capture_times import find_bursts
from engine.measurement.picture_files import HEAD_BYTES, NoPicture, read_picture
from engine.measurement.picture_table import as_line
from kit.models import Card, CardEvent
from kit.views.shared import visible
from pages.limits import at_most
from pages.render import render_page_or_part

HEADS_AT_ONCE, LONGEST_TOLD = 20, 1_500
WORK_S = 0.5  # on one batch: what a camera has written takes a tenth of it
SOUND_PAGE, SOUND_PART = "bench/sound.html", "bench/_marks.html"


@require_http_methods(["GET", "HEAD", "POST"])
@at_most(600, per="user_or_ip")
def bench_files(request: HttpRequest) -> HttpResponse:
    """The bursts in a folder of pictures, which the browser has made a table of."""
    context: dict[str, Any] = {"largest": HEAD_BYTES, "batch": HEADS_AT_ONCE}
    if request.method == "POST":
        context["refused"] = request.POST.get("refused", "")[:LONGEST_TOLD].splitlines()
        form = PicturesForm(request.POST, request.FILES)
        if form.is_valid():
            found = find_bursts(form.cleaned_data["pictures"])
            bursts = [FoundBurst.of_files(one) for one in found.bursts]
            context |= {"folder": found, "bursts": bursts, "found": FoundFolder(bursts)}
        else:
            context["faults"] = form.sentences
        context["table"] = form.lines
    status = 422 if "faults" in context else 200
    return render(request, "bench/files.html", context, status=status)


@require_POST
@at_most(3_000, per="user_or_ip")
def bench_heads(request: HttpRequest) -> HttpResponse:
    """Lines of a table for the first parts of some files, and a sentence for what is no picture."""
    lines, refused = [], []
    until = time.monotonic() + WORK_S
    sizes = request.POST.getlist("size")
    for head, size in zip(request.FILES.getlist("head")[:HEADS_AT_ONCE], sizes, strict=False):
        if time.monotonic() > until:
            refused.append(f"{head.name} was not looked at: those before it took too long.")
            continue
        try:
            size_bytes = int(size) if size.isdecimal() and len(size) < 16 else 0
            picture = read_picture(head.name or "", head.read(HEAD_BYTES), size_bytes)
            lines.append(as_line(picture))
        except NoPicture as error:
            refused.append(str(error))
    return JsonResponse({"lines": lines, "refused": refused})


@require_http_methods(["GET", "HEAD", "POST"])
@at_most(600, per="user_or_ip")
def bench_sound(request: HttpRequest) -> HttpResponse:
    """The strokes of a recording, or as they were corrected by hand."""
    if request.method == "POST" and "times" in request.POST:
        return _marked(request, MarksForm(request.POST), {})
    form = SoundForm(request.POST, request.FILES) if request.method == "POST" else SoundForm()
    if form.is_valid():
        heard = form.cleaned_data["sound"]
        return _marked(request, MarksForm.of(heard), {"sure": heard.sure, "form": SoundForm()})
    status = 422 if form.errors else 200
    return render(request, SOUND_PAGE, {"form": form}, status=status)


def _marked(request: HttpRequest, marks: MarksForm, context: dict[str, Any]) -> HttpResponse:
    context = {"form": SoundForm(), "marks": marks, "found": marks.burst} | context
    status = 422 if marks.errors else 200
    return render_page_or_part(request, SOUND_PAGE, SOUND_PART, context, status=status)


@require_http_methods(["GET", "HEAD", "POST"])
def card_check(request: HttpRequest, slug: str) -> HttpResponse:
    """The steps of a check, and what they have shown."""
    card = visible(Card, request, slug)
    form = CardCheckForm(*([request.POST] if request.method == "POST" else []), card=card)
    context = {"card": card, "form": form}
    if form.is_valid() and form.check:
        event = CardEvent.FAILURE if form.check.is_bad else CardEvent.CHECKED
        words = " ".join(one.words for one in form.check.findings)
        entry = {"on": localdate().isoformat(), "event": event.value, "words": words[:200]}
        context |= {"check": form.check, "entry": entry}
    status = 422 if form.errors else 200
    return render(request, "bench/card_check.html", context, status=status)
