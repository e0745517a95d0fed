"""The replay file: a day's pictures or presses in, what was and what would have been out.

docs/formats.md describes it key by key.
"""

from collections import Counter
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np

from engine.burst.scenario import HOLD_S, PRESS_S, Hold
from engine.day.frames_taken import DayAsItWas, FramesTaken, day_as_it_was
from engine.day.odds import SureSetup, draw_day, draws_of_day
from engine.day.presses import InvalidDay, Presses
from engine.day.replay import ReplayedDay, replay
from engine.figures.key import FIELD_OF_BODY, FIELD_OF_SLOT, Factor, FigureKind
from engine.files.json_keys import InvalidFile, Keys, json_object
from engine.files.scenario_file import read_set_up
from engine.quantities import MB_IN_GB, Range, quantity

WHOLE_FILE = "The replay file"
MOST_OTHERS = 20
AS_IT_WAS = "as it was"
TAKEN_S = Range(-PRESS_S.highest, 10_000_000_000, "s")  # seconds of an epoch, too
PICTURE_MB = Range(0.001, 1_000, "MB")
RESOLUTION_S = Range(0, 1, "s")


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureOfDay:
    """When a file was taken, in seconds from any start, and its size."""

    taken_s: float = quantity(TAKEN_S)
    mb: float = quantity(PICTURE_MB)


@dataclass(frozen=True, slots=True, kw_only=True)
class ToldHold:
    """How long the burst was held that began at a moment, as those of the pictures are."""

    press_s: float = quantity(TAKEN_S)
    hold_s: float = quantity(HOLD_S)


@dataclass(frozen=True)
class ReplayFile:
    """A day as its pictures or its presses tell it, and set-ups by their names.

    The first of them is the one that it was shot with. `holds_s` tells how long some bursts were
    held, by the moments of their presses.
    """

    set_ups: Mapping[str, SureSetup]
    day: FramesTaken | Presses
    holds_s: Mapping[float, float]

    def read_day(self) -> DayAsItWas:
        """The presses and bursts; of presses alone no frames are told.

        Raises :class:`InvalidDay`.
        """
        if isinstance(self.day, Presses):
            return DayAsItWas(self.day, np.arange(len(self.day.press_ns)), ())
        return day_as_it_was(self.set_ups[AS_IT_WAS].scenario, self.day, self.holds_s)


def read_replay_file(text: str) -> ReplayFile:
    """The replay file that `text` is. Raises :class:`InvalidFile` with every fault."""
    keys = Keys(json_object(text, WHOLE_FILE))
    was = keys.optional_part("scenario", _read_set_up, None)
    if was is None:
        keys.fault("scenario", "is missing")
    others = keys.parts("others", _read_other) if "others" in keys.values else ()
    twice = [name for name, count in Counter(name for name, _ in others).items() if count > 1]
    if twice or AS_IT_WAS in dict(others):
        keys.fault("others", f"must each have a name of its own, not {(*twice, AS_IT_WAS)[0]}")
    if len(others) > MOST_OTHERS:
        keys.fault("others", f"must be {MOST_OTHERS} set-ups at most")
    holds = keys.parts("holds", lambda one: one.of(ToldHold)) if "holds" in keys.values else ()
    day = _read_day(keys)
    if was is None or day is None:
        raise InvalidFile(keys.faults)
    set_ups = {name: _independent(name, one, was) for name, one in others}
    holds_s = {one.press_s: one.hold_s for one in holds}
    return keys.build(ReplayFile, set_ups={AS_IT_WAS: was} | set_ups, day=day, holds_s=holds_s)


def replayed_values(file: ReplayFile, ranges: bool = False) -> dict[str, Any]:
    """What was and what would have been, as a JSON object. Raises :class:`InvalidDay`."""
    day = file.read_day()
    values = _values_as_it_was(file.day, day) if isinstance(file.day, FramesTaken) else {}
    values["set_ups"] = {
        name: _replayed_values(replay(one.scenario, day.presses, day.first_presses))
        for name, one in file.set_ups.items()
    }
    if ranges:
        for name, of_it in _ranges_of_each(file.set_ups, day).items():
            values["set_ups"][name]["ranges"] = of_it
    return values


def _values_as_it_was(taken: FramesTaken, day: DayAsItWas) -> dict[str, Any]:
    return {
        "frames": len(taken.mb),
        "singles": sum(burst.is_single for burst in day.bursts),
        "gb": float(taken.mb.sum()) / MB_IN_GB,
        "missed": day.missed,
        "bursts": [asdict(burst) for burst in day.bursts],
    }


def _replayed_values(day: ReplayedDay) -> dict[str, Any]:
    return {
        "frames": day.frames,
        "missed": day.missed,
        "bursts_missing": day.bursts_missing,
        "card_full_in_burst": day.full_burst,
        "bursts": [asdict(burst) for burst in day.bursts],
    }


def _ranges_of_each(set_ups: Mapping[str, SureSetup], day: DayAsItWas) -> dict[str, Any]:
    count = draws_of_day([one.scenario for one in set_ups.values()], day.presses)
    drawn = {
        name: draw_day(one, day.presses, day.first_presses, count) for name, one in set_ups.items()
    }
    return {
        name: {
            "draws": count,
            "frames": asdict(one.frames_range),
            "missed": asdict(one.missed_range),
            "bursts_missing": asdict(one.bursts_missing_range),
            "missing_shares": one.missing_shares,
            "against_as_it_was": asdict(one.against(drawn[AS_IT_WAS])),
        }
        for name, one in drawn.items()
    }


def _independent(name: str, one: SureSetup, was: SureSetup) -> SureSetup:
    """The same with a draw of its own for each number that is another than it was.

    A card that is another one has a pace of its own, too.
    """
    factors = {
        Factor(kind)
        for kind, key in FIELD_OF_BODY.items()
        if getattr(one.scenario, key) != getattr(was.scenario, key)
    }
    both = zip(one.scenario.slots, was.scenario.slots, strict=False)  # one may have a slot more
    for place, (slot, old) in enumerate(both, 1):
        kinds = {
            kind for kind, key in FIELD_OF_SLOT.items() if getattr(slot, key) != getattr(old, key)
        }
        if FigureKind.CARD in kinds:
            kinds.add(FigureKind.PACE)
        factors |= {Factor(kind, place) for kind in kinds}
    return replace(one, independent={factor: f"{name} {factor}" for factor in factors})


def _read_set_up(keys: Keys) -> SureSetup:
    return SureSetup(*read_set_up(keys))


def _read_other(keys: Keys) -> tuple[str, SureSetup]:
    return keys.text("name"), _read_set_up(keys)


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
            sizes = [(one.taken_s, one.mb) for one in pictures]
            return None if keys.faults else FramesTaken.of(sizes, resolution_s)
        holds = keys.parts(name, lambda one: one.of(Hold))
        return None if keys.faults else Presses.of(holds)
    except InvalidDay as error:
        keys.faults |= error.faults
        return None
