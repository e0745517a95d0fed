"""The scenario file: JSON in, JSON out. docs/formats.md describes it key by key."""

from collections.abc import Callable, Iterator
from dataclasses import asdict, replace
from typing import Any

import numpy as np

from engine.burst.bottleneck import Bottleneck
from engine.burst.result import Result
from engine.burst.scenario import HOLD_S, File, Hold, InvalidScenario, LoadedSlot, Scenario
from engine.figures.uncertainty import OF_SOURCE, SPREAD
from engine.files.json_keys import InvalidFile, Keys, json_object
from engine.quantities import BYTES_IN_MB, NS_IN_S
from engine.uncertainty.intervals import confidence
from engine.uncertainty.sensitivity import too_close_to_call, widest_input
from engine.uncertainty.sources import SlotSources, Sources

WHOLE_FILE = "The scenario file"


def read_scenario(text: str) -> Scenario:
    """The scenario that `text` describes; how sure its numbers are is left aside.

    Raises :class:`InvalidScenario` with one fault per key, or one for the whole file when it is
    not a JSON object.
    """
    scenario, _ = read_with_sources(text)
    return scenario


def read_with_sources(text: str) -> tuple[Scenario, Sources]:
    """The scenario that `text` describes, and how sure its numbers are; raises likewise."""
    try:
        return _read_scenario(Keys(json_object(text, WHOLE_FILE)))
    except InvalidFile as error:
        raise InvalidScenario(error.faults) from None


def read_set_up(keys: Keys) -> tuple[Scenario, Sources]:
    """A scenario for whatever is held on it: its own `hold_s` or `series` is left aside."""
    for key in ("hold_s", "series"):
        keys.values.pop(key, None)
    return _read_scenario(keys, lambda _: {"hold_s": HOLD_S.lowest})


def scenario_values(scenario: Scenario) -> dict[str, Any]:
    """`scenario` as the JSON object that `read_scenario` reads back."""
    values = asdict(scenario)
    if values.pop("later_holds"):
        del values["hold_s"]
        values["series"] = [asdict(hold) for hold in scenario.holds]
    return values


def result_values(result: Result) -> dict[str, Any]:
    """`result` as a JSON object."""
    moments_ns, used_bytes = result.memory_steps
    steps = np.column_stack((moments_ns / NS_IN_S, used_bytes / BYTES_IN_MB))
    bottleneck = Bottleneck(result)
    sustained_fps = bottleneck.sustained_fps
    return {
        "frames": result.frames,
        "frames_at_full_speed": result.frames_at_full_speed,
        "full_speed_s": result.full_speed_s,
        "sustained_fps": None if sustained_fps is None else round(sustained_fps, 6),
        "clear_s": result.clear_s,
        "card_full_s": result.card_full_s,
        "card_full_slot": result.card_full_slot,
        "overflow_s": result.overflow_s,
        "narrowest": bottleneck.words,
        "fills": list(bottleneck.fills),
        "limits": list(bottleneck.limits),
        "frame_times_s": (result.taken_ns / NS_IN_S).tolist(),
        "holds": list(_hold_values(result)),
        "memory_mb": steps.tolist(),
    }


def range_values(scenario: Scenario, sources: Sources) -> dict[str, Any]:
    """The ranges of a prediction, and why they are wide, as a JSON object."""
    values = asdict(confidence(scenario, sources))
    close, widest = too_close_to_call(scenario), widest_input(scenario, sources)
    return values | {
        "widest_input": widest and str(widest),
        "too_close_to_call": close and asdict(close),
    }


def _hold_values(result: Result) -> Iterator[dict[str, Any]]:
    nexts = (*result.holds[1:], None)
    for hold, following in zip(result.holds, nexts, strict=True):
        first, end = hold.first_frame, hold.first_frame + hold.frames
        still_busy = following and following.hold.press_ns < hold.all_written_ns
        yield {
            "frames": hold.frames,
            "frames_at_full_speed": result.full_speed_frames_of(hold),
            "clear_s": None if still_busy else hold.clear_s,
            "frame_times_s": (result.taken_ns[first:end] / NS_IN_S).tolist(),
        }


def _read_file(keys: Keys) -> File:
    return keys.of(File)


def _read_slot(keys: Keys) -> tuple[LoadedSlot, SlotSources]:
    of_slot = keys.optional_part("sources", _read_slot_sources, SlotSources())
    return keys.of(LoadedSlot), of_slot


def _read_slot_sources(keys: Keys) -> SlotSources:
    return keys.of(SlotSources)


def _read_sources(keys: Keys) -> Sources:
    return keys.of(
        Sources,
        slots=(),
        in_common=(),
        file_to_file=keys.number("file_to_file", SPREAD, 0.0),
        knows_coupling=keys.word("coupling", list(OF_SOURCE), "measured_here") != "estimated",
    )


def _read_hold(keys: Keys) -> Hold:
    return keys.of(Hold)


def _read_holds(keys: Keys) -> dict[str, Any]:
    """One hold, or a series in its place; presses are counted from the first one."""
    if "series" not in keys.values:
        return {"hold_s": keys.number("hold_s", HOLD_S)}
    holds = keys.parts("series", _read_hold)
    if keys.faults:
        return {}
    if not holds:
        keys.fault("series", "must have at least one hold")
        return {}
    start_s = holds[0].press_s
    if any(hold.press_s < start_s for hold in holds):
        keys.fault("series", "must have its presses in order")
        return {}
    later = tuple(replace(hold, press_s=hold.press_s - start_s) for hold in holds[1:])
    return {"hold_s": holds[0].hold_s, "later_holds": later}


def _read_scenario(
    keys: Keys, read_holds: Callable[[Keys], dict[str, Any]] = _read_holds
) -> tuple[Scenario, Sources]:
    sources = keys.optional_part("sources", _read_sources, Sources(slots=()))
    sides = keys.parts("slots", _read_slot)
    slots, of_slots = zip(*sides, strict=True) if sides else ((), ())
    scenario = keys.of(
        Scenario,
        **{"hold_s": 0.0, "later_holds": ()} | read_holds(keys),
        files=keys.parts("files", _read_file),
        slots=slots,
    )
    return scenario, replace(sources, slots=of_slots)
