"""What would change a burst: each change tried, and what it brings."""

from dataclasses import dataclass

from engine.rates import used_slots, writing_s
from engine.result import Result
from engine.scenario import Scenario
from engine.simulate import simulate
from engine.units import BYTES_IN_MB


@dataclass(frozen=True)
class Lever:
    """A change that was tried, and what it brings against the burst as it was.

    Gains are positive for more frames, and for a light out sooner; `gained_at_full_speed` is None
    unless both meet the wall. `goes_endless` tells that the wall, met before, is not met any more.
    """

    result: Result
    gained_frames: int
    gained_at_full_speed: int | None
    sooner_s: float
    goes_endless: bool

    @property
    def order(self) -> tuple[int, float]:
        """Sorts the most frames first, then the soonest light out."""
        return -self.gained_frames, -self.sooner_s


def try_change(base: Result, changed: Scenario) -> Lever:
    """What `changed` brings against `base`."""
    tried = simulate(changed)
    before, after = base.frames_at_full_speed, tried.frames_at_full_speed
    return Lever(
        result=tried,
        gained_frames=tried.frames - base.frames,
        gained_at_full_speed=None if before is None or after is None else after - before,
        sooner_s=base.clear_s - tried.clear_s,
        goes_endless=before is not None and after is None and tried.card_full_s is None,
    )


def endless_write_mb_s(scenario: Scenario, slot: int) -> float | None:
    """Write speed of `slot` (0 or 1) from which it never holds the burst up.

    The frame's share of that slot within one frame interval, less the overhead and, where one
    writer serves both slots in turn, the other slot's time. None when no speed is enough, or the
    encoder is slower than the frame rate.
    """
    if scenario.encode_ns > scenario.frame_interval_ns:
        return None
    others = [number for number in used_slots(scenario) if number != slot]
    overhead_s = scenario.slots[slot].overhead_s
    left_s = 1 / scenario.frame_rate_fps - overhead_s
    for other in others:
        if scenario.coupling == "serial":
            left_s -= writing_s(scenario, other)
        elif scenario.coupling == "slowest":
            left_s -= max(0.0, scenario.slots[other].overhead_s - overhead_s)
    if left_s <= 0:
        return None
    return scenario.timed_bytes(slot) / BYTES_IN_MB / left_s
