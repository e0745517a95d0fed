"""What runs have measured: medians by set-up, and against what was predicted before them."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from math import inf
from statistics import median
from typing import Any

from bench.engine_adapter import by_hand_of
from bench.models import Run
from engine.measurement.by_hand import ByHand
from engine.measurement.runs import CLEAR_S, FRAMES
from engine.measurement.track_record import Compared, TrackRecord
from engine.uncertainty.intervals import Interval, confidence
from setups.prediction import Prediction
from setups.reader import Reading

# As `Run`, and the ranges of a prediction, call them.
NAMES = {
    "frames_at_full_speed": "frames at full speed",
    "frames": "frames in the hold",
    "clear_s": "light out, s",
}
MOST_PREDICTED = {name: CLEAR_S.highest if name == "clear_s" else FRAMES.highest for name in NAMES}
ENDS = 3  # low, middle, high


def predicted_of(prediction: Prediction) -> dict[str, list[float | None]]:
    """What a run keeps of the prediction before it; nothing where there is none."""
    if prediction.result is None:
        return {}
    ranges = confidence(prediction.shot.scenario, prediction.sources)
    of_each: dict[str, Interval] = {name: getattr(ranges, name) for name in NAMES}
    return {name: [one.low, one.middle, one.high] for name, one in of_each.items()}


def clean_predicted(told: Any) -> dict[str, list[float | None]]:
    """Of what somebody sent, or a row has, the figures whose ends can have been predicted.

    They rise from low to high, and lie where figures of that kind may; None, no wall, is above all.
    """
    if not isinstance(told, dict):
        return {}
    return {name: told[name] for name in NAMES if _is_range(name, told.get(name))}


def _is_range(name: str, ends: Any) -> bool:
    if not isinstance(ends, list) or len(ends) != ENDS:
        return False
    if any(isinstance(end, bool) or not isinstance(end, int | float | None) for end in ends):
        return False
    values = [inf if end is None else end for end in ends]
    most = MOST_PREDICTED[name]
    return values == sorted(values) and all(0 <= end <= most or end == inf for end in values)


def compared(run: Run, by_hand: ByHand) -> list[Compared]:
    """Each figure that was both predicted and measured; a covered lens was not predicted."""
    if run.covered:
        return []
    found, deviations = [], by_hand.accuracy.deviations(by_hand.observed)
    predicted = clean_predicted(run.predicted)
    for key in NAMES:
        measured = getattr(run, key)
        slowed_or_not = key == "frames_at_full_speed" and run.did_not_slow
        if key in predicted and (measured is not None or slowed_or_not):
            low, middle, high = predicted[key]
            found.append(
                Compared(
                    key=key, measured=measured, deviation=deviations[key],
                    low=low, middle=middle, high=high,
                )
            )  # fmt: skip
    return found


def record_of(readings: Iterable[tuple[Run, Reading | None]]) -> TrackRecord:
    """The record of all figures of several runs."""
    pairs = [(run, by_hand_of(run, reading.setup)) for run, reading in readings if reading]
    return TrackRecord([one for run, by_hand in pairs for one in compared(run, by_hand)])


@dataclass(frozen=True)
class SetupMedians:
    """Medians over the runs of one set-up; None where no run tells."""

    setup: str
    cards: str
    covered: bool
    runs: int
    frames_at_full_speed: float | None
    did_not_slow: bool
    sustained_fps: float | None
    clear_s: float | None


def results_of(readings: Iterable[tuple[Run, Reading | None]]) -> list[SetupMedians]:
    """A row for each format, rate, arrangement and cards; runs that are left out are not in it."""
    groups: dict[tuple[str, str, bool], list[tuple[Run, ByHand]]] = defaultdict(list)
    for run, reading in readings:
        if reading is None or run.left_out:
            continue
        setup = reading.setup
        name = f"{setup.recording} · {setup.rate}"
        if setup.arranged.slots_used > 1:
            name += f" · {setup.arranged}"
        cards = " and ".join(str(side.card) for side in setup.sides)
        by_hand = by_hand_of(run, setup)
        groups[name, cards, run.covered].append((run, by_hand))
    return [
        SetupMedians(
            name,
            cards,
            covered,
            len(found),
            _median(run.frames_at_full_speed for run, _ in found),
            any(run.did_not_slow for run, _ in found),
            _median(fps.value for _, by_hand in found if (fps := by_hand.sustained_fps)),
            _median(run.clear_s for run, _ in found),
        )
        for (name, cards, covered), found in sorted(groups.items())
    ]


def _median(values: Iterable[float | None]) -> float | None:
    found = [value for value in values if value is not None]
    return median(found) if found else None
