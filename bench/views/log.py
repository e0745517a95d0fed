"""The log of runs: what is shown of it, and how it goes out and comes in."""

from typing import Any

from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from bench.columns import MatchForm, remember, remembered
from bench.example import Example
from bench.log_forms import LogFilter, RunsForm
from bench.models import RunQuerySet, readings_of
from bench.range_bars import charts_of
from bench.run_file import BadRuns, as_json, read_runs, rows_of, save_runs
from bench.tasks import wait_for_example
from kit.csv_cells import NoTable, table_text
from kit.models.shared import sample_is_shown
from kit.views.shared import ITEMS_ON_A_PAGE, keeper, say
from pages.downloads import as_file
from pages.limits import at_most
from pages.render import render_page_or_part
from setups.kit import Kit

RUNS_AT_ONCE = 10  # in memory, with all their moments


@require_safe
def bench(request: HttpRequest) -> HttpResponse:
    """The log of all runs, the newest first, and the bodies that were tested."""
    chosen = LogFilter(request.GET, visitor=request.user)
    page = Paginator(chosen.found.select_related("body"), ITEMS_ON_A_PAGE)
    shown = page.get_page(request.GET.get("page"))
    context = {
        "filter": chosen,
        "page": shown,
        "runs": readings_of(list(shown), request.user),
        "has_runs": bool(chosen.bodies),
        "bodies": chosen.bodies,
    }
    is_asked_for = sample_is_shown(request.user) or "example" in request.GET
    if not context["has_runs"] and is_asked_for and (example := Example.of_sample_kit()):
        context |= _of_example(request, example)
    return render_page_or_part(request, "bench/bench.html", "bench/_example.html", context)


@require_POST
def example_copy(request: HttpRequest) -> HttpResponse:
    """The body of the example, with its runs, becomes the visitor's own."""
    example = Example.of_sample_kit()
    if example is None:
        raise Http404("The sample kit no longer has the body of the example.")
    revision = example.copy_to(keeper(request))
    say(request, f"{revision.words}, with its runs and their cards.")
    return redirect("bench-body", revision.changed.slug)


@require_safe
def runs_csv(request: HttpRequest) -> HttpResponseBase:
    """The runs that the log shows, a line each."""
    lines = table_text(rows_of(_chosen(request).iterator()))
    return as_file(StreamingHttpResponse(lines, "text/csv; charset=utf-8"), "runs.csv")


@require_safe
def runs_json(request: HttpRequest) -> HttpResponseBase:
    """The same with the moments of strokes and taps, and what was predicted."""
    runs = _chosen(request).with_moments().iterator(chunk_size=RUNS_AT_ONCE)
    return as_file(StreamingHttpResponse(as_json(runs), "application/json"), "runs.json")


@require_http_methods(["GET", "HEAD", "POST"])
@at_most(200, per="user_or_ip")
def bench_lines(request: HttpRequest) -> HttpResponse:
    """Many runs at once: tables that others publish, and files of the log."""
    posted = (request.POST, request.FILES) if request.method == "POST" else ()
    form, match = RunsForm(*posted, visitor=request.user), None
    if form.is_valid():
        told = form.cleaned_data
        try:
            match = MatchForm.of_table(told["text"], request.POST, remembered(request.session))
            usual = {"body": told["body"], "method": told["method"]}
            kit, matched = Kit.of(request.user, with_past=True), match.matched if match else {}
            received = save_runs(read_runs(told["text"], kit, usual, matched), keeper(request))
        except (BadRuns, NoTable) as error:
            form.tell(error.sentences)
        else:
            remember(request.session, matched)
            say(request, received.words)
            return redirect("bench")
    status = 422 if form.errors else 200
    return render(request, "bench/lines.html", {"form": form, "match": match}, status=status)


def _of_example(request: HttpRequest, example: Example) -> dict[str, Any]:
    report = example.learning.report
    if report is None:
        return {"example": example, "waiting": wait_for_example(request, example.learning)}
    return {"example": example, "report": report, **charts_of(report)}


def _chosen(request: HttpRequest) -> RunQuerySet:
    chosen = LogFilter(request.GET, visitor=request.user)
    return chosen.found.select_related("body")
