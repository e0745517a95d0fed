"""What outings came to: the record of each, totals of all, and both as files."""

from collections.abc import Iterator

from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from kit.csv_cells import table_text
from kit.form_fields import sentences_of
from kit.models import Card
from kit.views.shared import keeper, say, signed_in
from outings.forms import ClockForm, OutingForm, OutingsFileForm, SeasonForm
from outings.models import Outing, OutingDay
from outings.plans.calendar import plan_calendar
from outings.plans.in_view import PlanInView
from outings.records.exports import note_rows, outing_rows
from outings.records.outing_file import as_json, keep_outings
from outings.records.record import record_of, records_of
from outings.records.totals import Totals
from pages.deleted import bring_back, deleted_rows, keep_deleted
from pages.downloads import as_file
from pages.limits import at_most
from pages.refusals import Refused

CSV = "text/csv; charset=utf-8"
OUTINGS_AT_ONCE = 5


@require_safe
@at_most(600, per="user_or_ip", method="GET")
def record(request: HttpRequest, pk: int) -> HttpResponse:
    """What an outing came to."""
    return _shown(request, _outing(request, pk))


@require_POST
@at_most(200, per="user_or_ip")
def begin(request: HttpRequest) -> HttpResponse:
    """An outing without a plan, to be logged in the field."""
    form = OutingForm(request.POST)
    if not form.is_valid():
        raise Refused(sentences_of(form))
    outing = form.keep_for(keeper(request), frames=0)
    say(request, "The outing is kept.", undo=reverse("outing-delete", args=[outing.pk]))
    return redirect("outing-field", outing.pk)


@require_POST
def set_clock(request: HttpRequest, pk: int) -> HttpResponse:
    """How far the clock of the camera was ahead of the phone's."""
    outing = _outing(request, pk)
    form = ClockForm(request.POST, instance=get_object_or_404(OutingDay, outing=outing))
    if not form.is_valid():
        return _shown(request, outing, form)
    form.save()
    say(request, "The clock is set.")
    return redirect("outing-record", pk)


@require_POST
def drop_day(request: HttpRequest, pk: int) -> HttpResponse:
    """The pictures are not those of this outing; its plan and its notes stay."""
    day = get_object_or_404(OutingDay, outing=_outing(request, pk))
    number = day.pk
    keep_deleted(day)
    day.delete()
    say(request, "The pictures are taken away.", undo=reverse("day-restore", args=[number]))
    return redirect("outing-record", pk)


@require_POST
def restore_day(request: HttpRequest, pk: int) -> HttpResponse:
    """The pictures that were taken away are there again."""
    mine = Outing.objects.without_day(signed_in(request))
    rows = [one for one in deleted_rows(OutingDay, pk) if isinstance(one, OutingDay)]
    if not rows or not mine.filter(pk=rows[0].outing_id).exists():
        raise Refused(["The pictures can't be brought back any more."])
    Outing.objects.made_by(request.user).require_room(rows[0].frames, outings=0)
    bring_back(rows)
    return redirect("outing-record", rows[0].outing_id)


@require_safe
@at_most(600, per="user_or_ip", method="GET")
def totals(request: HttpRequest) -> HttpResponse:
    """What all outings came to, by season and by card."""
    return _totals(request, OutingsFileForm())


@require_POST
@at_most(60, per="user_or_ip")
def receive(request: HttpRequest) -> HttpResponse:
    """Keeps the outings of a file that went out here, or elsewhere."""
    form = OutingsFileForm(request.POST, request.FILES)
    if not form.is_valid():
        return _totals(request, form)
    say(request, keep_outings(form.cleaned_data["file"], keeper(request)))
    return redirect("outings")


@require_safe
@at_most(200, per="user_or_ip", method="GET")
def outings_csv(request: HttpRequest) -> HttpResponseBase:
    """A line an outing; first the page of totals where not all of them are worked out."""
    found = Totals.of(request.user)
    if found.left:
        return redirect("outing-totals")
    return as_file(StreamingHttpResponse(table_text(outing_rows(found)), CSV), "outings.csv")


@require_safe
@at_most(200, per="user_or_ip", method="GET")
def outings_json(request: HttpRequest) -> HttpResponseBase:
    """All that is kept of all outings."""
    pieces = as_json(records_of(_all(request), request.user))
    return as_file(StreamingHttpResponse(pieces, "application/json"), "outings.json")


@require_safe
def notes_csv(request: HttpRequest, pk: int) -> HttpResponseBase:
    """The field notes of an outing."""
    of_outing = record_of(_outing(request, pk), request.user)
    rows = note_rows(of_outing.notes, of_outing.card_names)
    return as_file(StreamingHttpResponse(table_text(rows), CSV), "field-notes.csv")


@require_safe
@at_most(600, per="user_or_ip", method="GET")
def plan_ics(request: HttpRequest, pk: int) -> HttpResponse:
    """The plan for a calendar."""
    outing = get_object_or_404(Outing.objects.planned_by(request.user), pk=pk)
    found = PlanInView.of_kept(outing.plan, request.user)
    if outing.on is None or found.planned is None:
        raise Http404("This plan has no date yet, or its body is not in your kit any more.")
    address = request.build_absolute_uri(reverse("outing-plan", args=[pk]))
    told = plan_calendar(outing, found.planned, address)
    return as_file(HttpResponse(told, "text/calendar; charset=utf-8"), "plan.ics")


def _outing(request: HttpRequest, pk: int) -> Outing:
    """The visitor's outing of that number."""
    with_all = Outing.objects.made_by(request.user).select_related("day", "plan")
    outing: Outing = get_object_or_404(with_all, pk=pk)
    return outing


def _all(request: HttpRequest) -> Iterator[Outing]:
    """All outings of the visitor, a few at a time."""
    with_all = Outing.objects.made_by(request.user).select_related("day", "plan")
    return with_all.prefetch_related("field_notes", "plan__periods").iterator(OUTINGS_AT_ONCE)


def _totals(request: HttpRequest, file_form: OutingsFileForm) -> HttpResponse:
    form, found = SeasonForm(request.GET), Totals.of(request.user)
    context = {"totals": found, "seasons": found.seasons(form.begins_in), "form": form,
               "file_form": file_form}  # fmt: skip
    status = 422 if file_form.errors else 200
    return render(request, "outings/totals.html", context, status=status)


def _shown(request: HttpRequest, outing: Outing, form: ClockForm | None = None) -> HttpResponse:
    context = {
        "outing": outing, "record": record_of(outing, request.user),
        "cards": Card.objects.offered_to(request.user).available(),
        "clock": form or ClockForm(instance=getattr(outing, "day", None)),
    }  # fmt: skip
    status = 422 if form else 200
    return render(request, "outings/record.html", context, status=status)
