"""What was predicted for a planned day, and what it came to."""

from collections.abc import Iterator, Mapping
from typing import Any

from engine.day.frames_taken import DayAsItWas, FramesTaken
from engine.day.planned_day import PlannedDay, range_of
from engine.measurement.capture_times import FEWEST_FRAMES
from engine.measurement.track_record import Compared
from engine.quantities import MB_IN_GB

# As they are called; what a plan keeps of each is its low end, middle and high end.
NAMES = {
    "bursts": "bursts",
    "frames": "frames",
    "gb": "GB",
    "missed": "frames missed",
    "bursts_missing": "bursts that missed some",
}


def predicted_of(day: PlannedDay) -> dict[str, list[float | None]]:
    """What is predicted of a day; bursts are counted as they are among pictures."""
    of_each = {
        "bursts": range_of((day.frames >= FEWEST_FRAMES).sum(axis=1)),
        "frames": day.frames_range,
        "gb": day.gb_range,
        "missed": day.missed_range,
        "bursts_missing": day.bursts_missing_range,
    }
    return {name: [one.low, one.middle, one.high] for name, one in of_each.items()}


def came_to(was: DayAsItWas, taken: FramesTaken) -> dict[str, float]:
    """The same of a day that was shot."""
    return {
        "bursts": was.several, "frames": len(taken.mb),
        "gb": float(taken.mb.sum()) / MB_IN_GB, "missed": was.missed,
        "bursts_missing": len(was.filled),
    }  # fmt: skip


def compared(predicted: Mapping[str, Any], came: Mapping[str, float]) -> Iterator[Compared]:
    """Each figure that was both predicted and found."""
    for key in NAMES:
        if key in predicted and key in came:
            low, middle, high = predicted[key]
            yield Compared(
                key=key, measured=came[key], deviation=0, low=low, middle=middle, high=high
            )
