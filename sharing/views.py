"""Links to a card, a set-up or a table for others to look at: making, listing and revoking."""

from typing import Any
from urllib.parse import parse_qsl, urlencode

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST, require_safe

from accounts.models import User
from bench.measured import results_of
from bench.models import Run, readings_of
from desk.shown import Shown
from kit.models import Body, Card, Visitor
from kit.views.cards import card_context
from kit.views.shared import account_required, mine, say, signed_in, visible
from outings.models import Outing
from outings.views.field_sheet import body_sheet_context, sheet_context
from pages.limits import at_most
from pages.qr_code import qr_code
from setups import keys
from setups.kit import Kit
from setups.pins import Pins
from setups.prediction import predict
from setups.reader import Reading, read_query
from sharing.models import MOST_SHARES, Share, SharedScreen
from table.body_table import LEAD, RATES, WAYS, table_of
from table.views import START, table_context


@account_required
@require_POST
@at_most(120, per="user")
def share_card(request: HttpRequest, slug: str) -> HttpResponse:
    """A link to a card, with its price and state if that is asked for."""
    card, with_state = visible(Card, request, slug), "with_state" in request.POST
    return _made(request, "card", screen=SharedScreen.CARD, card=card, with_state=with_state)


@account_required
@require_POST
@at_most(120, per="user")
def share_setup(request: HttpRequest) -> HttpResponse:
    """A link to a set-up of the Desk, with the visitor's own body and cards."""
    written = _written_out(request)
    if written is None:
        say(request, "This is not a set-up of the Desk; nothing was shared.")
        return redirect("desk")
    return _made(request, "set-up", setup=urlencode(written))


@account_required
@require_POST
@at_most(120, per="user")
def share_table(request: HttpRequest) -> HttpResponse:
    """A link to the table of one of the visitor's bodies, with all their cards in it."""
    written = _written_out(request)
    if written is None:
        say(request, "This is not a table; nothing was shared.")
        return redirect("table")
    asked = dict(parse_qsl(request.POST["setup"]))
    shown = {key: asked[key][:10] for key in (LEAD, RATES, WAYS) if key in asked}
    return _made(request, "table", screen=SharedScreen.TABLE, setup=urlencode(written | shown))


@account_required
@require_POST
@at_most(120, per="user")
def share_results(request: HttpRequest, slug: str) -> HttpResponse:
    """A link to what the visitor's runs of one of their bodies have shown."""
    body = mine(Body, request, slug)
    of_body = urlencode({keys.BODY: body.slug})
    return _made(request, "table", screen=SharedScreen.RESULTS, setup=of_body)


@account_required
@require_POST
@at_most(120, per="user")
def share_sheet(request: HttpRequest, pk: int) -> HttpResponse:
    """A link to the field sheet of one of the visitor's outings."""
    outing = get_object_or_404(Outing.objects.planned_by(request.user), pk=pk)
    return _made(request, "field sheet", screen=SharedScreen.OUTING_SHEET, outing=outing)


@account_required
@require_POST
@at_most(120, per="user")
def share_body_sheet(request: HttpRequest) -> HttpResponse:
    """A link to the field sheet of a body, with the set-ups that are pinned."""
    written = _written_out(request)
    if written is None:
        say(request, "This is no sheet of a body; nothing was shared.")
        return redirect("desk")
    pins = Pins.of(request.POST.getlist(keys.PIN), Kit.of(request.user))
    pinned = [urlencode(one.reading.setup.address) for one in pins.all]
    return _made(
        request,
        "field sheet",
        screen=SharedScreen.BODY_SHEET,
        setup=urlencode(written),
        pinned=pinned,
    )


def _written_out(request: HttpRequest) -> dict[str, str] | None:
    """The address of the set-up that is sent, with every choice; None where it is none.

    What the owner adds later is another default, not another link.
    """
    asked = request.POST.get("setup", "")[: keys.LONGEST_SETUP]
    reading = read_query(asked, Kit.of(request.user)) if parse_qsl(asked) else None
    return reading.setup.address if reading else None


@transaction.atomic
def _made(request: HttpRequest, what: str, **shared: Any) -> HttpResponse:
    owner = User.objects.select_for_update(no_key=True).get(pk=signed_in(request).pk)
    if owner.shares.working().count() >= MOST_SHARES:
        share, told = None, f"You share {MOST_SHARES} links already: stop sharing one first."
    else:
        share = Share.objects.create(owner=owner, **shared)
        told = f"Anybody with the first link below sees that {what}, and can change nothing."
    if request.htmx:  # type: ignore[attr-defined]
        return render(request, "sharing/_made.html", {"share": share, "told": told})
    say(request, told)
    return redirect("shares")


