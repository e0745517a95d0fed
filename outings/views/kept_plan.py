"""Plans that are kept, as outings."""

from http import HTTPStatus

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from kit.views.shared import keeper, say
from outings.forms import OutingForm
from outings.models import Outing, OutingPlan
from outings.plans.in_view import PlanInView
from outings.views.plan import shown_plan
from pages.deleted import keep_before, take_back
from pages.limits import at_most
from pages.refusals import Refused

GONE = "This outing has been deleted since: keep the plan anew, as it stands here."


@require_POST
@at_most(200, per="user_or_ip")
def keep_plan(request: HttpRequest) -> HttpResponse:
    """Keeps the plan that is sent as an outing, or in place of that of a kept one."""
    found, form = PlanInView.sent(request), OutingForm(request.POST)
    if found.planned is None or not form.is_valid():
        return shown_plan(request, found, form)
    owner = keeper(request)
    with transaction.atomic():
        outing = form.keep_for(owner, frames=0)
        found.save_to(OutingPlan(outing=outing))
    say(request, "The plan is kept.", undo=reverse("outing-delete", args=[outing.pk]))
    return redirect("outing-plan", outing.pk)


@require_safe
@at_most(600, per="user_or_ip")
def kept_plan(request: HttpRequest, pk: int) -> HttpResponse:
    """A plan that is kept, as it was, with what becomes of it now."""
    outing = _planned(request, pk)
    return shown_plan(request, PlanInView.of_kept(outing.plan, request.user), outing=outing)


@require_POST
@at_most(200, per="user_or_ip")
def save_plan(request: HttpRequest, pk: int) -> HttpResponse:
    """The plan that is sent takes the place of the one that is kept, with its name and notes."""
    found = PlanInView.sent(request)
    outing = Outing.objects.planned_by(request.user).filter(pk=pk).first()
    if outing is None:
        found.faults.append(GONE)
        return shown_plan(request, found, OutingForm(request.POST))
    form = OutingForm(request.POST, instance=outing)
    if found.planned is None or not form.is_valid():
        return shown_plan(request, found, form, outing=outing)
    token = keep_before(outing.plan, [Outing.objects.get(pk=pk), *outing.plan.periods.all()])
    with transaction.atomic():
        form.save()
        found.save_to(outing.plan)
    say(request, "The plan is saved.", undo=reverse("outing-undo-plan", args=[pk, token]))
    return redirect("outing-plan", pk)


@require_POST
def undo_plan(request: HttpRequest, pk: int, token: str) -> HttpResponse:
    """The plan is as it was before it was last saved."""
    outing = _planned(request, pk)
    plan = outing.plan
    rows = take_back(plan, token)
    if not rows:
        raise Refused(["The plan has been saved again since, or too long ago: nothing is undone."])
    with transaction.atomic():
        plan.periods.all().delete()
        for row in rows:
            row.save()
        # What is undone was a change, too, of which another tab is told.
        Outing.objects.filter(pk=pk).update(version=outing.version + 1)
    say(request, "The plan is as it was.")
    return redirect("outing-plan", pk)


@require_POST
def tick(request: HttpRequest, pk: int) -> HttpResponse:
    """What is ticked of the checklist is done, and nothing else is."""
    plan = _planned(request, pk).plan
    found = PlanInView.of_kept(plan, request.user)
    sent = request.POST.getlist("done")
    plan.ticked = [item.key for item in found.checklist if item.key in sent]
    plan.save(update_fields=["ticked"])
    if request.htmx:  # type: ignore[attr-defined]
        return HttpResponse(status=HTTPStatus.NO_CONTENT)
    say(request, "The checklist is saved.")
    return redirect("outing-plan", pk)


def _planned(request: HttpRequest, pk: int) -> Outing:
    """The visitor's outing that has a plan."""
    outing: Outing = get_object_or_404(Outing.objects.planned_by(request.user), pk=pk)
    return outing
