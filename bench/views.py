"""The test bench: measure a burst, keep the log, and see what the runs of a body teach."""

import csv
import io
from typing import Any
from urllib.parse import parse_qsl, urlencode

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse, JsonResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from bench.bursts import FoundBurst
from bench.engine_adapter import observed_of
from bench.forms import RunForm
from bench.learning import BodyLearning
from bench.models import Run
from bench.tasks import wait_for
from desk.prediction import predict
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from engine.formats import exact
from engine.measurement.by_hand import ByHand
from engine.measurement.capture_times import find_bursts
from engine.measurement.picture_files import HEAD_BYTES, NoPicture, read_picture
from engine.measurement.picture_table import BadTable, as_line, read_pictures
from engine.typed_numbers import as_typed
from kit.models import Body
from kit.views.shared import ITEMS_ON_A_PAGE, keeper, say, signed_in, visible
from pages import background
from pages.downloads import as_file
from pages.limits import at_most
from pages.render import render_page_or_part
from setups import address, keys
from setups.address import Kit, Reading

HEADS_AT_ONCE, LONGEST_TOLD = 20, 1_500
TEST_PAGE, TEST_PART = "bench/test.html", "bench/_test.html"
BODY_PAGE, BODY_PART = "bench/body.html", "bench/_body.html"
HEADER = (
    "made", "body", "set-up", "method", "covered", "frames_at_full_speed", "did_not_slow", "frames",
    "clear_s", "left_out", "notes",
)  # fmt: skip


