"""The test bench: measure a burst, keep the log, and see what the runs of a body teach."""

from collections.abc import Sequence
from copy import copy
from math import ceil
from typing import cast
from urllib.parse import parse_qsl, urlencode

from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from bench.drawings import RunDrawing
from bench.engine_adapter import by_hand_of
from bench.forms import RunForm
from bench.from_files import SetupOfFiles
from bench.keeping import learnt_on
from bench.measured import NAMES, compared, predicted_of
from bench.models import Run, readings_of
from bench.tests_to_make import steps_of
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from engine.formats import exact
from engine.quantities import S_IN_MINUTE
from engine.typed_numbers import as_typed
from kit.models import Body
from kit.views.shared import keeper, say, signed_in
from pages.deleted import bring_back, deleted_rows, keep_deleted
from pages.render import render_page_or_part
from setups import keys
from setups.in_view import remembered
from setups.kit import Kit
from setups.prediction import predict
from setups.reader import Reading, read_address, read_query

MINUTES_BEFORE = 1
TYPED = [name for name in RunForm.Meta.fields if name != "hold_s"]  # which is in the set-up
FOLLOWING = ("setup", "predicted", "is_confirmed", "version")  # from what is typed in the form
CHECKLIST = (
    "Manual exposure at 1/1000 s or shorter, fixed white balance, noise reduction and corrections "
    "off: else the camera waits for them, not for the card.",
    "Manual focus, stabiliser off: waiting for focus looks like a full buffer.",
    "A freshly formatted card and a charged battery.",
)
TEST_PAGE, TEST_PART = "bench/test.html", "bench/_test.html"


@require_http_methods(["GET", "HEAD", "POST"])
def bench_test(request: HttpRequest) -> HttpResponse:
    """A set-up, the key to tap, and what was seen; sent by POST, it is saved as a run.

    With "fill", what is sent only stands in the form, for the set-up to be chosen.
    """
    kit = Kit.of(request.user)
    if request.method == "POST":
        asked = keys.sent_with(request.POST) or remembered(request)
    else:
        asked = request.GET.dict()
    reading = read_address(asked, kit)
    if reading is None:
        return render(request, "bench/no_body.html")
    questions: list[str] = []
    if "fill" in request.POST:
        of_files = SetupOfFiles(request.POST.dict(), reading, kit)
        reading, questions = of_files.reading(), of_files.questions
    if request.method == "POST" and "fill" not in request.POST:
        fps = reading.setup.rate.fps
        form = RunForm(request.POST, instance=_new_run(request, reading), fps=fps)
        if reading.setup.complete and not reading.notes and form.is_valid():
            return _saved(request, form, reading)
        return _tested(request, reading, form, 422)
    told = request.POST if request.method == "POST" else request.GET
    return _tested(request, reading, _empty_form(reading, told), 200, questions)


@require_safe
def three_minutes(request: HttpRequest) -> HttpResponse:
    """Which bursts to shoot with a body and a card, and which of them were shot today."""
    reading = read_address(request.GET.dict(), Kit.of(request.user))
    if reading is None:
        return render(request, "bench/no_body.html")
    runs = Run.objects.made_by(request.user).filter(body=reading.setup.body)
    steps = steps_of(reading, runs) if reading.setup.complete else []
    context = {
        "reading": reading,
        "setup": reading.setup,
        "covered": request.GET.get("covered") == "on",
        "checklist": CHECKLIST,
        "steps": steps,
        "guide": request.GET.urlencode(),
        "minutes": ceil(sum(step.takes_s for step in steps) / S_IN_MINUTE) + MINUTES_BEFORE,
        "all_done": steps and all(step.done for step in steps),
    }
    return render(request, "bench/three_minutes.html", context)


@require_http_methods(["GET", "HEAD", "POST"])
def run_edit(request: HttpRequest, pk: int) -> HttpResponse:
    """A run: what it says by itself, and its figures to correct."""
    run = get_object_or_404(Run.objects.made_by(request.user).with_moments(), pk=pk)
    [(_, reading)] = readings_of([run], request.user)
    if reading is None:
        return render(request, "bench/run.html", {"run": run})
    by_hand = by_hand_of(run, reading.setup)
    drawing = RunDrawing(
        reading.setup.name,
        run,
        reading.setup.hold_s,
        reading.setup.rate.fps,
        predict(reading.setup).result,
    )
    context = {
        "by_hand": by_hand, "drawing": drawing, "compared": compared(run, by_hand), "names": NAMES,
    }  # fmt: skip
    form = RunForm(
        request.POST or None, instance=copy(run), initial={"hold_s": reading.setup.hold_s},
        fps=reading.setup.rate.fps,
    )  # fmt: skip
    if request.method == "POST" and form.is_valid():
        return _saved(request, form, reading)
    context |= {"run": run, "form": form, "setup": reading.setup}
    return render(request, "bench/run.html", context, status=422 if form.errors else 200)


