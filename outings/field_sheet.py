"""What is taped to the camera: for each set-up that a plan is shot with, when to let go."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from django.utils.text import get_text_list

from engine.day.plan import Period
from outings.plan import PlannedOuting
from setups.prediction import Prediction, predict

TENTHS = 10


@dataclass(frozen=True)
class Situation:
    """A set-up of the plan, its `periods`, and the burst of its longest usual hold.

    `released` is the burst let go in time.
    """

    periods: Sequence[Period]
    prediction: Prediction
    released: Prediction

    @property
    def name(self) -> str:
        """When it is used."""
        return get_text_list(list(dict.fromkeys(one.name for one in self.periods)), "and")

    @property
    def let_go_s(self) -> float | None:
        """Seconds, rounded down, for which four bursts of five are at full speed; None: all."""
        safe_s = self.prediction.safe_s
        return None if safe_s is None else math.floor(TENTHS * safe_s) / TENTHS

    @property
    def frames(self) -> float | None:
        """The frames of that."""
        return self.prediction.ranges.full_speed_in_most

    @property
    def ready_s(self) -> float | None:
        """When the light is out then, in nine bursts of ten."""
        return self.released.ranges.clear_s.high


def situations(planned: PlannedOuting) -> list[Situation]:
    """Those of a plan in their order; none of periods without bursts or that can't be predicted."""
    by_set_up: dict[str, list[Period]] = {}
    for period in planned.plan.periods:
        if period.bursts:
            by_set_up.setdefault(period.set_up, []).append(period)
    found = []
    for periods in by_set_up.values():
        setup = planned.set_up_of(periods[0])
        held = replace(setup, hold_s=max(one.long_hold_s for one in periods))
        prediction = predict(held)
        if prediction.result is None:
            continue
        safe_s = prediction.safe_s
        released = prediction if safe_s is None else predict(replace(setup, hold_s=safe_s))
        found.append(Situation(periods, prediction, released))
    return found
