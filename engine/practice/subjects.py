"""The subjects to practise on: what each does before the moment that matters, and how long.

Durations are working assumptions of Ondata's, chosen so that ten runs and their answers take about
three minutes.
"""

from dataclasses import dataclass
from enum import StrEnum


class StageKind(StrEnum):
    """What a subject does: nothing yet, what may come to nothing, what is sure to end in the
    moment, the moment itself, and what follows."""

    WAITING = "waiting"
    BUILD_UP = "build_up"
    LEAD = "lead"
    MOMENT = "moment"
    AFTER = "after"


@dataclass(frozen=True, kw_only=True)
class Subject:
    """A subject: its name in addresses, how long its moment lasts, and the lead before it.

    The lead shrinks with difficulty from `easy_lead_s` to `hard_lead_s`; a subject without one
    (both 0) gives no sure sign before its moment.
    """

    key: str
    moment_s: float
    easy_lead_s: float
    hard_lead_s: float


SUBJECTS = {
    one.key: one
    for one in (
        Subject(key="gannet", moment_s=0.45, easy_lead_s=1.1, hard_lead_s=0.5),
        Subject(key="gate", moment_s=0.8, easy_lead_s=0.0, hard_lead_s=0.0),
        Subject(key="kayak", moment_s=0.6, easy_lead_s=1.0, hard_lead_s=0.45),
        Subject(key="bird", moment_s=0.4, easy_lead_s=0.6, hard_lead_s=0.3),
    )
}
