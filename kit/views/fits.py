"""The matrix: every card against every slot."""

from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from engine.cards.compatibility import Verdict
from kit.fits import bodies_to_fit, cards_to_fit, in_every_slot

CARDS_ON_A_PAGE, BODIES_ON_A_PAGE = 40, 10


@require_safe
def fits(request: HttpRequest) -> HttpResponse:
    """The visitor's cards, or the sample kit's, against the slots of the bodies."""
    asked = request.GET
    page = Paginator(cards_to_fit(request.user), CARDS_ON_A_PAGE).get_page(asked.get("page"))
    bodies = Paginator(bodies_to_fit(request.user), BODIES_ON_A_PAGE).get_page(asked.get("bodies"))
    rows = list(zip(page, in_every_slot(page, bodies), strict=True))
    fitting = [(card, held) for card, held in rows if any(one.fits for one in held)]
    context = {
        "bodies": [(body, list(body.slots.all())) for body in bodies],
        "rows": fitting,
        "misfits": [card for card, held in rows if not any(one.fits for one in held)],
        "page": page,
        "page_of_bodies": bodies,
        "verdicts": list(Verdict),
    }
    return render(request, "kit/fits.html", context)
