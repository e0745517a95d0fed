"""Scenarios for tests: a valid default, and hypothesis strategies for any valid one."""

from dataclasses import fields
from typing import Any

from hypothesis import strategies as st

from engine import File, InvalidScenario, LoadedSlot, Scenario
from engine.burst.arrangement import Arrangement
from engine.burst.scenario import COUPLINGS, Hold
from engine.figures.key import FIELD_OF_SLOT
from engine.figures.uncertainty import LogNormal
from engine.uncertainty.sources import SlotSources, Sources

SLOT_KEYS = {field.name for field in fields(LoadedSlot)}


def scenario(**changes: Any) -> Scenario:
    """A sport body with room for 24 frames; `file_mb`, `write_mb_s` and the like set its parts."""
    file = File(name="raw", mb=changes.pop("file_mb", 50))
    of_slot = {"write_mb_s": 230} | {key: changes.pop(key) for key in SLOT_KEYS & changes.keys()}
    slot = LoadedSlot(**of_slot)
    defaults = {"frame_rate_fps": 20, "hold_s": 6, "memory_mb": 1200}
    return Scenario(**defaults | {"files": (file,), "slots": (slot,)} | changes)


def sources(burst: Scenario, **known: Any) -> Sources:
    """How sure a scenario's numbers are: exact, but for those named; a number is a spread."""
    plain = ("file_to_file", "knows_coupling")
    known = {
        name: LogNormal(value) if isinstance(value, float) and name not in plain else value
        for name, value in known.items()
    }
    of_slot = {name: known.pop(name) for name in FIELD_OF_SLOT.values() if name in known}
    return Sources(slots=(SlotSources(**of_slot),) * len(burst.slots), **known)


def _round_or_any(lowest: float, highest: float) -> st.SearchStrategy[float]:
    """Round figures half the time, so that events do fall on the same instant."""
    round_figures = (0, 0.05, 0.1, 0.2, 1, 2, 5, 10, 20, 40, 50, 100, 200, 400, 1000)
    within = [x for x in round_figures if lowest <= x <= highest]
    anything = st.floats(lowest, highest)
    return st.sampled_from(within) | anything if within else anything


@st.composite
def slots(draw: st.DrawFn) -> LoadedSlot:
    """Any card side; caches and nearly full cards one time in three."""
    free_mb = draw(st.none() | _round_or_any(0, 5000))
    write_mb_s = draw(_round_or_any(1, 2000))
    extras: dict[str, float] = {}
    if draw(st.integers(0, 2)) == 0:
        extras = {"cache_mb": draw(_round_or_any(1, 2000))}
        extras["cache_write_mb_s"] = draw(_round_or_any(write_mb_s, 4000))
        if draw(st.booleans()):
            extras["cache_flush_mb_s"] = draw(_round_or_any(1, 1000))
    if free_mb is not None and draw(st.integers(0, 2)) == 0:
        extras |= {"slow_below_free_mb": draw(_round_or_any(1, 2000)), "slow_factor": 0.3}
    return LoadedSlot(
        write_mb_s=write_mb_s,
        overhead_s=draw(st.just(0.0) | _round_or_any(0, 0.2)),
        free_mb=free_mb,
        slot_limit_mb_s=draw(st.none() | _round_or_any(1, 1000)),
        **extras,
    )


@st.composite
def later_holds(draw: st.DrawFn, hold_s: float) -> tuple[Hold, ...]:
    """Up to four more holds after one of `hold_s`, at times the instant that the finger is up."""
    holds, up_s = [], hold_s
    for _ in range(draw(st.integers(0, 4))):
        press_s = up_s + draw(st.just(0.0) | _round_or_any(0, 30))
        hold = Hold(press_s=press_s, hold_s=draw(_round_or_any(0.05, 5)))
        if hold.press_ns >= round(up_s * 1e9):
            holds.append(hold)
            up_s = hold.finger_up_ns / 1e9
    return tuple(holds)


@st.composite
def scenarios(
    draw: st.DrawFn, most_resume_frames: int = 12, most_slots: int = 2, series: bool = False
) -> Scenario:
    """Any scenario that makes sense, of every arrangement and coupling; a `series` may be one."""
    frames = draw(st.integers(1, 60))
    resume = draw(st.integers(1, min(frames, most_resume_frames)))
    sizes = draw(st.lists(_round_or_any(0.1, 100), min_size=1, max_size=2))
    held_mb = draw(st.just(0.0) | _round_or_any(0, 200))
    frame_mb = max(held_mb, sum(sizes))
    sides = draw(st.lists(slots(), min_size=1, max_size=most_slots))
    arrangements = [Arrangement.SINGLE]
    if len(sides) == 2:
        two = (Arrangement.OVERFLOW, Arrangement.MIRROR, Arrangement.SPLIT)
        arrangements += [one for one in two if one.needs_files <= len(sizes)]
    hold_s = draw(_round_or_any(0.05, 15))
    try:
        return Scenario(
            frame_rate_fps=draw(_round_or_any(0.2, 120)),
            hold_s=hold_s,
            memory_mb=frames * frame_mb + draw(st.just(0.0) | st.floats(0, frame_mb)),
            held_mb=held_mb,
            process_fps=draw(st.none() | _round_or_any(0.5, 200)),
            files=tuple(File(name=f"file {n}", mb=mb) for n, mb in enumerate(sizes)),
            slots=tuple(sides),
            arrangement=draw(st.sampled_from(arrangements)),
            coupling=draw(st.sampled_from(COUPLINGS)),
            resume_free_frames=resume,
            later_holds=draw(later_holds(hold_s)) if series else (),
        )
    except InvalidScenario:
        # Sizes that round down to a byte less than their sum: too close to call, not a scenario.
        return scenario()
