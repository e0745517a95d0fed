"""What is taped to the camera: for each set-up that it is used with, when to let go."""

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from django.utils.text import get_text_list

from engine.day.plan import Period
from outings.plans.planned_outing import PlannedOuting
from setups.pins import Pins
from setups.prediction import predict
from setups.reader import Reading
from setups.setup import Setup

TENTHS = 10


@dataclass(frozen=True)
class Situation:
    """A set-up, `when` it is used, and what is to be known of its burst at arm's length.

    Four bursts of five are at full speed for `let_go_s`, rounded down (None: all of the hold), and
    `frames`; then it goes on at `then_fps` (None: as before). Let go in time, the light is out
    after `ready_s` in nine bursts of ten.
    """

    when: str
    setup: Setup
    let_go_s: float | None
    frames: float | None
    then_fps: float | None
    ready_s: float | None

    @classmethod
    def of(cls, setup: Setup, when: str) -> "Situation | None":
        """What is to be known of a set-up; None where it can't be predicted.

        Of a very long burst only this is kept.
        """
        held = predict(setup)
        if held.result is None:
            return None
        safe_s, released = held.safe_s, held
        if safe_s:
            released = predict(replace(setup, hold_s=safe_s))
        return cls(
            when, setup, None if safe_s is None else math.floor(TENTHS * safe_s) / TENTHS,
            held.ranges.full_speed_in_most, held.sustained_fps, released.ranges.clear_s.high,
        )  # fmt: skip


def situations(planned: PlannedOuting) -> list[Situation]:
    """Those of a plan in their order; none of periods without bursts or that can't be predicted."""
    by_set_up: dict[str, list[Period]] = {}
    for period in planned.plan.periods:
        if period.bursts:
            by_set_up.setdefault(period.set_up, []).append(period)
    return _predicted(
        (
            replace(planned.set_up_of(periods[0]), hold_s=max(one.longest_s for one in periods)),
            get_text_list(list(dict.fromkeys(one.name for one in periods)), "and"),
        )
        for periods in by_set_up.values()
    )


def situations_of_body(reading: Reading, pins: Pins) -> list[Situation]:
    """The set-up in view and the pinned ones of its body; with none pinned, all its formats."""
    setup = reading.setup
    pinned = [one.reading.setup for one in pins.all if one.reading.setup.body == setup.body]
    formats = [replace(setup, recording=one) for one, _ in reading.formats]
    others = [one for one in pinned or formats if one != setup]
    return _predicted((one, _cards(one)) for one in [setup, *others] if one.complete)


def _cards(setup: Setup) -> str:
    return get_text_list([str(side.card) for side in setup.sides], "and")


def _predicted(set_ups: Iterable[tuple[Setup, str]]) -> list[Situation]:
    found: Iterator[Situation | None] = (Situation.of(setup, when) for setup, when in set_ups)
    return [one for one in found if one]