@require_safe
def bench(request: HttpRequest) -> HttpResponse:
    """The log of all runs, the newest first, and the bodies that were tested."""
    runs = Run.objects.made_by(request.user).select_related("body")
    page = Paginator(runs, ITEMS_ON_A_PAGE).get_page(request.GET.get("page"))
    context = {
        "page": page,
        "runs": _shown(request, list(page)),
        "bodies": Body.objects.filter(runs__in=runs).distinct(),
    }
    return render(request, "bench/bench.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def bench_test(request: HttpRequest) -> HttpResponse:
    """A set-up, the key to tap, and what was seen; sent by POST, it is saved as a run."""
    kit = Kit.of(request.user)
    if request.method == "POST":
        asked = dict(parse_qsl(request.POST.get("setup", "")[: keys.LONGEST_SETUP]))
    else:
        asked = request.GET.dict()
    reading = address.read(asked, kit)
    if reading is None:
        return render(request, "bench/no_body.html")
    if request.method == "POST":
        form = RunForm(request.POST, instance=_new_run(request, reading))
        if reading.setup.complete and form.is_valid():
            return _saved(request, form, reading)
        return _tested(request, reading, form, 422)
    return _tested(request, reading, _empty_form(reading, request.GET), 200)


@require_http_methods(["GET", "HEAD", "POST"])
@at_most(600, per="user_or_ip")
def bench_files(request: HttpRequest) -> HttpResponse:
    """The bursts in a folder of pictures, which the browser has made a table of."""
    context: dict[str, Any] = {"largest": HEAD_BYTES, "batch": HEADS_AT_ONCE}
    if request.method == "POST":
        context["table"] = table = request.POST.get("table", "")
        context["refused"] = request.POST.get("refused", "")[:LONGEST_TOLD].splitlines()
        try:
            found = find_bursts(read_pictures(table))
        except BadTable as error:
            context["faults"] = error.sentences
        else:
            context |= {"folder": found, "bursts": [FoundBurst(one) for one in found.bursts]}
    status = 422 if "faults" in context else 200
    return render(request, "bench/files.html", context, status=status)


@require_POST
@at_most(3_000, per="user_or_ip")
def bench_heads(request: HttpRequest) -> HttpResponse:
    """Lines of a table for the first parts of some files, and a sentence for what is no picture."""
    lines, refused = [], []
    sizes = request.POST.getlist("size")
    for head, size in zip(request.FILES.getlist("head")[:HEADS_AT_ONCE], sizes, strict=False):
        try:
            size_bytes = int(size) if size.isdecimal() and len(size) < 16 else 0
            picture = read_picture(head.name or "", head.read(HEAD_BYTES), size_bytes)
            lines.append(as_line(picture))
        except NoPicture as error:
            refused.append(str(error))
    return JsonResponse({"lines": lines, "refused": refused})


@require_http_methods(["GET", "HEAD", "POST"])
def run_edit(request: HttpRequest, pk: int) -> HttpResponse:
    """A run: what it says by itself, and its figures to correct."""
    run = get_object_or_404(Run.objects.made_by(request.user), pk=pk)
    reading = run.reading(Kit.of(request.user))
    if reading is None:
        return render(request, "bench/run.html", {"run": run})
    # Before the form puts on the run what was sent, which may make no sense.
    by_hand = ByHand(observed_of(run), reading.setup.rate.fps, reading.setup.hold_s)
    form = RunForm(request.POST or None, instance=run, initial={"hold_s": reading.setup.hold_s})
    if request.method == "POST" and form.is_valid():
        return _saved(request, form, reading)
    context = {"run": run, "form": form, "setup": reading.setup, "by_hand": by_hand}
    return render(request, "bench/run.html", context, status=422 if form.errors else 200)


@require_POST
def leave_out(request: HttpRequest, pk: int) -> HttpResponse:
    """Nothing is learnt from the run any more, or again."""
    run = get_object_or_404(Run.objects.made_by(signed_in(request)), pk=pk)
    run.left_out = not run.left_out
    run.save(update_fields=["left_out"])
    say(request, "The run is left out." if run.left_out else "The run counts again.")
    return redirect("bench-body", run.body.slug)


@require_POST
def delete(request: HttpRequest, pk: int) -> HttpResponse:
    """The end of a run."""
    run = get_object_or_404(Run.objects.made_by(signed_in(request)), pk=pk)
    run.delete()
    say(request, "The run is deleted.")
    return redirect("bench")


@require_safe
def bench_body(request: HttpRequest, slug: str) -> HttpResponse:
    """What the visitor's runs of a body teach; worked out in the background, while it is waited."""
    body = visible(Body, request, slug)
    learning = BodyLearning.of(body, request.user)
    answer = learning.answer if learning.runs else None
    context: dict[str, Any] = {"body": body, "runs": _shown(request, learning.runs)}
    if learning.runs and answer is None:
        wait_for(request, learning)
        context |= {"share": learning.share, "nobody_works": not background.has_worker()}
    return render_page_or_part(request, BODY_PAGE, BODY_PART, context | {"answer": answer})


@require_safe
def runs_csv(request: HttpRequest) -> HttpResponse:
    """All runs, a line each."""
    file = io.StringIO()
    lines = csv.writer(file)
    lines.writerow(HEADER)
    for run in Run.objects.made_by(request.user).select_related("body"):
        lines.writerow((
            run.made_at.isoformat(timespec="seconds"), run.body, run.setup, run.method, run.covered,
            run.frames_at_full_speed, run.did_not_slow, run.frames, run.clear_s, run.left_out,
            run.notes,
        ))  # fmt: skip
    return as_file(HttpResponse(file.getvalue(), "text/csv; charset=utf-8"), "runs.csv")


def _shown(request: HttpRequest, runs: list[Run]) -> list[tuple[Run, Reading | None]]:
    kit = Kit.of(request.user)
    return [(run, run.reading(kit)) for run in runs]


def _new_run(request: HttpRequest, reading: Reading) -> Run:
    run = Run(body=reading.setup.body)
    if request.user.is_authenticated:
        run.owner_id = request.user.pk
    return run


def _empty_form(reading: Reading, told: QueryDict) -> RunForm:
    """A form to fill in; what a burst among files has told stands in it."""
    known = {name: told[name] for name in RunForm.base_fields if name in told}
    return RunForm(initial={"hold_s": reading.setup.hold_s, "method": "tap"} | known)


def _saved(request: HttpRequest, form: RunForm, reading: Reading) -> HttpResponse:
    run = form.save(commit=False)
    hold_s = exact(form.cleaned_data["hold_s"])
    run.setup = urlencode(reading.setup.address | {keys.HOLD: hold_s})
    if run.owner_id is None:
        run.owner_id = keeper(request).pk
    run.save()
    say(request, "The run is saved.")
    return redirect("bench-body", run.body.slug)


def _tested(request: HttpRequest, reading: Reading, form: RunForm, status: int) -> HttpResponse:
    prediction = predict(reading)
    context = {
        "reading": reading,
        "setup": reading.setup,
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
        "prediction": prediction,
        "run_form": form,
        "sentence_at": "bench-test",
        "fps": as_typed(reading.setup.rate.fps),
    }
    at = f"{reverse('bench-test')}?{reading.address}"
    return render_page_or_part(request, TEST_PAGE, TEST_PART, context, address=at, status=status)
