"""Why a prediction is wide: a set-up too close to call, or one input that is badly known."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from engine.burst.bottleneck import better_scenario
from engine.burst.event_loop import NEVER
from engine.burst.scenario import HOLD_S, LoadedSlot, Scenario
from engine.burst.simulate import simulate
from engine.figures.key import Factor
from engine.uncertainty.draws import Draws
from engine.uncertainty.intervals import Interval, confidence
from engine.uncertainty.sources import Sources
from engine.uncertainty.sweep import sweep

SHARE = 0.05  # what write time and file size are changed by, either way
FACTOR = 1.8  # what the burst depth moves by where it is too close to call
# Of the frame rate, what the camera writes where it may be so: a wall that SHARE moves by FACTOR
# has
# (1 - x) >= FACTOR (1 - (1 + SHARE) x), so that x is 0.9 at least; beyond 1 + SHARE is none.
LEAST_SHARE, MOST_SHARE = 0.8, 1 + 2 * SHARE
WIDE = 1.3  # a range whose ends differ by this factor is worth saying why
DRAWS_OF_ONE = 10  # of one input at a time
MOST_FRAMES_OF_ONE = 20_000  # in these draws; a longer hold is cut, as the wall is at its beginning


@dataclass(frozen=True)
class TooClose:
    """A burst depth that nobody can foresee: sustained and frame rate are as good as equal.

    `camera_fps` is what the camera writes a second against `frame_rate_fps`; a few per cent either
    way put the wall at `low` frames or at `high` (None: nowhere).
    """

    camera_fps: float
    frame_rate_fps: float
    low: int
    high: int | None


@lru_cache(maxsize=512)
def too_close_to_call(scenario: Scenario) -> TooClose | None:
    """Whether write time or file size SHARE off move the burst depth by FACTOR, or to no wall.

    Judged by the nominal set-up, on cards with room, and in a hold long enough
    for the wall. None where that is not so, or where it makes no difference to this hold, as even
    the shallowest burst outlasts it.
    """
    roomy = replace(scenario, later_holds=(), slots=tuple(map(_with_room, scenario.slots)))
    shot = simulate(roomy)
    camera_fps = shot.final_regime.camera_fps
    if not LEAST_SHARE < camera_fps / scenario.frame_rate_fps < MOST_SHARE:
        return None
    changed = list(_changed(roomy))
    depths = (shot.frames_at_full_speed, *map(_depth, changed))
    shallow = [depth for depth in depths if depth is not None]
    if not shallow:
        return None
    low = min(shallow)
    nominal = _depth(_longer(roomy, low))
    deep = _deepest(changed, nominal or low)
    if nominal is not None and deep is not None and max(nominal / low, deep / nominal) < FACTOR:
        return None
    return TooClose(camera_fps, scenario.frame_rate_fps, low, deep)


def _deepest(scenarios: list[Scenario], depth: int) -> int | None:
    depths = [_depth(_longer(one, depth)) for one in scenarios]
    return None if None in depths else max(depth for depth in depths if depth is not None)


def _with_room(slot: LoadedSlot) -> LoadedSlot:
    return replace(slot, free_mb=None, slow_below_free_mb=0.0)


def _changed(scenario: Scenario) -> Iterator[Scenario]:
    for factor in (1 - SHARE, 1 + SHARE):
        yield better_scenario(scenario, ("slot 1", "slot 2"), 1 / factor)
        files = tuple(replace(file, mb=file.mb * factor) for file in scenario.files)
        if max(scenario.held_mb, sum(file.mb for file in files)) <= scenario.memory_mb:
            yield replace(scenario, files=files)


def _longer(scenario: Scenario, depth: int) -> Scenario:
    """A hold in which a wall FACTOR beyond `depth` frames still shows."""
    hold_s = (FACTOR * max(depth, 1) + 2) / scenario.frame_rate_fps
    return replace(scenario, hold_s=min(max(scenario.hold_s, hold_s), HOLD_S.highest))


def _depth(scenario: Scenario) -> int | None:
    return simulate(scenario).frames_at_full_speed


@lru_cache(maxsize=512)
def widest_input(scenario: Scenario, sources: Sources) -> Factor | None:
    """The input that alone spreads the burst most.

    By frames at full speed, and those of the hold where no wall is met. None where nothing spreads
    it by as much as WIDE.
    """
    said = confidence(scenario, sources)
    if not any(map(_is_wide, (said.frames, said.frames_at_full_speed))):
        return None
    factors = sources.varying
    if not factors:
        return None
    alone = [Draws(DRAWS_OF_ONE, only=[factor]) for factor in factors]
    came = sweep([_cut(scenario)] * len(factors), [sources] * len(factors), alone)
    depths = came.frames_at_full_speed
    reached = np.where(depths == NEVER, came.frames, depths) + 1
    low, high = np.quantile(reached, (0.1, 0.9), axis=1)
    widths = high / low
    widest = int(widths.argmax())
    return factors[widest] if widths[widest] > WIDE else None


def _is_wide(interval: Interval) -> bool:
    low, high = interval.low, interval.high
    return low is not None and (high is None or high > WIDE * max(low, 1.0))


def _cut(scenario: Scenario) -> Scenario:
    """The first hold alone, and no more of it than can be shot at once."""
    most_s = MOST_FRAMES_OF_ONE / DRAWS_OF_ONE / scenario.frame_rate_fps
    return replace(scenario, later_holds=(), hold_s=min(scenario.hold_s, most_s))
