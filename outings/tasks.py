"""What plans of long days leave to the background worker: what would change them."""

from django.http import HttpRequest
from procrastinate.contrib.django import app

from kit.models import Change, Visitor
from outings.plans.changes import AT_ONCE_S, ChangesToTry, PlanChanges
from outings.plans.in_view import PlanInView
from outings.plans.planned_outing import PlannedOuting
from pages import background
from pages.background import Waiting, results

KEPT_S = 3_600
USUALLY_S = 10.0  # that it takes, where nothing is known of the day


def try_changes(request: HttpRequest, found: PlanInView) -> Waiting | None:
    """Tries what would change a plan, or has it tried; None: all of it is there."""
    if found.planned is None:
        return None
    to_try = ChangesToTry(found.planned)
    if to_try.takes_s > AT_ONCE_S:
        return wait_for_changes(request, found, to_try.takes_s)
    *_, found.changes = to_try.results()
    return None


def wait_for_changes(
    request: HttpRequest, found: PlanInView, about_s: float = USUALLY_S
) -> Waiting | None:
    """Has it tried in the background, what is there so far shown; None: all of it is there.

    The plan itself is not simulated for that. `stop` in the form ends it.
    """
    if found.planned is None or found.reading is None:
        return None
    key = _key(found.planned, request.user)
    kept: PlanChanges | None = results.get(key)
    found.changes = kept
    if kept and kept.is_done:
        return None
    if "stop" in request.POST:
        background.wait_no_more(key)
        return Waiting(stopped=True)
    return background.wait_for_job(
        request, changes_of_plan, key, about_s,
        account=request.user.pk, setup=found.reading.address, told=found.told, key=key,
    )  # fmt: skip


@app.task(name="plan")
def changes_of_plan(account: int | None, setup: str, told: dict[str, str], key: str) -> None:
    """Tries what would change a plan, one after the other, while anybody waits for it."""
    with background.told_where_it_fails(key):
        visitor = background.visitor_numbered(account)
        found = visitor and PlanInView.of_told(setup, told, visitor)
        if not found or found.planned is None:
            return
        for changes in ChangesToTry(found.planned).results():
            if not background.is_waited_for(key):
                return
            results.set(key, changes, KEPT_S)


def _key(planned: PlannedOuting, visitor: Visitor) -> str:
    """What it is kept under: whose kit it is, as it is now, and what is planned."""
    cards = [side.card.slug for side in planned.reading.all_sides if side.card]
    return background.job_key(
        "plan", visitor.pk, Change.version_for(visitor), planned.reading.address, cards,
        planned.plan, planned.start,
    )  # fmt: skip
