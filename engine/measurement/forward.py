"""Every run, shot by every body of a population, and how well that fits what was seen."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from engine.burst.event_loop import ALL_WRITTEN_NS, DEPTH, FRAMES, HOLD_OUTCOME_LENGTH, NEVER
from engine.burst.plan import COUNTED_UNTIL_NS, FINGER_UP_NS, NOMINAL
from engine.cores import on_all_cores
from engine.measurement.population import Population, PopulationDraws
from engine.measurement.runs import Run
from engine.quantities import NS_IN_S
from engine.uncertainty.draws import drawn_holds, drawn_plans
from engine.uncertainty.sweep import shoot_all

Real = NDArray[np.float64]

SHORTEST_HOLD_S = 0.001
WHOLE = 1 / math.sqrt(12)  # deviation that comes of counting in whole frames
WILD_SHARE, WILD_RATIO = 0.02, 10.0  # of observations, and how much further off they are


@dataclass(frozen=True)
class Seen:
    """What each guess at the body (first axis) would have shown of one run.

    `depths` are at least one above the frames of the hold where it meets no wall.
    """

    depths: Real
    walls: NDArray[np.bool_]
    frames: Real
    clear_s: Real
    rate_fps: Real
    files_mb: Real


def seen_by(population: Population, runs: Sequence[Run]) -> list[Seen]:
    """What every guess would have shown of every run."""
    return on_all_cores(lambda place: _seen(population, runs[place], place), range(len(runs)))


def _seen(population: Population, run: Run, place: int) -> Seen:
    count = population.count
    bursts = np.exp(population.bursts[:, place])
    draws = PopulationDraws(population, dict(run.figures), bursts)
    sources = replace(run.sources, file_to_file=0.0)
    plans = drawn_plans(run.scenario, sources, draws)
    holds = drawn_holds(run.scenario, sources, draws)
    hold_s = np.maximum(run.scenario.hold_s + population.holds_s[:, place], SHORTEST_HOLD_S)
    finger_up_ns = np.rint(hold_s * NS_IN_S).astype(np.int64)
    holds[:, 0, FINGER_UP_NS] = holds[:, 0, COUNTED_UNTIL_NS] = finger_up_ns
    outcomes = np.empty((count, 1, HOLD_OUTCOME_LENGTH), dtype=np.int64)
    card_full, frame_ns = np.empty(count, dtype=np.bool_), np.empty(count, dtype=np.int64)
    same_size = np.full((count, 1), NOMINAL, dtype=np.int32)
    shoot_all(plans, holds, same_size, outcomes, card_full, frame_ns)
    frames, depths = outcomes[:, 0, FRAMES], outcomes[:, 0, DEPTH]
    clear_ns = np.maximum(outcomes[:, 0, ALL_WRITTEN_NS] - finger_up_ns, 0)
    return Seen(
        depths=np.where(depths == NEVER, frames + 1, depths).astype(np.float64),
        walls=depths != NEVER,
        frames=frames.astype(np.float64),
        clear_s=clear_ns / NS_IN_S,
        rate_fps=NS_IN_S / plans["interval_ns"],
        files_mb=sum(file.mb for file in run.scenario.files) * bursts,
    )


def misfits(run: Run, seen: Seen) -> dict[str, Real]:
    """How far each observation is from what the guesses show, in standard deviations."""
    observed, accuracy = run.observed, run.accuracy
    found: dict[str, Real] = {}

    def note(name: str, value: float | None, shown: Real, deviation: float) -> None:
        if value is not None:
            found[name] = (shown - value) / math.hypot(deviation, accuracy.of_all * value)

    depth = observed.frames_at_full_speed
    note("frames_at_full_speed", depth, seen.depths, math.hypot(accuracy.depth_frames, WHOLE))
    if observed.did_not_slow:
        short = np.where(seen.walls, seen.depths - seen.frames - 1, 0)
        found["did_not_slow"] = short / accuracy.depth_frames
    note("frames", observed.frames, seen.frames, math.hypot(accuracy.count_frames, WHOLE))
    note("clear_s", observed.clear_s, seen.clear_s, accuracy.clear_s)
    if observed.frame_rate_fps is not None:
        ratio = seen.rate_fps / observed.frame_rate_fps
        found["frame_rate_fps"] = np.log(ratio) / accuracy.rate
    if observed.files_mb is not None:
        found["files_mb"] = np.log(seen.files_mb / observed.files_mb) / accuracy.size
    return found


def log_likelihood(runs: Sequence[Run], seen: Sequence[Seen]) -> Real:
    """How likely what was seen is (axes: guess, run), on the scale of logarithms.

    Errors are normal, but for a few that are far off (a mixture of two normals): a slip of the
    thumb does not pull everything along.
    """
    columns = [
        sum(
            (_log_density(one) for one in misfits(run, shown).values()),
            start=np.zeros(len(shown.frames)),
        )
        for run, shown in zip(runs, seen, strict=True)
    ]
    return np.stack(columns, axis=1)


def _log_density(misfit: Real) -> Real:
    usual = np.log1p(-WILD_SHARE) - misfit**2 / 2
    wild = np.log(WILD_SHARE / WILD_RATIO) - (misfit / WILD_RATIO) ** 2 / 2
    return np.asarray(np.logaddexp(usual, wild))
