"""The replay file: a day's pictures or presses in, what was and what would have been out.

docs/formats.md describes it key by key.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from engine.burst.scenario import PRESS_S, Hold, Scenario
from engine.day.frames_taken import FramesTaken, day_as_it_was
from engine.day.presses import InvalidDay, Presses
from engine.day.replay import ReplayedDay, replay
from engine.files.json_keys import InvalidFile, Keys, json_object
from engine.files.scenario_file import read_set_up
from engine.quantities import MB_IN_GB, Range, quantity

WHOLE_FILE = "The replay file"
MOST_OTHERS = 20
AS_IT_WAS = "as it was"
TAKEN_S = Range(-PRESS_S.highest, 10_000_000_000, "s")  # seconds of an epoch, too
PICTURE_MB = Range(0.001, 1_000, "MB")
RESOLUTION_S = Range(0, 1, "s")
LONGEST_DAY_S = PRESS_S.highest


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureOfDay:
    """When a file was taken, in seconds from any start, and its size."""

    taken_s: float = quantity(TAKEN_S)
    mb: float = quantity(PICTURE_MB)


@dataclass(frozen=True)
class ReplayFile:
    """A day as its pictures or its presses tell it, and set-ups by their names.

    The first of them is the one that it was shot with.
    """

    set_ups: Mapping[str, Scenario]
    day: FramesTaken | Presses


def read_replay_file(text: str) -> ReplayFile:
    """The replay file that `text` is. Raises :class:`InvalidFile` with every fault."""
    keys = Keys(json_object(text, WHOLE_FILE))
    scenario = keys.optional_part("scenario", read_set_up, None)
    if scenario is None:
        keys.fault("scenario", "is missing")
    others = keys.parts("others", _read_other) if "others" in keys.values else ()
    twice = [name for name, count in Counter(name for name, _ in others).items() if count > 1]
    if twice or AS_IT_WAS in dict(others):
        keys.fault("others", f"must each have a name of its own, not {(*twice, AS_IT_WAS)[0]}")
    if len(others) > MOST_OTHERS:
        keys.fault("others", f"must be {MOST_OTHERS} set-ups at most")
    day = _read_day(keys)
    if scenario is None or day is None:
        raise InvalidFile(keys.faults)
    return keys.build(ReplayFile, set_ups={AS_IT_WAS: scenario[0]} | dict(others), day=day)


def replayed_values(file: ReplayFile) -> dict[str, Any]:
    """What was and what would have been, as a JSON object. Raises :class:`InvalidDay`."""
    if isinstance(file.day, Presses):
        presses, firsts, was = file.day, None, {}
    else:
        day = day_as_it_was(file.set_ups[AS_IT_WAS], file.day)
        presses, firsts = day.presses, day.first_presses
        was = {
            "frames": len(file.day.mb),
            "singles": sum(burst.is_single for burst in day.bursts),
            "gb": float(file.day.mb.sum()) / MB_IN_GB,
            "missed": sum(burst.missed for burst in day.bursts),
            "bursts": [asdict(burst) for burst in day.bursts],
        }
    return was | {
        "set_ups": {
            name: _replayed_values(replay(scenario, presses, firsts))
            for name, scenario in file.set_ups.items()
        }
    }


def _replayed_values(day: ReplayedDay) -> dict[str, Any]:
    return {
        "frames": day.frames,
        "missed": day.missed,
        "bursts_missing": day.bursts_missing,
        "card_full_in_burst": day.full_burst,
        "bursts": [asdict(burst) for burst in day.bursts],
    }


def _read_other(keys: Keys) -> tuple[str, Scenario]:
    name = keys.text("name")
    scenario, _ = read_set_up(keys)
    return name, scenario


def _read_day(keys: Keys) -> FramesTaken | Presses | None:
    """What the pictures or the presses tell; None where they are at fault."""
    resolution_s = keys.number("resolution_s", RESOLUTION_S, 0.0)
    if ("pictures" in keys.values) == ("presses" in keys.values):
        keys.fault("pictures", "must be given, or presses in their place")
        return None
    name = "pictures" if "pictures" in keys.values else "presses"
    try:
        if name == "pictures":
            pictures = keys.parts(name, lambda one: one.of(PictureOfDay))
            return None if keys.faults else _taken(pictures, resolution_s)
        holds = keys.parts(name, lambda one: one.of(Hold))
        return None if keys.faults else Presses.of(holds)
    except InvalidDay as error:
        keys.faults |= error.faults
        return None


def _taken(pictures: Sequence[PictureOfDay], resolution_s: float) -> FramesTaken:
    taken = FramesTaken.of([(one.taken_s, one.mb) for one in pictures], resolution_s)
    if taken.times_s[-1] - taken.times_s[0] > LONGEST_DAY_S:
        raise InvalidDay({"pictures": f"must lie within {LONGEST_DAY_S:,} s of each other"})
    return taken
