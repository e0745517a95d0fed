"""What the visitor's runs of a body teach, and the kit that uses it."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from bench import keeping
from bench.drawings import MOST_PERCENT, error_lines
from bench.keeping import Keeping
from bench.learning import BodyLearning
from bench.measured import record_of, results_of
from bench.models import Run, readings_of
from bench.moving import copy_with_runs
from bench.range_bars import charts_of
from bench.tasks import wait_for
from bench.tests_to_make import next_tests
from kit.document import BadDocument
from kit.models import Body
from kit.views.shared import mine, say, signed_in, visible
from pages.render import render_page_or_part
from setups.kit import Kit
from setups.reader import read_address

BODY_PAGE, BODY_PART = "bench/body.html", "bench/_body.html"
NEXT_PAGE, NEXT_PART = "bench/next.html", "bench/_next.html"


@require_safe
def bench_body(request: HttpRequest, slug: str) -> HttpResponse:
    """What the visitor's runs of a body teach; worked out in the background, while it is waited."""
    body = visible(Body, request, slug)
    learning = BodyLearning.of(body, request.user)
    report = learning.report if learning.runs else None
    record = record_of(learning.readings[::-1])
    context: dict[str, Any] = {
        "body": body,
        "runs": learning.readings,
        "record": record,
        "errors": error_lines(record),
        "most_percent": MOST_PERCENT,
    }
    if learning.runs and report is None:
        context |= _waiting(request, learning)
    elif report and not body.is_sample:
        context["keeping"] = Keeping(body, request.user, report)
    if report:
        context |= charts_of(report)
    return render_page_or_part(request, BODY_PAGE, BODY_PART, context | {"report": report})


@require_safe
def bench_next(request: HttpRequest) -> HttpResponse:
    """Which run would make the prediction of a set-up surer."""
    reading = read_address(request.GET.dict(), Kit.of(request.user))
    if reading is None:
        return render(request, "bench/no_body.html")
    learning = BodyLearning.of(reading.setup.body, request.user)
    context: dict[str, Any] = {"reading": reading, "setup": reading.setup, "runs": learning.runs}
    if learning.bodies is None:
        context |= _waiting(request, learning)
    elif reading.setup.complete:
        context["next"] = next_tests(learning, reading)
    return render_page_or_part(request, NEXT_PAGE, NEXT_PART, context)


@require_POST
def keep(request: HttpRequest, slug: str) -> HttpResponse:
    """Writes what the runs of a body teach to the visitor's body and cards."""
    kept = _mine(request, slug)
    if kept is None:
        say(request, "The runs have changed: see first what they teach now.")
        return redirect("bench-body", slug)
    try:
        revision = kept.keep()
    except BadDocument as error:
        say(request, f"The kit can't have these figures: {error}.")
    else:
        say(request, "The Desk, the Table and Choose use the learnt figures now.", revision)
    return redirect("bench-body", slug)


@require_POST
def take_back(request: HttpRequest, slug: str) -> HttpResponse:
    """Puts back the figures that the kit had before anything was learnt of a body."""
    body = mine(Body, request, slug)
    revision = keeping.take_back(body, signed_in(request))
    say(request, "The kit has its figures from before the runs again.", revision)
    return redirect("bench-body", slug)


@require_POST
def copy_body(request: HttpRequest, slug: str) -> HttpResponse:
    """A body of the sample kit, with its runs, becomes the visitor's own."""
    body = visible(Body, request, slug)
    if not body.is_sample:
        return redirect("bench-body", slug)
    revision = copy_with_runs(body, signed_in(request))
    say(request, f"{revision.words}, with its runs and their cards.")
    return redirect("bench-body", revision.changed.slug)


@require_safe
def results(request: HttpRequest, slug: str) -> HttpResponse:
    """What the visitor's runs of a body have shown, to print and to share."""
    body = visible(Body, request, slug)
    runs = Run.objects.made_by(request.user).filter(body=body).select_related("body")
    found = results_of(readings_of(runs, request.user))
    return render(request, "bench/results.html", {"body": body, "results": found})


def _waiting(request: HttpRequest, learning: BodyLearning) -> dict[str, Any]:
    return {"share": learning.share, "waiting": wait_for(request, learning)}


def _mine(request: HttpRequest, slug: str) -> Keeping | None:
    """What can be kept of the visitor's own body; None while that is not worked out."""
    body, visitor = mine(Body, request, slug), signed_in(request)
    report = BodyLearning.of(body, visitor).report
    return Keeping(body, visitor, report) if report else None