@require_POST
def leave_out(request: HttpRequest, pk: int) -> HttpResponse:
    """Nothing is learnt from the run any more, or again."""
    return _turned(request, pk, "left_out", "The run is left out.", "The run counts again.")


@require_POST
def confirm(request: HttpRequest, pk: int) -> HttpResponse:
    """A run that doesn't fit the others is right all the same, and counts; or no longer."""
    waits = "The run waits for your answer again."
    return _turned(request, pk, "is_confirmed", "The run counts as it is.", waits)


@require_POST
def delete(request: HttpRequest, pk: int) -> HttpResponse:
    """The end of a run; asks first where figures of the kit were learnt from it."""
    run = get_object_or_404(Run.objects.made_by(signed_in(request)).with_moments(), pk=pk)
    asks = run.taught and "sure" not in request.POST
    if asks and learnt_on(run.body, request.user):
        return render(request, "bench/run_delete.html", {"run": run})
    keep_deleted(run)
    run.delete()
    say(request, "The run is deleted.", undo=reverse("run-restore", args=[pk]))
    return redirect("bench")


@require_POST
def restore(request: HttpRequest, pk: int) -> HttpResponse:
    """The run that was deleted is there again, as it was."""
    visitor = signed_in(request)
    for run in cast("list[Run]", deleted_rows(Run, pk)):
        bodies = Body.objects.visible_to(visitor).filter(pk=run.body_id)
        if run.owner_id != visitor.pk or not bodies.exists():
            continue
        if words := Run.objects.made_by(visitor).no_room_words(1, len(run.strokes_s)):
            say(request, words)
            return redirect("bench")
        bring_back([run])
        say(request, "The run is there again.")
        return redirect("run", pk)
    say(request, "The run can't be brought back any more.")
    return redirect("bench")


def _turned(request: HttpRequest, pk: int, flag: str, on: str, off: str) -> HttpResponse:
    """Turns a flag of the visitor's run over, and says what it is now; undone the same way."""
    run = get_object_or_404(Run.objects.made_by(signed_in(request)), pk=pk)
    setattr(run, flag, not getattr(run, flag))
    run.save(update_fields=[flag])
    say(request, on if getattr(run, flag) else off, undo=request.path)
    return redirect("bench-body", run.body.slug)


def _new_run(request: HttpRequest, reading: Reading) -> Run:
    run = Run(body=reading.setup.body)
    if request.user.is_authenticated:
        run.owner_id = request.user.pk
    return run


def _empty_form(reading: Reading, told: QueryDict) -> RunForm:
    """A form to fill in; what a burst among files has told stands in it."""
    known = {name: told[name] for name in RunForm.base_fields if name in told}
    usual = {"hold_s": reading.setup.hold_s, "method": "tap"}
    return RunForm(initial=usual | known, fps=reading.setup.rate.fps)


def _saved(request: HttpRequest, form: RunForm, reading: Reading) -> HttpResponse:
    run = form.save(commit=False)
    hold_s = exact(form.cleaned_data["hold_s"])
    run.setup = urlencode(reading.setup.address | {keys.HOLD: hold_s})
    if run.owner_id is None:
        run.owner_id = keeper(request).pk
    if run.pk is None and (shot := read_query(run.setup, Kit.of(request.user))):
        run.predicted = predicted_of(predict(shot.setup))
    elif "hold_s" in form.changed_data:  # what is predicted later is no prediction of it
        run.predicted = {}
    if run.pk:
        run.version += 1
        run.save(update_fields=[*TYPED, *FOLLOWING])
    else:
        run.save()
    say(request, "The run is saved.")
    if guide := request.POST.get("guide", "")[: keys.LONGEST_SETUP]:
        return redirect(f"{reverse('three-minutes')}?{urlencode(parse_qsl(guide))}")
    return redirect("bench-body", run.body.slug)


def _tested(
    request: HttpRequest,
    reading: Reading,
    form: RunForm,
    status: int,
    questions: Sequence[str] = (),
) -> HttpResponse:
    prediction = predict(reading.setup)
    of_body = Run.objects.made_by(request.user).filter(body=reading.setup.body)
    context = {
        "reading": reading,
        "setup": reading.setup,
        "questions": questions,
        "unused": of_body.not_taught().count(),
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
        "prediction": prediction,
        "checklist": CHECKLIST,
        "guide": (request.POST or request.GET).get("guide", ""),
        "run_form": form,
        "sentence_at": "bench-test",
        "fps": as_typed(reading.setup.rate.fps),
    }
    at = f"{reverse('bench-test')}?{reading.address}"
    return render_page_or_part(request, TEST_PAGE, TEST_PART, context, address=at, status=status)
