"""Outings that are kept: their list, each with its replayed day, and what goes out of it."""

from typing import cast

from django.core.paginator import Paginator
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from kit.csv_cells import table_text
from kit.views.shared import keeper, say, signed_in
from outings.forms import OutingForm
from outings.models import Outing, OutingDay, number_of_row
from outings.records.exports import burst_rows, replay_file
from outings.replays.day import DayReplay
from outings.replays.in_view import DayInView
from outings.replays.runs import keep_runs
from outings.views.replay import shown
from pages.deleted import bring_back, deleted_rows, keep_deleted
from pages.downloads import as_file
from pages.limits import at_most
from pages.refusals import Refused
from setups.kit import Kit

OUTINGS_ON_A_PAGE = 20


@require_safe
def outings(request: HttpRequest) -> HttpResponse:
    """All outings that are kept."""
    kit, listed = Kit.of(request.user, with_past=True), Outing.objects.listed(request.user)
    page = Paginator(listed, OUTINGS_ON_A_PAGE).get_page(request.GET.get("page"))
    context = {"outings": [one.shown(kit) for one in page], "page": page}
    return render(request, "outings/outings.html", context)


@require_POST
@at_most(200, per="user_or_ip")
def keep(request: HttpRequest) -> HttpResponse:
    """Keeps the day that is sent, with its set-up, as an outing."""
    found = DayInView.sent(request)
    form = OutingForm(request.POST)
    if found.day is None or not form.is_valid():
        return shown(request, found, form)
    owner = keeper(request)
    with transaction.atomic():
        outing = form.keep_for(owner, frames=found.day.frames, on=found.day.on)
        OutingDay.of(found.day, outing).save()
    say(request, "The day is kept.", undo=reverse("outing-delete", args=[outing.pk]))
    return redirect("outing", outing.pk)


@require_POST
@at_most(200, per="user_or_ip")
def keep_with(request: HttpRequest) -> HttpResponse:
    """Keeps the day that is sent with an outing that was planned, or logged in the field."""
    found = DayInView.sent(request)
    if found.day is None:
        return shown(request, found)
    without_day = Outing.objects.without_day(signed_in(request))
    outing = without_day.filter(pk=number_of_row(request.POST.get("outing", ""))).first()
    if outing is None:
        found.faults = ["Choose the outing that these pictures are of."]
        return shown(request, found)
    Outing.objects.made_by(request.user).require_room(found.day.frames, outings=0)
    with transaction.atomic():
        OutingDay.of(found.day, outing).save()
        if outing.on is None:
            outing.on = found.day.on
            outing.save(update_fields=["on"])
    undo = reverse("outing-drop-day", args=[outing.pk])
    say(request, f"The day is kept with {outing}.", undo=undo)
    return redirect("outing-record", outing.pk)


@require_safe
@at_most(600, per="user_or_ip")
def outing(request: HttpRequest, pk: int) -> HttpResponse:
    """A kept day, replayed; of an outing that is only planned its plan, else its field log."""
    if not_shot := Outing.objects.without_day(request.user).filter(pk=pk).first():
        return redirect("outing-plan" if hasattr(not_shot, "plan") else "outing-field", pk)
    kept = _day_of(request, pk)
    return shown(request, DayInView.of_kept(kept, request), outing=kept.outing)


@require_POST
def edit(request: HttpRequest, pk: int) -> HttpResponse:
    """Another name or other notes."""
    kept = _day_of(request, pk)
    form = OutingForm(request.POST, instance=kept.outing)
    if not form.is_valid():
        found = DayInView.of_kept(kept, request)
        return shown(request, found, form, outing=kept.outing)
    form.save()
    say(request, "The outing is saved.")
    return redirect("outing", pk)


@require_POST
def keep_setup(request: HttpRequest, pk: int) -> HttpResponse:
    """The set-up and the holds that are sent are those that the day was shot with."""
    kept, found = _day_of(request, pk), DayInView.sent(request)
    if found.day is None or found.kept != kept:
        return shown(request, found)
    kept.setup, kept.holds = found.day.setup_query, list(found.day.told_s.items())
    kept.save(update_fields=["setup", "holds"])
    say(request, "The set-up is kept with the day.")
    return redirect("outing", pk)


@require_POST
def delete(request: HttpRequest, pk: int) -> HttpResponse:
    """The end of an outing, which can be brought back for a day."""
    outing = get_object_or_404(Outing.objects.made_by(signed_in(request)), pk=pk)
    keep_deleted(outing, outing.rows)
    outing.delete()
    say(request, "The outing is deleted.", undo=reverse("outing-restore", args=[pk]))
    return redirect("outings")


@require_POST
def restore(request: HttpRequest, pk: int) -> HttpResponse:
    """The outing that was deleted is there again, as it was."""
    visitor = signed_in(request)
    rows = deleted_rows(Outing, pk)
    if not rows or cast("Outing", rows[0]).owner_id != visitor.pk:
        raise Refused(["The outing can't be brought back any more."])
    frames = sum(one.frames for one in rows if isinstance(one, OutingDay))
    Outing.objects.made_by(visitor).require_room(frames)
    bring_back(rows)
    say(request, "The outing is there again.")
    return redirect("outing", pk)


@require_POST
@at_most(200, per="user_or_ip")
def make_runs(request: HttpRequest, pk: int) -> HttpResponse:
    """The long bursts of a day become runs on the Bench."""
    day = _replayed(request, pk)
    say(request, keep_runs(day, signed_in(request)).words)
    return redirect("bench-body", day.reading.setup.body.slug)


@require_safe
def bursts_csv(request: HttpRequest, pk: int) -> HttpResponseBase:
    """All bursts of a day, a line each."""
    lines = table_text(burst_rows(_replayed(request, pk)))
    return as_file(StreamingHttpResponse(lines, "text/csv; charset=utf-8"), "bursts.csv")


@require_safe
def replay_json(request: HttpRequest, pk: int) -> HttpResponse:
    """The day as the command line reads it."""
    return as_file(JsonResponse(replay_file(_replayed(request, pk))), "replay.json")


def _day_of(request: HttpRequest, pk: int) -> OutingDay:
    """The day of an outing of the visitor's."""
    days = OutingDay.objects.listed(request.user).defer(None)
    return get_object_or_404(days, outing=pk)


def _replayed(request: HttpRequest, pk: int) -> DayReplay:
    found = DayInView.of_kept(_day_of(request, pk), request)
    if found.day is None:
        raise Http404("The body of this day is not in your kit any more.")
    return found.day
