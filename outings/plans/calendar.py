"""A plan as a calendar: iCalendar, RFC 5545, in the time of the place, whatever its zone."""

from datetime import datetime, timedelta
from uuid import NAMESPACE_URL, uuid5

from django.utils.timezone import now
from icalendar import Calendar, Event

from outings.models import Outing
from outings.plans.planned_outing import PlannedOuting

SWAP_LASTS = timedelta(minutes=5)
PRODUCT = "-//Ondata//Outings//EN"


def plan_calendar(outing: Outing, planned: PlannedOuting, address: str) -> bytes:
    """The periods of an outing with a date, and when to swap cards. Raises ValueError without one.

    `address` is that of the plan; the events of a plan keep their names when it is changed.
    """
    if outing.on is None:
        raise ValueError("The plan has no date yet.")
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    begins = datetime.combine(outing.on, planned.start)

    def add(name: str, words: str, start_s: float, lasts: timedelta) -> None:
        event = Event()
        event.add("uid", str(uuid5(NAMESPACE_URL, f"{address}#{name}")))
        event.add("dtstamp", now())
        event.add("dtstart", begins + timedelta(seconds=start_s))
        event.add("duration", lasts)
        event.add("summary", words)
        event.add("url", address)
        if outing.notes:
            event.add("description", outing.notes)
        calendar.add_component(event)

    starts_s = planned.plan.starts_s
    for number, (period, start_s) in enumerate(zip(planned.plan.periods, starts_s, strict=False)):
        add(f"period-{number}", f"{outing}: {period.name}", start_s,
            timedelta(seconds=period.lasts_s))  # fmt: skip
    for number, (swap_s, side) in enumerate(planned.swaps):
        add(f"swap-{number}", f"{outing}: swap the card in {side.slot}", swap_s, SWAP_LASTS)
    return bytes(calendar.to_ical())
