"""Figures of a plan are those that pictures of such a day are told by."""

from unittest import TestCase

import numpy as np

from engine.day.frames_taken import FramesTaken, day_as_it_was
from engine.day.odds import SureSetup
from engine.day.plan import Period, Plan, TakenCard
from engine.day.plan_simulation import named, simulate_plan
from engine.day.planned_day import PlannedDay
from engine.day.presses import Presses, shoot
from engine.quantities import NS_IN_S
from engine.tests.builders import scenario, sources
from outings.plans.against_plan import NAMES, came_to, compared, predicted_of

SHOT = scenario()
DAY = Plan(
    periods=(
        Period(name="heats", minutes=90, bursts_an_hour=30, hold_s=1.5, long_hold_s=4),
        Period(name="waiting", minutes=30, singles_an_hour=20),
        Period(name="finals", minutes=60, bursts_an_hour=40, hold_s=2, long_hold_s=5),
    ),
    cards=((TakenCard(1e6),),),
)


def told_by_pictures(planned: PlannedDay, draw: int) -> dict[str, float]:
    """What the pictures of one of its days come to."""
    presses, is_real = planned.presses, planned.presses.is_real[draw]
    press_ns = np.rint(presses.press_s[draw][is_real] * NS_IN_S).astype(np.int64)
    hold_ns = np.rint(presses.hold_s[draw][is_real] * NS_IN_S).astype(np.int64)
    sizes = np.ones(len(press_ns))
    shot = shoot(SHOT, Presses(press_ns=press_ns, finger_up_ns=press_ns + hold_ns, sizes=sizes))
    mb = SHOT.file_bytes / 1e6
    taken = FramesTaken(shot.taken_ns / NS_IN_S, np.full(len(shot.taken_ns), mb), 0.01)
    return came_to(day_as_it_was(SHOT, taken), taken)


class AgainstThePlan(TestCase):
    def test_pictures_of_planned_days_lie_in_its_ranges_as_often_as_said(self) -> None:
        planned = simulate_plan(DAY, named({"": SureSetup(SHOT, sources(SHOT))}))
        predicted = predicted_of(planned)
        self.assertEqual(set(NAMES), set(predicted))
        within: dict[str, list[bool]] = {name: [] for name in NAMES}
        for draw in range(0, 200, 4):
            for one in compared(predicted, told_by_pictures(planned, draw)):
                within[one.key].append(one.is_within)
        for name, held in within.items():
            with self.subTest(name):
                self.assertAlmostEqual(0.8, float(np.mean(held)), delta=0.15)
