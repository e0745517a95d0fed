"""What ranges are worth on cameras that the model doesn't describe; run by bin/bench recovery."""

import json
import math
from collections import defaultdict
from typing import Any

import numpy as np

from engine.files.learn_file import read_learn_file
from engine.measurement.contradictions import contradicting
from engine.measurement.learning import learn
from engine.measurement.learnt import LearntBody
from engine.tests.other_world import Camera
from engine.uncertainty.intervals import Interval

COUNTS = (0, 1, 3, 6)  # runs
ASKED, ASKED_HOLD_S = 5, 8.0
LIGHT_S = 0.15  # added to clear times that are compared: shorter ones nobody tells apart
NO_WALL = 1e6
OUTCOMES = ("frames", "depth", "clear")

# In range, and how far off the middle; NaN where either has no wall.
Found = dict[tuple[int, str], list[tuple[bool, float]]]


def table(cameras: int) -> list[str]:
    """A line for each number of runs: in range and median error of three outcomes, and flags."""
    found: Found = defaultdict(list)
    flagged: dict[int, int] = defaultdict(int)
    for seed in range(1, cameras + 1):
        _examine(seed, found, flagged)
    return [
        f"{count} runs  {'  '.join(_cell(found[count, name]) for name in OUTCOMES)}  "
        f"flagged {flagged[count]} of {cameras * count}"
        for count in COUNTS
    ]


def _cell(of_outcome: list[tuple[bool, float]]) -> str:
    inside, errors = zip(*of_outcome, strict=True)
    return f"{100 * np.mean(inside):3.0f} % ±{100 * np.nanmedian(errors):3.0f} %"


def _examine(seed: int, found: Found, flagged: dict[int, int]) -> None:
    camera, random = Camera(seed), np.random.default_rng([seed, 99])
    setups = list(camera.setups())
    order = [setups[place] for place in random.permutation(len(setups))]
    tested, asked = order[: max(COUNTS)], order[max(COUNTS) :][:ASKED]
    runs = [
        camera.noted(name, places, float(random.choice([4, 6, 10])), burst)
        for burst, (name, places) in enumerate(tested)
    ]
    shots = [
        camera.shoot(name, places, ASKED_HOLD_S, 1_000 + burst)
        for burst, (name, places) in enumerate(asked)
    ]
    for count in COUNTS:
        file: dict[str, Any] = {
            "body": camera.body(), "cards": camera.known_cards(), "runs": runs[: max(count, 1)],
            "ask": [camera.line(name, places, ASKED_HOLD_S) for name, places in asked],
        }  # fmt: skip
        read = read_learn_file(json.dumps(file))
        learnt = LearntBody(read.runs, learn(read.runs)) if count else LearntBody.before_runs()
        flagged[count] += len(contradicting(learnt))
        for setup, shot in zip(read.questions, shots, strict=True):
            said = learnt.predict(setup.scenario, setup.sources, setup.figures)
            depth = NO_WALL if shot.depth is None else shot.depth
            for name, interval, true, least in (
                ("frames", said.frames, shot.frames, 0.0),
                ("depth", said.frames_at_full_speed, depth, 0.0),
                ("clear", said.clear_s, shot.clear_s, LIGHT_S),
            ):
                found[count, name].append(_held(interval, true + least, least))


def _held(interval: Interval, true: float, least: float) -> tuple[bool, float]:
    low, middle, high = (
        NO_WALL if end is None else end + least
        for end in (interval.low, interval.middle, interval.high)
    )
    is_inside = low - 1e-9 <= true <= high + 1e-9
    if NO_WALL in (middle, true):
        return is_inside, math.nan
    return is_inside, abs(math.log(max(middle, LIGHT_S) / true))
