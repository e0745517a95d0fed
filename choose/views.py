"""Choose: the cheapest cards that do a job, on screen and as a table."""

from itertools import chain
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse
from django.urls import reverse
from django.views.decorators.http import require_safe

from choose import evaluating, need_address
from choose.example import example
from choose.page import ChoicePage
from choose.rows import CardRow
from choose.tasks import leave_to_worker
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from engine.cards.standards import Form
from engine.selection.stories import STORIES
from kit.csv_cells import table_text
from kit.models.shared import sample_is_shown
from pages.downloads import as_file
from pages.render import render_page_or_part
from setups import keys
from setups.kit import Kit
from setups.pins import Pins

COLUMNS = ("card", "owned", "price", "currency", "verdict", "why", "at_its_best", "desk")


@require_safe
def choose(request: HttpRequest) -> HttpResponse:
    """The cheapest cards that do what the need in the address asks for, and every card with why."""
    kit = Kit.of(request.user)
    reading = need_address.read(request.GET.dict(), kit)
    pins = Pins.of(request.GET.getlist(keys.PIN), kit)
    asked = request.GET
    stopped, goes_on = "stop" in asked, "go" in asked  # of work that is done in the background
    work_s = 0 if stopped or goes_on else evaluating.WORK_S
    page = reading and ChoicePage(reading, work_s=work_s, page=asked.get("page", ""))
    waiting = page and leave_to_worker(request, page, stopped=stopped)
    context = {
        "page": page,
        "waiting": waiting,
        "example": example() if waiting and not goes_on and sample_is_shown(request.user) else None,
        "pins": pins,
        "any_formats": need_address.ANY_FORMATS,
        "stories": STORIES,
        "forms": list(Form),
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
    }
    address_of_view = f"{reverse('choose')}?{reading.address}{pins.query}" if reading else None
    return render_page_or_part(
        request,
        "choose/choose.html",
        "choose/_choose.html",
        context,
        address=None if goes_on else address_of_view,
    )


@require_safe
def choice_csv(request: HttpRequest) -> HttpResponseBase:
    """One line a card: its price, what came of it and why, and the best that it is part of."""
    reading = need_address.read(request.GET.dict(), Kit.of(request.user))
    page = reading and ChoicePage(reading, work_s=evaluating.WORK_S)
    if not page or page.choice is None:
        raise Http404("There is no choice at this address, or it is not worked out yet.")
    lines = table_text(chain([COLUMNS], map(_line, page.rows)))
    return as_file(StreamingHttpResponse(lines, "text/csv; charset=utf-8"), "choice.csv")


def _line(row: CardRow) -> tuple[Any, ...]:
    now, shown = row.evaluated.priced.now, row.shown
    desk = f"{reverse('desk')}?{shown.query}" if shown else ""
    return (
        row.name, row.evaluated.candidate.owned, row.price, now.currency if now else "",
        row.verdict, row.why, shown.cards if shown else "", desk,
    )  # fmt: skip
