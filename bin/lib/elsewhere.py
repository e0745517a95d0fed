"""What ranges are worth on cameras that the model doesn't describe; run by bin/bench recovery."""

import json
import math
from collections import defaultdict
from collections.abc import Iterator
from typing import Any

import numpy as np

from engine.files.learn_file import read_learn_file
from engine.measurement.contradictions import contradictions
from engine.measurement.learning import Learning
from engine.measurement.learnt import LearntBody, LearntPrediction
from engine.tests.other_world import Camera, Shot
from engine.uncertainty.intervals import Confidence, Interval, confidence

COUNTS = (0, 1, 3, 6)  # runs
ASKED, ASKED_HOLD_S = 5, 8.0
LIGHT_S = 0.15  # added to clear times that are compared: what is less apart nobody tells apart
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


def by_class(cameras: int) -> list[str]:
    """The same before any run, as the Desk predicts: a line for each class of card."""
    found: dict[tuple[str, str], list[tuple[bool, float]]] = defaultdict(list)
    for seed in range(1, cameras + 1):
        camera = Camera(seed)
        setups = [(name, places) for name, places in camera.setups() if len(places) == 1]
        file = {
            "body": camera.body(), "cards": camera.known_cards(),
            "ask": [camera.line(name, places, ASKED_HOLD_S) for name, places in setups],
            "runs": [camera.noted(*setups[0], ASKED_HOLD_S, 0)],  # a file has one; it is not used
        }  # fmt: skip
        questions = read_learn_file(json.dumps(file)).questions
        for (name, places), one in zip(setups, questions, strict=True):
            shot = camera.shoot(name, places, ASKED_HOLD_S, 1_000)
            said, card = confidence(one.scenario, one.sources), camera.cards[places[0]]
            for outcome, held in _outcomes(said, shot):
                found[f"{card.bus} {card.of_class or 'no class'}", outcome].append(held)
    return [
        f"{of_class:22}  {'  '.join(_cell(found[of_class, name]) for name in OUTCOMES)}  "
        f"of {len(found[of_class, OUTCOMES[0]])}"
        for of_class in sorted({of_class for of_class, _ in found})
    ]


def _cell(of_outcome: list[tuple[bool, float]]) -> str:
    inside, errors = zip(*of_outcome, strict=True)
    known = [error for error in errors if not math.isnan(error)]
    off = f"±{100 * np.median(known):3.0f} %" if known else "no wall"
    return f"{100 * np.mean(inside):3.0f} % {off:7}"


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
        learnt = LearntBody.of(Learning(read.runs)) if count else LearntBody.before_runs()
        flagged[count] += len(contradictions(learnt))
        for setup, shot in zip(read.questions, shots, strict=True):
            said = learnt.predict(setup.scenario, setup.sources, setup.figures)
            for name, held in _outcomes(said, shot):
                found[count, name].append(held)


def _outcomes(
    said: LearntPrediction | Confidence, shot: Shot
) -> Iterator[tuple[str, tuple[bool, float]]]:
    """Of each outcome whether its range holds it, and how far off the middle is."""
    depth = NO_WALL if shot.depth is None else shot.depth
    yield "frames", _held(said.frames, shot.frames, 0.0)
    yield "depth", _held(said.frames_at_full_speed, depth, 0.0)
    yield "clear", _held(said.clear_s, shot.clear_s + LIGHT_S, LIGHT_S)


def _held(interval: Interval, true: float, least: float) -> tuple[bool, float]:
    low, middle, high = (
        NO_WALL if end is None else end + least
        for end in (interval.low, interval.middle, interval.high)
    )
    is_inside = low - least - 1e-9 <= true <= high + least + 1e-9
    if NO_WALL in (middle, true):
        return is_inside, math.nan
    return is_inside, abs(math.log(max(middle, LIGHT_S) / true))