@account_required
@require_safe
def shares(request: HttpRequest) -> HttpResponse:
    """The working links of a visitor."""
    working = (
        Share.objects.working().filter(owner_id=request.user.pk).select_related("card", "outing")
    )
    return render(request, "sharing/shares.html", {"shares": working})


@account_required
@require_POST
def revoke(request: HttpRequest, pk: int) -> HttpResponse:
    """The end of a link."""
    share = get_object_or_404(Share.objects.working(), owner_id=request.user.pk, pk=pk)
    share.revoked_at = timezone.now()
    share.save(update_fields=["revoked_at"])
    say(request, f"The link to {share} no longer works.")
    return redirect("shares")


@never_cache
@require_safe
def shared(request: HttpRequest, token: str) -> HttpResponse:
    """What somebody shares, for looking at only, and nothing else of theirs.

    A card is held against the bodies and readers of whoever looks.
    """
    with_all = Share.objects.select_related("owner", "card", "outing__plan")
    share = with_all.filter(token=token).first()
    if share is None:
        raise Http404("Nothing is shared under this link.")
    gone = share.is_gone
    response = (
        render(request, "sharing/revoked.html", status=410) if gone else _seen(request, share)
    )
    response["X-Robots-Tag"] = "noindex"
    return response


def _seen(request: HttpRequest, share: Share) -> HttpResponse:
    """The screen that a link shows."""
    if share.card:
        context = card_context(share.card, request.user, request.GET)
        context |= {"shared": True, "with_state": share.with_state, "priced_for": share.owner}
        return render(request, "kit/card.html", context)
    if share.outing:
        context = sheet_context(share.outing, share.owner, with_sample=True)
        context |= {"shared": True, "qr_code": qr_code(request.build_absolute_uri())}
        return render(request, "outings/field_sheet.html", context)
    if share.screen == SharedScreen.RESULTS:
        return _shared_results(request, share)
    if share.screen == SharedScreen.TABLE:
        return _shared_table(request, share)
    if share.screen == SharedScreen.BODY_SHEET:
        return _shared_body_sheet(request, share)
    return render(request, "sharing/setup.html", _shown_setup(share.setup, share.owner))


def _shared_body_sheet(request: HttpRequest, share: Share) -> HttpResponse:
    kit = Kit.of(share.owner, with_sample=True)
    reading = read_query(share.setup, kit)
    if reading is None or not _is_whole(reading):
        return render(request, "sharing/setup.html")
    context = body_sheet_context(reading, Pins.of(share.pinned, kit))
    context |= {"shared": True, "qr_code": qr_code(request.build_absolute_uri())}
    return render(request, "outings/body_sheet.html", context)


def _shown_setup(query: str, owner: Visitor) -> dict[str, Any]:
    """The set-up in `query`, of the kit of `owner`, for others to look at.

    Empty when its body or a card of it can't be had: what would stand in is not what was shared.
    """
    reading = read_query(query, Kit.of(owner, with_sample=True))
    if reading is None or not _is_whole(reading):
        return {}
    prediction = predict(reading.setup)
    return {
        "reading": reading, "setup": reading.setup, "prediction": prediction,
        "shown": Shown(prediction),
    }  # fmt: skip


def _shared_table(request: HttpRequest, share: Share) -> HttpResponse:
    """The table as the kit of its owner is now; the rows that follow when a page asks for them."""
    shown = table_of(Kit.of(share.owner, with_sample=True), share.setup)
    context: dict[str, Any] = {"shared": True}
    if shown and _is_whole(shown.reading):
        at = reverse("shared", args=[share.token])
        context |= table_context(shown, request.GET.get(START, ""), at)
    rows_only = context.get("earlier") and request.htmx  # type: ignore[attr-defined]
    return render(request, "table/_rows.html" if rows_only else "sharing/table.html", context)


def _shared_results(request: HttpRequest, share: Share) -> HttpResponse:
    slug = dict(parse_qsl(share.setup)).get(keys.BODY, "")
    body = Body.objects.owned_by(share.owner).current().filter(slug=slug).first()
    runs = Run.objects.made_by(share.owner).filter(body=body).select_related("body")
    found = results_of(readings_of(runs, share.owner)) if body else []
    return render(request, "sharing/results.html", {"body": body or "A body", "results": found})


def _is_whole(reading: Reading) -> bool:
    """Whether nothing stands in for the body or a card that was named."""
    return not {keys.BODY, keys.card(1), keys.card(2)} & reading.notes.keys()
