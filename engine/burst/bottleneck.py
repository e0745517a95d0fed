"""What limits a burst, and how it goes on once memory is full.

A part is the bottleneck if making it better brings most: each part is tried BETTER by itself, and
where that brings nothing because two of them tie, they are tried together.
"""

import math
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations

import numpy as np

from engine.burst.arrangement import Arrangement
from engine.burst.rates import Part, PartName, Regime, keeps_up
from engine.burst.result import Result
from engine.burst.scenario import HOLD_S, LoadedSlot, Scenario
from engine.burst.simulate import simulate
from engine.quantities import NS_IN_S

BETTER = 1.05
TIE = 0.02  # two gains that differ by no more than this share of the larger are the same
TIMED_CYCLES = 40  # rounds of filling and draining a tight memory over which its rate is timed

_Gain = tuple[float, ...]  # compared place by place; the last one is the finest measure


class Parts(tuple[PartName, ...]):
    """Parts of the camera that limit together; empty: nothing limits."""

    __slots__ = ()

    @property
    def slots(self) -> list[int]:
        """The slots, 0 or 1, whose side is among them, whether card or slot sets the speed."""
        return [int(name[-1]) - 1 for name in self if name.startswith(("slot", "card"))]

    @property
    def has_encoder(self) -> bool:
        """Whether the encoder is among them."""
        return "encoder" in self


NO_PART = Parts()


@dataclass(frozen=True, eq=False)
class Bottleneck:
    """What limits the burst of `result`."""

    result: Result

    @cached_property
    def sustained_fps(self) -> float | None:
        """Frames a second once memory is full, in the regime in which the burst ended.

        None where the camera keeps up then, so that memory does not fill.
        """
        return sustained_fps(self.result.final_regime)

    @cached_property
    def narrowest(self) -> Parts:
        """The parts that bring most frames in this hold when made better; empty: no wall met."""
        if self.result.wall_ns is None:
            return NO_PART
        names = _names(self.result.final_regime)
        if self.result.overflow_frame is not None:
            names += _names(Regime.at_press(self.result.scenario))
        parts = _most_gained(list(dict.fromkeys(names)), self._frames_gained)
        # A hold that ends at the wall gains nothing either way; nor does a memory of few frames
        # fill where each part by itself keeps up.
        return parts or self.fills or self.limits

    @cached_property
    def fills(self) -> Parts:
        """What fills memory: the parts that put the wall off most when made better."""
        if self.result.wall_ns is None:
            return NO_PART
        regime = self.result.regime_at(self.result.wall_ns)
        depth = _fluid_depth(regime)
        return _most_gained(
            _names(regime), lambda parts: (_fluid_depth(_better(regime, parts)) - depth,)
        )

    @cached_property
    def limits(self) -> Parts:
        """What sets the pace once memory is full: the parts that raise the rate most."""
        if self.result.wall_ns is None:
            return NO_PART
        regime = self.result.final_regime
        fps = regime.camera_fps
        return _most_gained(
            _names(regime), lambda parts: (_better(regime, parts).camera_fps - fps,)
        )

    @property
    def filled_by_encoder(self) -> bool:
        """Whether the encoder alone fills memory, and something else limits afterwards."""
        return self.fills == ("encoder",) and not self.limits.has_encoder

    @property
    def next_in_line(self) -> Part | None:
        """The part that limits once `limits` does not: the most that widening it brings.

        None when nothing else is in the path. Where one writer serves both slots, widening one
        side brings less than this, as the other still takes its time.
        """
        parts = [part for part in self.result.final_regime.path if part.name not in self.limits]
        return min(parts, key=lambda part: part.fps, default=None)

    @property
    def words(self) -> str:
        """The narrowest parts as one value of the scenario file's result."""
        if self.narrowest:
            return " and ".join(self.narrowest)
        return "sensor" if self.sustained_fps is None else "nothing in this hold"

    def _frames_gained(self, parts: Collection[PartName]) -> tuple[float, float]:
        """Frames gained, and how much earlier they come, as frames gained on average over time."""
        scenario = self.result.scenario
        better = simulate(better_scenario(scenario, parts))
        earlier = _frame_seconds(better) - _frame_seconds(self.result)
        return better.frames - self.result.frames, earlier / (scenario.end_ns / NS_IN_S)


def sustained_fps(regime: Regime) -> float | None:
    """Frames a second once memory is full, in this regime; None where the camera keeps up."""
    fps = _timed_fps(regime) if _is_tight(regime) else regime.camera_fps
    return None if keeps_up(fps, regime.scenario.frame_rate_fps) else fps


def better_scenario(
    scenario: Scenario, parts: Collection[PartName], by: float = BETTER
) -> Scenario:
    """`scenario` with each of `parts` better by the factor `by`."""
    slots = [
        _better_slot(slot, by) if {f"slot {number}", f"card {number}"} & set(parts) else slot
        for number, slot in enumerate(scenario.slots, 1)
    ]
    process_fps = scenario.process_fps
    if "encoder" in parts and process_fps is not None:
        process_fps *= by
    return replace(scenario, slots=tuple(slots), process_fps=process_fps)


