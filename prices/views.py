"""Price lists, the price service, prices noted by hand, and the table of exchange rates."""

from typing import Any

from django.conf import settings
from django.contrib.auth.decorators import login_required
from django.core.cache import cache
from django.core.paginator import Paginator
from django.db import transaction
from django.db.models import Count
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.timezone import localdate
from django.views.decorators.http import require_POST, require_safe

from kit.models import Card
from kit.views.shared import say, signed_in
from pages.downloads import as_file
from pages.limits import at_most
from pages.redirects import back_to
from prices import lists
from prices.forms import ListForm, NoteForm, RateForm
from prices.history import sparkline
from prices.models import ExchangeRate, Offer, PriceList, key_of
from prices.money import USUAL_CURRENCY, prices_of
from prices.service import ALL_IN_ALL_S, ServiceFailed, fetch, offers_in
from prices.stand_in import made_up_list

CARDS_ON_A_PAGE = 50
FETCHING = "fetching-prices"


@require_safe
def prices(request: HttpRequest) -> HttpResponse:
    """The lists that the visitor knows, and what currencies are worth."""
    return _page(request)


def _page(request: HttpRequest, status: int = 200, **forms: Any) -> HttpResponse:
    lists = PriceList.objects.annotate(count=Count("offers")).order_by("-on", "shop")
    page = Paginator(_kinds_of_cards(request), CARDS_ON_A_PAGE).get_page(request.GET.get("page"))
    priced = prices_of(list(page), request.user)
    context = {
        "page": page,
        "cards": [(card, priced[card.pk], sparkline(priced[card.pk])) for card in page],
        "own": lists.owned_by(request.user),
        "sample": lists.offered_to(request.user).filter(owner=None),
        "rates": ExchangeRate.objects.offered_to(request.user),
        "list_form": ListForm(initial={"on": localdate()}),
        "rate_form": RateForm(initial={"on": localdate(), "against": "EUR"}),
        "service": _has_service(),
        "made_up": not settings.PRICE_SERVICE,
    }
    return render(request, "prices/prices.html", context | forms, status=status)


def _kinds_of_cards(request: HttpRequest) -> list[Card]:
    """One card of each kind that the visitor sees: several of one kind have one price."""
    cards = Card.objects.offered_to(request.user).available()
    first: dict[str, Card] = {}
    for card in cards:
        first.setdefault(key_of(card.maker, card.name), card)
    return list(first.values())


@login_required
@require_POST
def receive(request: HttpRequest) -> HttpResponse:
    """A price list from a file: all of it, or every fault in it and the good lines to keep."""
    form = ListForm(request.POST, request.FILES)
    if not form.is_valid():
        return _page(request, 422, list_form=form)
    try:
        data = form.cleaned_data["file"].read(lists.MOST_BYTES + 1)
        offers = lists.read_csv(data, form.usual())
    except lists.BadList as error:
        return _page(
            request,
            422,
            list_form=form,
            faults=error.faults,
            good=len(error.good),
            good_text=lists.list_text(error.good),
        )
    _keep(request, offers)
    return redirect("prices")


@login_required
@require_POST
def receive_good(request: HttpRequest) -> HttpResponse:
    """The good lines of a list that had bad ones."""
    usual = lists.Usual("", localdate(), USUAL_CURRENCY)
    try:
        offers = lists.read_csv(request.POST.get("good", "").encode(), usual)
    except lists.BadList as error:
        return _page(request, 422, faults=error.faults)
    _keep(request, offers)
    return redirect("prices")


@login_required
@require_safe
def export(request: HttpRequest) -> HttpResponse:
    """All prices of the visitor's, as `receive` takes them."""
    own = Offer.objects.filter(price_list__owner=request.user.pk).select_related("price_list")
    text = lists.list_text(own.order_by("price_list__on", "maker", "name"))
    response = HttpResponse(text, content_type="text/csv; charset=utf-8")
    return as_file(response, "ondata-prices.csv")


