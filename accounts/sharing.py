"""Links to one card or one set-up, for others to look at; and taking them back."""

from django.contrib.auth.decorators import login_required
from django.core.signing import BadSignature
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST, require_safe

from accounts.models import LONGEST_SETUP, Share
from desk.views import shown_setup
from kit.models import Card
from kit.views.cards import card_context
from kit.views.shared import say, signed_in, visible


@login_required
@require_POST
def share_card(request: HttpRequest, slug: str) -> HttpResponse:
    """A link to a card."""
    Share.objects.create(owner_id=signed_in(request).pk, card=visible(Card, request, slug))
    say(request, "Whoever has the first link below sees that card, and can change nothing.")
    return redirect("account")


@login_required
@require_POST
def share_setup(request: HttpRequest) -> HttpResponse:
    """A link to a set-up of the Desk, with the visitor's own body and cards."""
    setup = request.POST.get("setup", "").replace("\0", "")
    if not setup or len(setup) > LONGEST_SETUP:
        say(request, "That is no set-up of the Desk; nothing was shared.")
        return redirect("desk")
    Share.objects.create(owner_id=signed_in(request).pk, setup=setup)
    say(request, "Whoever has the first link below sees that set-up, and can change nothing.")
    return redirect("account")


@login_required
@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """The end of a link."""
    share = get_object_or_404(Share.objects.working(), owner_id=request.user.pk, pk=pk)
    share.revoked_at = timezone.now()
    share.save(update_fields=["revoked_at"])
    say(request, f"The link to {share} leads nowhere any more.")
    return redirect("account")


@never_cache
@require_safe
def shared(request: HttpRequest, token: str) -> HttpResponse:
    """What somebody shares, for looking at only, and nothing else of theirs.

    A card is held against the bodies and readers of whoever looks.
    """
    try:
        share = Share.of(token)
    except (BadSignature, Share.DoesNotExist):
        raise Http404("Nobody has shared anything under this link.") from None
    if share.revoked_at:
        return render(request, "accounts/taken_back.html", status=410)
    if share.card:
        context = card_context(share.card, request.user, request.GET) | {"shared": True}
        return render(request, "kit/card.html", context)
    return render(request, "desk/shared.html", shown_setup(share.setup, share.owner))
