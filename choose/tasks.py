"""What Choose leaves to the background worker."""

import time
from urllib.parse import parse_qsl

from django.http import HttpRequest
from procrastinate.contrib.django import app

from choose import evaluating, need_address
from choose.page import ChoicePage
from pages import background
from pages.background import Waiting
from setups.kit import Kit

WORK_S = 1.0  # from one look to the next at whether anybody waits
MOST_S = 300.0  # for one answer; whoever asks for more is told at once to narrow it down
TOLD_AFTER_S = 10.0  # how long it would take is known well enough
LEAST_SHARE = 1e-6  # of an evaluation that has hardly begun


def leave_to_worker(request: HttpRequest, page: ChoicePage, *, stopped: bool) -> Waiting | None:
    """Has the rest of `page` done in the background, unless `stopped`; None: nothing is left."""
    if page.worked_on is None or page.evaluation is None:
        return None
    key = f"choose:{background.visitor_of(request)}:{evaluating.cache_key(page.evaluation)}"
    if stopped:
        background.wait_no_more(key)
        return Waiting(stopped=True)
    share = max(page.progress.share, LEAST_SHARE) if page.progress else LEAST_SHARE
    return background.wait_for_job(
        request, evaluate, key, evaluating.WORK_S * (1 - share) / share,
        address=page.reading.address, account=request.user.pk, key=key,
    )  # fmt: skip


@app.task(name="choose")
def evaluate(address: str, account: int | None, key: str) -> None:
    """Works out what Choose shows at an address, while anybody waits for it."""
    visitor = background.visitor_numbered(account)
    asked = dict(parse_qsl(address, keep_blank_values=True))
    reading = visitor and need_address.read(asked, Kit.of(visitor))
    began = time.monotonic()
    with background.told_where_it_fails(key):
        while visitor and reading and background.is_waited_for(key):
            page = ChoicePage(reading, work_s=WORK_S)
            if page.worked_on is None or page.progress is None:
                return
            took_s = time.monotonic() - began
            share = max(page.progress.share, LEAST_SHARE)
            would_take_s = took_s / share if took_s > TOLD_AFTER_S else 0
            if max(took_s, would_take_s) > MOST_S:
                evaluating.mark_too_long(page.worked_on)
