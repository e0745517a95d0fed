"""How sure a prediction is: a middle and an 80 % range, from where each number came from."""

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from engine.ranges import HIGH, LOW, MIDDLE
from engine.scenario import Scenario
from engine.sweep import Outcomes, Spread, sweep
from engine.units import NS_IN_S

Source = Literal["measured_here", "measured_elsewhere", "printed", "estimated"]

# Relative standard deviations by source. The order is that of docs/model.md; the sizes are
# Ondata's own working assumptions until repeated runs on the bench give a body's own spread:
# runs with one body and card repeat within a frame or two in a hundred, the same card in another
# body within some per cent, and a class mark leaves a factor open.
SPREAD_OF_SOURCE: dict[Source, float] = {
    "measured_here": 0.02,
    "measured_elsewhere": 0.06,
    "printed": 0.10,
    "estimated": 0.20,
}
DRAWS = 200
KNIFE_EDGE = 1.6  # a burst depth whose range spans more than this factor


@dataclass(frozen=True)
class Sources:
    """Where the numbers of a set-up came from.

    Each is a source, or a relative standard deviation of its own, as an estimate from a card's
    marks has. `write` has an entry for each slot in use.
    """

    file_size: Source | float
    write: tuple[Source | float, ...]
    memory: Source | float
    encoder: Source | float
    frame_to_frame: float  # standard deviation of file size from frame to frame, relative

    def spread(self) -> Spread:
        """The relative standard deviations that follow."""
        return Spread(
            frame_to_frame=self.frame_to_frame,
            file_size=spread_of(self.file_size),
            write_1=spread_of(self.write[0]),
            write_2=spread_of(self.write[-1]),
            memory=spread_of(self.memory),
            encoder=spread_of(self.encoder),
        )


def spread_of(source: Source | float) -> float:
    """The relative standard deviation that follows from a source, or that is given itself."""
    return source if isinstance(source, float) else SPREAD_OF_SOURCE[source]


@dataclass(frozen=True)
class Interval:
    """A middle and the ends of the range that four draws in five lie in.

    For a burst depth, None stands for no wall.
    """

    low: float | None
    middle: float | None
    high: float | None


@dataclass(frozen=True)
class Confidence:
    """The ranges of one prediction.

    `wall_share` is the share of draws that meet the wall within the hold; `knife_edge` tells that
    the burst depth, in a hold long enough, spans more than a factor KNIFE_EDGE.
    """

    frames: Interval
    frames_at_full_speed: Interval
    clear_s: Interval
    sustained_fps: Interval
    wall_share: float
    knife_edge: bool


@lru_cache(maxsize=512)  # pinned set-ups are asked for again at every change beside them
def confidence(scenario: Scenario, sources: Sources, draws: int = DRAWS) -> Confidence:
    """The ranges of what `simulate` predicts for `scenario`; the same at every call."""
    outcomes = _shoot(scenario, sources, draws)
    depths = outcomes.frames_at_full_speed[0]
    depth = _depth(outcomes)
    return Confidence(
        frames=_interval(outcomes.frames[0]),
        frames_at_full_speed=depth,
        clear_s=_interval(outcomes.clear_ns[0] / NS_IN_S),
        sustained_fps=_interval(
            np.minimum(NS_IN_S / outcomes.frame_ns[0], scenario.frame_rate_fps)
        ),
        wall_share=float((depths >= 0).mean()),
        knife_edge=_is_knife_edge(scenario, sources, draws, depth),
    )


def _is_knife_edge(scenario: Scenario, sources: Sources, draws: int, depth: Interval) -> bool:
    low, high = depth.low, depth.high
    if not low:
        return False
    if high is None:
        # The hold may be too short to tell: one that just lets the factor show decides.
        long_enough_s = 1.1 * KNIFE_EDGE * low / scenario.frame_rate_fps
        longer = replace(scenario, hold_s=max(scenario.hold_s, long_enough_s))
        high = _depth(_shoot(longer, sources, draws)).high
    return high is None or high > KNIFE_EDGE * low


def _shoot(scenario: Scenario, sources: Sources, draws: int) -> Outcomes:
    return sweep([scenario], [sources.spread()], draws)


def _depth(outcomes: Outcomes) -> Interval:
    depths = outcomes.frames_at_full_speed[0]
    return _interval(np.where(depths < 0, np.inf, depths))


def _interval(values: NDArray[np.float64] | NDArray[np.int64]) -> Interval:
    ends = np.quantile(values, (LOW, MIDDLE, HIGH), method="nearest")
    return Interval(*(float(end) if np.isfinite(end) else None for end in ends))