@login_required
@require_POST
@at_most(30, per="user")
def fetch_list(request: HttpRequest) -> HttpResponse:
    """The list that the price service has today; one visitor after the other asks it."""
    if not _has_service():
        raise Http404("No price service is set up.")
    if not cache.add(FETCHING, True, timeout=2 * ALL_IN_ALL_S):
        busy = "Somebody is fetching the list just now. Try again in a few seconds."
        return _page(request, 503, trouble=busy)
    try:
        _keep(request, _todays_list())
    except ServiceFailed as error:
        return _page(request, 502, trouble=str(error))
    finally:
        cache.delete(FETCHING)
    return redirect("prices")


def _has_service() -> bool:
    return bool(settings.PRICE_SERVICE) or settings.SAMPLE_MODE


def _todays_list() -> list[Offer]:
    """From the service that the settings name; in the sample mode else a made-up one."""
    usual = lists.Usual("", localdate(), USUAL_CURRENCY)
    if settings.PRICE_SERVICE:
        return fetch(settings.PRICE_SERVICE, usual)
    cards = list(Card.objects.of_sample_kit())
    return offers_in(made_up_list(cards, localdate()), usual)


def _keep(request: HttpRequest, offers: list[Offer]) -> None:
    saved = lists.save(offers, signed_in(request))
    kinds = {offer.card_key for offer in offers}
    cards = Card.objects.visible_to(request.user).current()
    known = {key_of(card.maker, card.name) for card in cards} & kinds
    named = ", ".join(map(str, saved[:3])) + (" and others" if len(saved) > 3 else "")
    say(
        request,
        f"{len(offers)} prices saved ({named}); {len(known)} of them are of cards in your kit or "
        "the sample kit.",
    )


@login_required
@require_POST
def drop(request: HttpRequest, pk: int) -> HttpResponse:
    """The end of one of the visitor's lists."""
    price_list = get_object_or_404(PriceList, owner_id=request.user.pk, pk=pk)
    price_list.delete()
    say(request, f"The prices of {price_list} are gone.")
    return redirect("prices")


@login_required
@require_POST
def note(request: HttpRequest) -> HttpResponse:
    """A price noted by hand; then back to where it was noted."""
    form = NoteForm(request.POST)
    back = back_to(request.POST.get("back", ""), reverse("prices"))
    if not form.is_valid():
        faults = [fault for of_field in form.errors.values() for fault in of_field]
        context = {"form": form, "back": back.url, "faults": faults}
        by_part = request.htmx  # type: ignore[attr-defined]
        template = "prices/_faults.html" if by_part else "prices/note.html"
        response = render(request, template, context, status=200 if by_part else 422)
        if by_part:
            response["HX-Retarget"], response["HX-Reswap"] = "find .price-fault", "innerHTML"
        return response
    lists.save([form.offer()], signed_in(request))
    return back


@login_required
@require_POST
def rate(request: HttpRequest) -> HttpResponse:
    """A rate, in place of the visitor's own of before for the same two currencies."""
    form = RateForm(request.POST)
    if not form.is_valid():
        return _page(request, 422, rate_form=form)
    pair = {name: form.cleaned_data[name] for name in ("currency", "against")}
    said = {name: form.cleaned_data[name] for name in ("rate", "on")}
    own = ExchangeRate.objects.owned_by(signed_in(request))
    with transaction.atomic():
        # A rate counts in both directions: one is enough.
        own.filter(currency=pair["against"], against=pair["currency"]).delete()
        noted, _ = ExchangeRate.objects.update_or_create(
            owner_id=request.user.pk, **pair, defaults=said
        )
    say(request, f"{noted}: prices are added up by that.")
    return redirect("prices")


@login_required
@require_POST
def drop_rate(request: HttpRequest, pk: int) -> HttpResponse:
    """The end of one of the visitor's rates."""
    row = get_object_or_404(ExchangeRate, owner_id=request.user.pk, pk=pk)
    row.delete()
    say(request, f"{row} is gone; nothing is added up by it any more.")
    return redirect("prices")