def _better_slot(slot: LoadedSlot, by: float) -> LoadedSlot:
    """Card, slot and bus alike, so that none of them stands in the way of the other."""
    speeds = ("write_mb_s", "cache_write_mb_s", "cache_flush_mb_s", "slot_limit_mb_s", "bus_mb_s")
    known = {name: value * by for name in speeds if (value := getattr(slot, name)) is not None}
    return replace(slot, **known, overhead_s=slot.overhead_s / by)


def _better(regime: Regime, parts: Collection[PartName]) -> Regime:
    scenario = better_scenario(regime.scenario, parts)
    speeds = {
        slot: speed * scenario.slots[slot].write_mb_s / regime.scenario.slots[slot].write_mb_s
        for slot, speed in regime.write_mb_s.items()
    }
    return Regime(scenario, speeds)


def _names(regime: Regime) -> list[PartName]:
    """The parts that can be made better."""
    return [part.name for part in regime.path if part.name != "sensor"]


def _most_gained(names: Sequence[PartName], gain_of: Callable[[Parts], _Gain]) -> Parts:
    """The part with the largest gain, or those that tie; several at once where one is no gain.

    None of them where nothing is a gain.
    """
    gains = {name: gain_of(Parts([name])) for name in names}
    best = max(gains.values())
    together = {parts: gain_of(parts) for parts in _groups(names)}
    for parts, gain in together.items():
        brings_something = gain[-1] > 0 and gain >= best
        if brings_something and best[-1] <= gain[-1] / 10:
            return parts
    if not any(best):
        return NO_PART
    return Parts(name for name in names if _ties(gains[name], best))


def _groups(names: Sequence[PartName]) -> Iterator[Parts]:
    for size in range(2, len(names) + 1):
        yield from map(Parts, combinations(names, size))


def _ties(gain: _Gain, best: _Gain) -> bool:
    return gain[:-1] == best[:-1] and gain[-1] >= best[-1] - TIE * abs(best[-1])


def _frame_seconds(result: Result) -> float:
    """The time that each frame has been taken for when the finger is up, added up."""
    return float(np.sum(result.scenario.end_ns - result.taken_ns)) / NS_IN_S


def _fluid_depth(regime: Regime) -> float:
    """Burst depth if data flowed: memory over what it takes in a frame's time, less what it gives.

    Frames wait for the encoder at their held size where it is slower than the sensor, and for the
    writer at the size of their files where that is slower than the encoder.
    """
    scenario, rate = regime.scenario, regime.scenario.frame_rate_fps
    encoder_fps = min(rate, scenario.process_fps or math.inf)
    writer_fps = min(encoder_fps, regime.writer_fps)
    filling_bytes_s = (rate - encoder_fps) * scenario.frame_bytes
    filling_bytes_s += (encoder_fps - writer_fps) * scenario.file_bytes
    return rate * scenario.memory_bytes / max(filling_bytes_s, 1e-6)


def _is_tight(regime: Regime) -> bool:
    """Whether memory has too little room for encoder and writer to work side by side all the time.

    When the body fires again, frames must be left that keep the writer busy until the encoder has
    finished the next one.
    """
    scenario = regime.scenario
    if scenario.process_fps is None:
        left = 1
    else:
        left = 1 + math.ceil(regime.writer_fps / scenario.process_fps)
    needed_bytes = scenario.resume_free_frames * scenario.frame_bytes + left * scenario.file_bytes
    return needed_bytes > scenario.memory_bytes


def _timed_fps(regime: Regime) -> float:
    """The long-run rate, timed on a hold long enough for many rounds of filling and draining."""
    scenario = regime.scenario
    speeds = {
        slot: LoadedSlot(write_mb_s=speed, overhead_s=scenario.slots[slot].overhead_s)
        for slot, speed in regime.write_mb_s.items()
    }
    frames_at_once = scenario.memory_bytes / scenario.frame_bytes
    round_s = frames_at_once * (1 / regime.camera_fps + 1 / scenario.frame_rate_fps)
    steady = replace(
        scenario,
        slots=tuple(speeds.values()),
        arrangement=Arrangement.SINGLE if len(speeds) == 1 else scenario.arrangement,
        later_holds=(),
        hold_s=min(TIMED_CYCLES * round_s, HOLD_S.highest),
    )
    shot = simulate(steady)
    if shot.wall_ns is None:
        return scenario.frame_rate_fps
    after = shot.taken_ns[shot.frames_taken_before(shot.wall_ns) :]
    # From the start of one run of frames to the start of another, so that silences count as often
    # as runs; a run starts after the longest silences.
    starts = np.flatnonzero(np.diff(after, prepend=0) >= np.diff(after).max(initial=0) * 0.999)
    first, last = (int(starts[0]), int(starts[-1])) if len(starts) > 1 else (0, len(after) - 1)
    if last <= first:  # one run of frames, or none within the longest hold
        return regime.camera_fps
    return (last - first) / (int(after[last]) - int(after[first])) * NS_IN_S
