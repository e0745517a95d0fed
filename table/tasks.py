"""What the Table leaves to the background worker: all ranges of a large table, for its files."""

from django.http import HttpRequest
from procrastinate.contrib.django import app

from kit.models import Change, Visitor
from pages import background
from pages.background import Waiting, results
from setups.kit import Kit
from table.body_table import BodyTable, table_of
from table.cells import work_out_ranges

AT_ONCE = 50_000_000  # frames in all draws of a table whose ranges a request works out itself
FRAMES_A_SECOND = 40_000_000  # that the worker shoots, about
KEPT_S = 3_600


def wait_for_ranges(request: HttpRequest, shown: BodyTable, query: str) -> Waiting | None:
    """Has the ranges of all cells worked out in the background; None: they are there."""
    frames = shown.frames_to_draw
    if frames <= AT_ONCE:
        return None
    key = _key(request.user, query)
    if kept := results.get(key):
        shown.take_ranges(kept)
        return None
    return background.wait_for_job(
        request, ranges, key, frames / FRAMES_A_SECOND,
        account=request.user.pk, query=query, key=key,
    )  # fmt: skip


@app.task(name="table")
def ranges(account: int | None, query: str, key: str) -> None:
    """Works out the ranges of a table, row by row, while anybody waits for them."""
    visitor = background.visitor_numbered(account)
    shown = table_of(Kit.of(visitor), query) if visitor else None
    if shown is None:
        return
    with background.told_where_it_fails(key):
        for row in shown.rows:
            if not background.is_waited_for(key):
                return
            work_out_ranges(row.cells)
        results.set(key, shown.ranges, KEPT_S)


def _key(visitor: Visitor, query: str) -> str:
    """What the ranges are kept under: whose kit it is, as it is now, and what was asked."""
    return background.job_key("table", visitor.pk, Change.version_for(visitor), query)
