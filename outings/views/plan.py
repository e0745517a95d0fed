"""A day to come, planned."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from outings.forms import OutingForm
from outings.models import Outing, number_of_row
from outings.plans.in_view import PlanInView
from outings.plans.presets import PRESETS
from outings.plans.side_by_side import side_by_side as beside
from outings.tasks import try_changes, wait_for_changes
from pages.limits import at_most
from pages.render import render_page_or_part

PAGE, PART, ANSWER = "outings/plan.html", "outings/_planned_with.html", "outings/_plan_answer.html"


@require_http_methods(["GET", "HEAD", "POST"])
@at_most(600, per="user_or_ip")
def plan(request: HttpRequest) -> HttpResponse:
    """A day of the sample scenario to begin with; sent its form, what becomes of that day."""
    is_sent = request.method == "POST"
    return shown_plan(request, PlanInView.sent(request) if is_sent else PlanInView.asked(request))


@require_safe
@at_most(600, per="user_or_ip", method="GET")
def side_by_side(request: HttpRequest) -> HttpResponse:
    """Several kept plans, the latest ones if none are asked for."""
    numbers = [number_of_row(number) for number in request.GET.getlist("plan")]
    plans = Outing.objects.planned_by(request.user)
    context = {"found": beside(request.user, numbers), "plans": plans, "chosen": numbers}
    return render(request, "outings/side_by_side.html", context)


@require_POST
@at_most(3_600, per="user_or_ip")
def changes(request: HttpRequest) -> HttpResponse:
    """What would change the plan of a form, as far as it has been tried in the background."""
    found = PlanInView.sent(request, simulated=False)
    waiting = wait_for_changes(request, found)
    context = {"found": found, "waiting": waiting, "is_later": True}
    return render(request, "outings/_plan_changes.html", context)


def shown_plan(
    request: HttpRequest, found: PlanInView, outing_form: OutingForm | None = None, **more: Any
) -> HttpResponse:
    """The page of a plan, with what is wrong in `outing_form`; of what is sent only the answer."""
    reading = found.reading
    more["waiting"] = try_changes(request, found)
    context = {
        "found": found, "reading": reading, "setup": reading.setup if reading else None,
        "presets": PRESETS, "scenes": DETAIL_OF_SCENE, "isos": ISO_STEPS, "sentence_at": "plan",
        "whole_day": True, "outing_form": outing_form, **more,
    }  # fmt: skip
    is_kept = _stands_on_page_of_an_outing(request)
    at = f"{reverse('plan')}?{reading.address}" if reading and not is_kept else None
    is_sent = request.method == "POST"
    is_wrong = is_sent and (found.is_wrong or (outing_form and outing_form.errors))
    status, part = 422 if is_wrong else 200, ANSWER if is_sent else PART
    return render_page_or_part(request, PAGE, part, context, address=at, status=status)


def _stands_on_page_of_an_outing(request: HttpRequest) -> bool:
    """Whether the answer goes into the page of a kept plan, which has an address of its own."""
    page: str = request.htmx.current_url_abs_path or ""  # type: ignore[attr-defined]
    return bool(page) and not page.startswith(reverse("plan"))
