"""What to do before a planned day: a list made from the plan, to be ticked and printed."""

from collections.abc import Iterator
from dataclasses import dataclass

from django.utils.text import capfirst

from engine.formats import figure
from kit.models import CardState
from outings.plans.planned_outing import PlannedOuting


@dataclass(frozen=True)
class Item:
    """One thing to do; `key` is what a tick is kept under."""

    key: str
    words: str


def checklist(planned: PlannedOuting) -> Iterator[Item]:
    """All of them, cards first."""
    setup, day = planned.reading.setup, planned.day
    for queue in planned.needed:
        slot = queue[0].side.slot
        for number, needed in enumerate(queue):
            in_slot = f" for {needed.side.slot}" if len(planned.sides) > 1 else ""
            key = f"{slot.number}-{number}" if number else f"{slot.number}"
            yield Item(
                f"cards-{key}",
                f"{capfirst(str(needed))}{in_slot}, formatted in the camera once two copies of all "
                "on them exist.",
            )
            if needed.card.state == CardState.SUSPECT:
                words = f"The {needed.card} is marked as suspect"
                yield Item(f"suspect-{key}", f"{words}: it stays at home, or is tested first.")
        yield Item(f"spare-{slot.number}", f"One more{in_slot} to spare: any card can fail.")
    for number, caution in enumerate(setup.cautions):
        yield Item(f"caution-{number}", caution)
    if setup.body.firmware:
        yield Item("firmware", f"The body runs firmware {setup.body.firmware}, as planned.")
    if day.copyings:
        gb = figure(day.gb_range.high or 0, "GB")
        yield Item(
            "copying",
            f"Reader, cable and computer with {gb} free. No copying over a cable on a weak "
            "battery of the camera, no erasing on the computer.",
        )
    yield Item("batteries", "Batteries charged, and one to spare.")
    yield Item("heat", "Cards and bodies get hot in long bursts: let them cool, off the skin.")
    yield Item(
        "rules",
        "Keep the distance that wildlife law and the site ask for; at sport the rules of organiser "
        "and venue come first.",
    )
    yield Item("light", "No card or battery comes out while the light is on.")
