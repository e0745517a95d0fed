"""A made-up day for whoever has no files at hand: gannets dive beside a boat at Skerry Head."""

from dataclasses import replace
from datetime import datetime

import numpy as np

from engine.burst.scenario import Hold
from engine.day.presses import Presses, shoot
from engine.measurement.capture_times import Picture, seconds_of
from engine.measurement.picture_table import as_line
from engine.quantities import NS_IN_S
from outings.replays.day import scenario_of_day
from setups.setup import Setup

START = datetime(2026, 5, 1, 6, 10)
BURSTS, SEED = 90, 5
PAUSE_S = 45.0  # from one dive to the next, on average
HOLDS_S = ((0.05, 3), (0.5, 6), (1.2, 4), (2.5, 2), (4.5, 1))  # and how often each is met with
SPREAD = 0.05  # of the size of files, from burst to burst
ENDING_OF_FILE = {"raw": "RAW", "jpeg": "JPG", "heif": "HIF"}


def example_table(setup: Setup) -> str:
    """The table of pictures of that day as a set-up would have shot it. Raises InvalidScenario."""
    random = np.random.default_rng(SEED)
    scenario = scenario_of_day(setup).scenario
    lengths_s, weights = map(np.array, zip(*HOLDS_S, strict=True))
    holds, press_s = [], 0.0
    for typical_s in random.choice(lengths_s, BURSTS, p=weights / weights.sum()).tolist():
        hold_s = typical_s * random.uniform(0.8, 1.2)
        holds.append(Hold(press_s=press_s, hold_s=hold_s))
        press_s += hold_s + 1 + random.exponential(PAUSE_S)
    sizes = random.normal(1, SPREAD, BURSTS)
    shot = shoot(scenario, replace(Presses.of(holds), sizes=sizes))
    start_s, lines, number = seconds_of(START, ""), [], 0
    for frames, size in zip(shot.frames.tolist(), sizes.tolist(), strict=True):
        for taken_ns in shot.taken_ns[number : number + frames].tolist():
            for file in scenario.files:
                lines.append(as_line(Picture(
                    name=f"SKR_{number:04d}.{ENDING_OF_FILE[file.name]}",
                    mb=file.mb * size, taken_s=start_s + taken_ns / NS_IN_S,
                    body=setup.body.maker_and_name,
                )))  # fmt: skip
            number += 1
    return "".join(lines)
