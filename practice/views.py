"""Practice: sessions of ten runs on one's own camera, and what they come to."""

from collections.abc import Iterator
from typing import Any, cast

from django.http import (
    HttpRequest,
    HttpResponse,
    HttpResponseBase,
    JsonResponse,
    StreamingHttpResponse,
)
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from engine.practice.presses import ImpossiblePresses
from engine.practice.subject_run import RUNS
from kit.csv_cells import table_text
from kit.form_fields import sentences_of
from kit.views.shared import keeper, say, signed_in
from pages.deleted import bring_back, deleted_rows, keep_deleted
from pages.downloads import as_file
from pages.limits import at_most
from pages.refusals import Refused
from pages.render import render_page_or_part
from practice.forms import PlayedForm, presses_so_far
from practice.models import PracticeRun, PracticeSession
from practice.page import SessionPage, StartPage
from practice.playing import Playing

START_PAGE, START_PART = "practice/practice.html", "practice/_start.html"
PAGE, PART = "practice/session.html", "practice/_session.html"


@require_safe
def practice(request: HttpRequest) -> HttpResponse:
    """The subjects, the set-up in hand, and how earlier sessions went."""
    return _shown_start(request, StartPage.asked(request))


@require_POST
@at_most(200, per="user_or_ip")
def begin(request: HttpRequest) -> HttpResponse:
    """A new session; its first run waits on a page of its own."""
    page = StartPage.sent(request)
    session = page.begin(keeper)
    return _shown_start(request, page) if session is None else redirect(session)


@require_safe
def session(request: HttpRequest, pk: int) -> HttpResponse:
    """The answer to the last run, or to the one that is asked for, and the next one to play."""
    return _shown(request, _playing(request, pk))


@require_safe
def strokes(request: HttpRequest, pk: int) -> HttpResponse:
    """The next run as far as it was pressed: what the camera does if nothing else happens."""
    playing = _playing(request, pk)
    if playing.next_number is None:
        return JsonResponse({"fault": "All runs of this session are played."}, status=409)
    run = playing.subject_run(playing.next_number)
    try:
        presses = presses_so_far(request.GET.get("presses", ""), run.ends_s)
    except ImpossiblePresses as error:
        return JsonResponse({"fault": error.fault}, status=422)
    return JsonResponse(SessionPage(playing, request).next_run(presses))


@require_POST
@at_most(1_200, per="user_or_ip")
def keep_run(request: HttpRequest, pk: int) -> HttpResponse:
    """Keeps the run that was played; of one that was kept before, in another tab, says so."""
    playing = _playing(request, pk)
    number = playing.next_number
    form = PlayedForm(request.POST, run=playing.subject_run(number or RUNS), number=number)
    if not form.is_valid():
        return _shown(request, playing, form)
    playing.keep(form.cleaned_data["presses"])
    return _shown(request, playing) if request.htmx else redirect(playing.session)  # type: ignore[attr-defined]


@require_POST
def delete(request: HttpRequest, pk: int) -> HttpResponse:
    """The end of a session, which can be brought back for a day."""
    found = get_object_or_404(PracticeSession.objects.made_by(signed_in(request)), pk=pk)
    keep_deleted(found, found.runs.all())
    found.delete()
    say(request, "The session is deleted.", undo=reverse("practice-restore", args=[pk]))
    return redirect("practice")


@require_POST
def restore(request: HttpRequest, pk: int) -> HttpResponse:
    """The session that was deleted is there again; what it raced may be gone since."""
    visitor = signed_in(request)
    rows = deleted_rows(PracticeSession, pk)
    if not rows or cast("PracticeSession", rows[0]).owner_id != visitor.pk:
        raise Refused(["The session can't be brought back any more."])
    mine = PracticeSession.objects.made_by(visitor)
    if words := mine.no_room_words():
        raise Refused([words])
    found = cast("PracticeSession", rows[0])
    if not mine.filter(pk=found.raced_id or 0).exists():
        found.raced = None
    bring_back(rows)
    say(request, "The session is there again.")
    return redirect("practice-session", pk)


@require_safe
def runs_csv(request: HttpRequest) -> HttpResponseBase:
    """Every run of every session, a line each."""
    lines = table_text(_lines(request))
    return as_file(StreamingHttpResponse(lines, "text/csv; charset=utf-8"), "practice.csv")


def _lines(request: HttpRequest) -> Iterator[tuple[Any, ...]]:
    yield ("day", "subject", "set-up", "runs", "run", "level", "presses", "frames", "kept",
           "possible", "reaction_s")  # fmt: skip
    mine = PracticeSession.objects.made_by(request.user)
    rows = PracticeRun.objects.filter(session__in=mine).select_related("session")
    for row in rows.order_by("session__made_at", "number").iterator():
        of = row.session
        yield (
            of.made_at.date().isoformat(), of.get_subject_display(), of.name, of.seed, row.number,
            row.level, len(row.presses), row.frames, row.kept, row.possible, of.reaction_s,
        )  # fmt: skip


def _playing(request: HttpRequest, pk: int) -> Playing:
    mine = PracticeSession.objects.made_by(request.user).select_related("raced")
    return Playing(get_object_or_404(mine, pk=pk))


def _shown_start(request: HttpRequest, page: StartPage) -> HttpResponse:
    status = 422 if request.method == "POST" else 200
    at = f"{reverse('practice')}?{page.query}" if page.reading else None
    context = page.context
    return render_page_or_part(request, START_PAGE, START_PART, context, address=at, status=status)


def _shown(request: HttpRequest, playing: Playing, form: PlayedForm | None = None) -> HttpResponse:
    page = SessionPage(playing, request)
    context = {
        "page": page,
        "session": playing.session,
        "faults": sentences_of(form) if form else [],
    }
    at = playing.session.get_absolute_url()
    status = 422 if form else 200
    return render_page_or_part(request, PAGE, PART, context, address=at, status=status)
