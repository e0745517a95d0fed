"""Field sheets: of a planned outing, and of a body."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.utils.timezone import localtime
from django.views.decorators.http import require_safe

from kit.models import Visitor
from kit.views.shared import has_account
from outings.models import Outing
from outings.plans.field_sheet import situations, situations_of_body
from outings.plans.in_view import PlanInView
from pages.limits import at_most
from pages.qr_code import qr_code
from setups import keys
from setups.kit import Kit
from setups.pins import Pins
from setups.reader import Reading, read_address


@require_safe
@at_most(600, per="user_or_ip")
def field_sheet(request: HttpRequest, pk: int) -> HttpResponse:
    """The plan on one page, to be read at arm's length."""
    outing = get_object_or_404(Outing.objects.planned_by(request.user), pk=pk)
    context = sheet_context(outing, request.user)
    if has_account(request.user):  # and can sign in on a phone
        context["qr_code"] = qr_code(request.build_absolute_uri())
    return render(request, "outings/field_sheet.html", context)


@require_safe
@at_most(600, per="user_or_ip", method="GET")
def body_sheet(request: HttpRequest) -> HttpResponse:
    """A body on one page: the set-up of the address, and the others that it is used with."""
    kit = Kit.of(request.user)
    reading = read_address(request.GET.dict(), kit)
    pins = Pins.of(request.GET.getlist(keys.PIN), kit)
    context: dict[str, Any] = {"reading": reading, "pins": pins}
    if reading:
        context = body_sheet_context(reading, pins)
        if reading.setup.body.is_sample or has_account(request.user):
            address = f"{reverse('body-sheet')}?{reading.address}{pins.query}"
            context["qr_code"] = qr_code(request.build_absolute_uri(address))
    return render(request, "outings/body_sheet.html", context)


def body_sheet_context(reading: Reading, pins: Pins) -> dict[str, Any]:
    """What the sheet shows of a body; the browser keeps it for no network."""
    return {
        "reading": reading, "pins": pins, "is_kept_offline": True, "made": localtime(),
        "situations": situations_of_body(reading, pins),
    }  # fmt: skip


def sheet_context(outing: Outing, visitor: Visitor, *, with_sample: bool = False) -> dict[str, Any]:
    """What the sheet shows of an outing of somebody's; the browser keeps it for no network."""
    found = PlanInView.of_kept(outing.plan, visitor, with_sample=with_sample)
    planned = found.planned
    return {
        "outing": outing, "planned": planned, "is_kept_offline": True, "made": localtime(),
        "situations": situations(planned) if planned else [],
    }  # fmt: skip
