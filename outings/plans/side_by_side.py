"""Kept plans side by side, drawn on common random numbers as far as their periods are the same."""

import time
from collections.abc import Sequence
from dataclasses import dataclass, field

from django.utils.text import get_text_list

from kit.models import Visitor
from outings.models import Outing
from outings.plans.in_view import PlanInView
from outings.plans.planned_outing import PlannedOuting, brings

MOST_PLANS = 6
WORK_S = 1.0  # of a request: a long day takes about as much


@dataclass(frozen=True)
class PlanBeside:
    """A kept plan beside the `first` one; None where it can't be simulated, or not in time."""

    outing: Outing
    planned: PlannedOuting | None
    first: PlannedOuting | None = field(repr=False)

    @property
    def setup(self) -> str:
        """Its set-up."""
        return self.planned.reading.setup.name_for_any_hold if self.planned else ""

    @property
    def needed(self) -> str:
        """How many cards it takes, slot by slot."""
        return " + ".join(map(str, self.planned.day.needed)) if self.planned else ""

    @property
    def swaps(self) -> str:
        """When to swap them."""
        if self.planned is None:
            return ""
        moments_s = sorted({swap_s for swap_s, _ in self.planned.swaps})
        return get_text_list([self.planned.clock(swap_s) for swap_s in moments_s], "and")

    @property
    def late_copies(self) -> list[str]:
        """The periods in which copying is not done in time on some days."""
        copyings = self.planned.day.copyings if self.planned else []
        return [one.name for one in copyings if one.in_time_share < 1]

    @property
    def brings(self) -> str:
        """What it brings against the first."""
        if self.planned is None or self.first is None or self.planned is self.first:
            return ""
        return brings(self.first.day, self.planned.day)


def side_by_side(visitor: Visitor, numbers: Sequence[int]) -> list[PlanBeside]:
    """The visitor's plans of those numbers, or the latest ones, in their order."""
    until = time.monotonic() + WORK_S
    plans = Outing.objects.planned_by(visitor).prefetch_related("plan__periods")
    by_number = {one.pk: one for one in (plans.filter(pk__in=numbers) if numbers else plans)}
    chosen = [by_number[number] for number in numbers or by_number if number in by_number]
    found: list[PlanBeside] = []
    first = None
    for outing in chosen[:MOST_PLANS]:
        planned = None
        if time.monotonic() < until:
            planned = PlanInView.of_kept(outing.plan, visitor).planned
        first = first or planned
        found.append(PlanBeside(outing, planned, first))
    return found
