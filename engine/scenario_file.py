"""The scenario file: JSON in, JSON out. docs/formats.md describes it key by key."""

from collections.abc import Iterator
from dataclasses import asdict, replace
from typing import Any

import numpy as np

from engine.burst import scenario as limits
from engine.burst.bottleneck import Bottleneck
from engine.burst.result import Result
from engine.burst.scenario import File, Hold, InvalidScenario, Scenario, Slot
from engine.figures.uncertainty import EXACT, OF_SOURCE
from engine.json_keys import SPREAD, InvalidFile, Keys, json_object
from engine.quantities import BYTES_IN_MB, NS_IN_S, WRITE_MB_S
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
    close = too_close_to_call(scenario)
    return values | {
        "widest_input": widest_input(scenario, sources),
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
    return keys.build(File, name=keys.text("name"), mb=keys.number("mb", limits.FILE_MB))


def _read_slot(keys: Keys) -> tuple[Slot, SlotSources]:
    of_slot = keys.optional_part("sources", _read_slot_sources, SlotSources(write=EXACT))
    slot = keys.build(
        Slot,
        write_mb_s=keys.number("write_mb_s", WRITE_MB_S),
        overhead_s=keys.number("overhead_s", limits.OVERHEAD_S, 0.0),
        free_mb=keys.number("free_mb", limits.FREE_MB, None),
        cache_mb=keys.number("cache_mb", limits.CACHE_MB, 0.0),
        cache_write_mb_s=keys.number("cache_write_mb_s", WRITE_MB_S, None),
        cache_flush_mb_s=keys.number("cache_flush_mb_s", WRITE_MB_S, None),
        slow_below_free_mb=keys.number("slow_below_free_mb", limits.FREE_MB, 0.0),
        slow_factor=keys.number("slow_factor", limits.SLOW_FACTOR, 1.0),
        slot_limit_mb_s=keys.number("slot_limit_mb_s", WRITE_MB_S, None),
        bus_mb_s=keys.number("bus_mb_s", WRITE_MB_S, None),
    )
    return slot, of_slot


def _read_slot_sources(keys: Keys) -> SlotSources:
    return keys.build(
        SlotSources,
        write=keys.source("write_mb_s"),
        limit=keys.source("slot_limit_mb_s"),
        overhead=keys.source("overhead_s"),
        cache=keys.source("cache_mb"),
    )


def _read_sources(keys: Keys) -> Sources:
    return keys.build(
        Sources,
        slots=(),
        frame_rate=keys.source("frame_rate_fps"),
        held=keys.source("held_mb"),
        files=keys.source("files"),
        file_to_file=keys.number("file_to_file", SPREAD, 0.0),
        memory=keys.source("memory_mb"),
        encoder=keys.source("process_fps"),
        knows_coupling=keys.word("coupling", list(OF_SOURCE), "measured_here") != "estimated",
    )


def _read_hold(keys: Keys) -> Hold:
    return keys.build(
        Hold,
        press_s=keys.number("press_s", limits.PRESS_S),
        hold_s=keys.number("hold_s", limits.HOLD_S),
    )


def _read_holds(keys: Keys) -> dict[str, Any]:
    """One hold, or a series in its place; presses are counted from the first one."""
    if "series" not in keys.values:
        return {"hold_s": keys.number("hold_s", limits.HOLD_S)}
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


def _read_scenario(keys: Keys) -> tuple[Scenario, Sources]:
    sources = keys.optional_part("sources", _read_sources, Sources(slots=()))
    sides = keys.parts("slots", _read_slot)
    scenario = keys.build(
        Scenario,
        **_read_holds(keys),
        frame_rate_fps=keys.number("frame_rate_fps", limits.FRAME_RATE_FPS),
        memory_mb=keys.number("memory_mb", limits.MEMORY_MB),
        held_mb=keys.number("held_mb", limits.HELD_MB, 0.0),
        process_fps=keys.number("process_fps", limits.PROCESS_FPS, None),
        files=keys.parts("files", _read_file),
        slots=tuple(slot for slot, _ in sides),
        arrangement=keys.text("arrangement", "single"),
        coupling=keys.text("coupling", "parallel"),
        resume_free_frames=keys.whole_number("resume_free_frames", limits.RESUME_FREE_FRAMES, 1),
    )
    return scenario, replace(sources, slots=tuple(of_slot for _, of_slot in sides))
