"""The field sheet of a planned outing."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils.timezone import localtime
from django.views.decorators.http import require_safe

from kit.models import Visitor
from kit.views.shared import has_account
from outings.field_sheet import situations
from outings.models import Outing
from outings.plan_in_view import PlanInView
from pages.limits import at_most
from pages.qr_code import qr_code


@require_safe
@at_most(600, per="user_or_ip")
def field_sheet(request: HttpRequest, pk: int) -> HttpResponse:
    """The plan on one page, to be read at arm's length."""
    outing = get_object_or_404(Outing.objects.planned_by(request.user), pk=pk)
    context = sheet_context(outing, request.user)
    if has_account(request.user):  # and can sign in on a phone
        context["qr_code"] = qr_code(request.build_absolute_uri())
    return render(request, "outings/field_sheet.html", context)


def sheet_context(outing: Outing, visitor: Visitor, *, with_sample: bool = False) -> dict[str, Any]:
    """What the sheet shows of an outing of somebody's; the browser keeps it for no network."""
    found = PlanInView.of_kept(outing.plan, visitor, with_sample=with_sample, with_changes=False)
    planned = found.planned
    return {
        "outing": outing, "planned": planned, "is_kept_offline": True, "made": localtime(),
        "situations": situations(planned) if planned else [],
    }  # fmt: skip
