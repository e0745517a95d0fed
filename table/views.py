"""The Table: every format on every card at once; and one card in all one's bodies."""

import json
from collections.abc import Callable, Iterator
from http import HTTPStatus
from itertools import chain
from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_safe

from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from kit.csv_cells import table_text
from kit.models import Card
from kit.views.shared import visible
from pages.downloads import as_file
from pages.render import render_page_or_part
from setups import keys
from setups.kit import Kit
from setups.pins import Pins
from table.body_table import BodyTable, table_of
from table.card_table import CardTable
from table.cells import Cell, Lead
from table.tasks import wait_for_ranges

PAGE, PART = "table/table.html", "table/_table.html"
START = "from"
HEADER = (
    "body", "format", "fps", "to", "card1", "card2", "frames_at_full_speed", "low", "high",
    "sustained_fps", "hold_s", "frames", "clear_s", "wall_share",
)  # fmt: skip


@require_safe
def table(request: HttpRequest) -> HttpResponse:
    """The table of the body in the address."""
    shown = _table(request)
    if shown is None:
        return render_page_or_part(request, PAGE, PART, {})
    query = _query(request)
    at = f"{reverse('table')}?{query}"
    context = table_context(shown, request.GET.get(START, ""), at) | {
        "leads": list(Lead),
        "query": query,
        "pins": Pins.of(request.GET.getlist(keys.PIN), Kit.of(request.user)),
        "scenes": DETAIL_OF_SCENE,
        "isos": ISO_STEPS,
    }
    if context["earlier"] and request.htmx:  # type: ignore[attr-defined]
        return render(request, "table/_rows.html", context)
    return render_page_or_part(request, PAGE, PART, context, address=at)


def table_context(shown: BodyTable, start: str, at: str) -> dict[str, Any]:
    """What templates want of the table at the address `at`, from row `start` on."""
    place = min(int(start), len(shown.rows)) if start.isdecimal() and len(start) < 5 else 0
    pieces = list(shown.pieces(place))
    following = place + len(pieces)
    more = f"{at}{'&' if '?' in at else '?'}{START}={following}"
    return {
        "table": shown,
        "reading": shown.reading,
        "setup": shown.reading.setup,
        "pieces": pieces,
        "earlier": place,
        "at": at,
        "more_at": more if following < len(shown.rows) else "",
    }


@require_safe
def table_csv(request: HttpRequest) -> HttpResponseBase:
    """One line a cell."""
    return _file(request, "table.csv", "text/csv; charset=utf-8", _csv_lines)


@require_safe
def table_json(request: HttpRequest) -> HttpResponseBase:
    """The cells as a list of JSON objects."""
    return _file(request, "table.json", "application/json", _json_pieces)


@require_safe
def card_table(request: HttpRequest, slug: str) -> HttpResponse:
    """One card in all the visitor's bodies and formats, beside the best of their other cards."""
    card = visible(Card, request, slug)
    shown = CardTable(card, Kit.of(request.user))
    return render(request, "table/card.html", {"card": card, "table": shown})


def _table(request: HttpRequest) -> BodyTable | None:
    return table_of(Kit.of(request.user), _query(request))


def _file(
    request: HttpRequest, name: str, kind: str, pieces: Callable[[BodyTable], Iterator[str]]
) -> HttpResponseBase:
    """The table as a file, or a page that waits until all its ranges are worked out."""
    shown = _table(request)
    if shown is None:
        raise Http404("There is no body to make a table of.")
    query = _query(request)
    waiting = wait_for_ranges(request, shown, query)
    if waiting:
        context = {"waiting": waiting, "query": query}
        return render(request, "table/preparing.html", context, status=HTTPStatus.ACCEPTED)
    return as_file(StreamingHttpResponse(pieces(shown), kind), name)


def _query(request: HttpRequest) -> str:
    """The query that gives this view again, from its first row on."""
    kept = [(key, value) for key, value in request.GET.items() if value and key != START]
    return urlencode(kept)


def _values(cell: Cell) -> dict[str, Any]:
    setup, ranges = cell.setup, cell.ranges
    cards = [str(side.card) for side in setup.sides]
    depth = ranges.frames_at_full_speed
    told = (
        str(setup.body), setup.recording.name, setup.rate.fps, setup.arranged, cards[0],
        cards[1] if len(cards) > 1 else None, cell.frames_at_full_speed, depth.low, depth.high,
        cell.sustained_fps, setup.hold_s, cell.frames, round(cell.clear_s, 3),
        round(ranges.wall_share, 3),
    )  # fmt: skip
    return dict(zip(HEADER, told, strict=True))


def _csv_lines(shown: BodyTable) -> Iterator[str]:
    yield from table_text([HEADER])
    for row in chain.from_iterable(shown.batches()):
        yield from table_text(_values(cell).values() for cell in row.cells if cell)


def _json_pieces(shown: BodyTable) -> Iterator[str]:
    before = "["
    for row in chain.from_iterable(shown.batches()):
        for cell in filter(None, row.cells):
            yield f"{before}{json.dumps(_values(cell))}"
            before = ",\n"
    yield "]\n" if before != "[" else "[]\n"
