"""What-ifs: changes of a burst that were tried, what each brings, and what would end the wall."""

import math
from dataclasses import dataclass

import numpy as np

from engine.burst.plan import COUPLING_NUMBER, FILE_SIZE, NOMINAL, SLOT, Records, slot_plan
from engine.burst.result import Result
from engine.burst.scenario import Scenario
from engine.burst.simulate import simulate
from engine.quantities import NOTICED_S, NOTICED_SHARE
from engine.uncertainty.draws import Draws, drawn_holds
from engine.uncertainty.intervals import draws_for
from engine.uncertainty.sources import Sources
from engine.uncertainty.tables import drawn_plans, drawn_slots

IN_MOST = 0.8  # of all draws: what is promised holds in as many


@dataclass(frozen=True)
class WhatIf:
    """A change that was tried, and what it brings against the burst as it was.

    `frames`, `full_speed_s` (up to the wall, a full card or the end of the hold) and `clear_s` are
    what comes of the change; `wall_s` is when it meets the wall, None: it doesn't. Gains are
    positive for more frames, for a longer time at full speed, and for a light out sooner.
    `ends_wall` tells that the wall, met before, is not met any more.
    """

    frames: int
    wall_s: float | None
    full_speed_s: float
    clear_s: float
    gained_frames: int
    longer_full_speed_s: float
    sooner_s: float
    ends_wall: bool

    @property
    def gains(self) -> bool:
        """Whether somebody would notice that it is better, and it costs no frames to speak of."""
        before = self.frames - self.gained_frames
        least_frames = max(1.0, NOTICED_SHARE * before)
        if self.gained_frames >= least_frames:
            return True
        sooner = self.moves_light and self.sooner_s > 0 and self.gained_frames >= 0
        return (self.prolongs_full_speed or sooner) and self.gained_frames > -least_frames

    @property
    def moves_light(self) -> bool:
        """Whether somebody would notice that the light goes out sooner, or later."""
        return abs(self.sooner_s) >= NOTICED_S

    @property
    def prolongs_full_speed(self) -> bool:
        """Whether somebody would notice that full speed lasts longer."""
        return self.longer_full_speed_s >= NOTICED_S

    @property
    def order(self) -> tuple[int, float, float]:
        """Sorts the most frames first, then the longest at full speed, then the soonest light."""
        return -self.gained_frames, -self.longer_full_speed_s, -self.sooner_s

    def is_noticed_beside(self, other: "WhatIf") -> bool:
        """Whether somebody would notice that it brings more than `other`."""
        frames = self.gained_frames - other.gained_frames
        longer_s = self.longer_full_speed_s - other.longer_full_speed_s
        sooner_s = self.sooner_s - other.sooner_s
        return (
            frames >= max(1.0, NOTICED_SHARE * other.frames)
            or longer_s >= max(NOTICED_S, NOTICED_SHARE * other.full_speed_s)
            or sooner_s >= max(NOTICED_S, NOTICED_SHARE * other.clear_s)
        )


def try_change(base: Result, changed: Scenario) -> WhatIf:
    """What `changed` brings against `base`."""
    return gain(base, simulate(changed))


def gain(base: Result, tried: Result) -> WhatIf:
    """What the burst `tried` brings against `base`."""
    return WhatIf(
        frames=tried.frames,
        wall_s=tried.full_speed_s,
        full_speed_s=_full_speed_s(tried),
        clear_s=tried.clear_s,
        gained_frames=tried.frames - base.frames,
        longer_full_speed_s=_full_speed_s(tried) - _full_speed_s(base),
        sooner_s=base.clear_s - tried.clear_s,
        ends_wall=base.wall_ns is not None and tried.wall_ns is None and tried.card_full_s is None,
    )


def _full_speed_s(result: Result) -> float:
    """Seconds at full speed: up to the wall, a full card, or the end of the hold."""
    if result.full_speed_s is not None:
        return result.full_speed_s
    return result.scenario.hold_s if result.card_full_s is None else result.card_full_s


def no_wall_write_mb_s(scenario: Scenario, sources: Sources, slot: int) -> float | None:
    """Effective write speed from which `slot` (0 or 1) holds the burst up in no more than 1 of 5.

    What it needs differs with the draws of `sources`: the frame's share of that slot within one
    frame interval, less the overhead and, where one writer serves both slots, the other slot's
    time. The speed is one that is enough in IN_MOST of them. None when no speed is, as where the
    encoder is slower than the frame rate.
    """
    draws = Draws(draws_for(scenario))
    bodies = drawn_plans(scenario, sources, draws)
    size = drawn_holds(scenario, sources, draws)[:, 0, FILE_SIZE] / NOMINAL
    both = scenario.arrangement.writes_both
    others = [number for number in range(2 if both else 1) if number != slot]
    wait_ns = _drawn_slot(scenario, sources, draws, slot)["overhead_ns"]
    left_ns = (bodies["interval_ns"] - wait_ns).astype(np.float64)
    for other in others:
        other_slot = _drawn_slot(scenario, sources, draws, other)
        in_turn_ns = other_slot["overhead_ns"] + other_slot["transfer_ns"] * size
        waits_more_ns = np.maximum(other_slot["overhead_ns"] - wait_ns, 0)
        left_ns -= np.where(bodies["coupling"] == COUPLING_NUMBER["serial"], in_turn_ns, 0)
        left_ns -= np.where(bodies["coupling"] == COUPLING_NUMBER["slowest"], waits_more_ns, 0)
    slowest = bodies["coupling"] == COUPLING_NUMBER["slowest"]
    share = np.where(slowest & both, scenario.file_bytes, scenario.bytes_to(slot))
    can = (left_ns > 0) & (bodies["encode_ns"] <= bodies["interval_ns"])
    # Bytes a microsecond are megabytes a second.
    needed = np.where(can, share * size * 1e3 / np.where(can, left_ns, 1), math.inf)
    enough = float(np.sort(needed)[math.ceil(IN_MOST * len(needed)) - 1])
    return enough if math.isfinite(enough) else None


def _drawn_slot(scenario: Scenario, sources: Sources, draws: Draws, number: int) -> Records:
    slot = scenario.slots[number]
    nominal = slot_plan(slot, scenario.bytes_to(number), scenario.timed_bytes(number))
    rows = np.array([nominal], dtype=SLOT)
    return np.asarray(drawn_slots(rows, [(slot, sources.slots[number], draws)], number)[0])
