"""Every run, shot by every body of a population, and how well that fits what was seen."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from engine.burst.event_loop import ALL_WRITTEN_NS, DEPTH, FRAMES, HOLD_OUTCOME_LENGTH, NEVER
from engine.burst.plan import (
    COUNTED_UNTIL_NS,
    FILE_SIZE,
    FINGER_UP_NS,
    NOMINAL,
    Records,
    holds_of,
    parts_of_nominal,
)
from engine.cores import in_parts
from engine.measurement.population import Population, PopulationDraws, Whole
from engine.measurement.runs import ObservedRun
from engine.quantities import HIGH, LOW, NS_IN_S
from engine.uncertainty.sweep import shoot_all
from engine.uncertainty.tables import drawn_plans

Real = NDArray[np.float64]

SHORTEST_HOLD_S = 0.001
FEWEST_OF_KIND = 3  # to tell whether a kind of figure fits
OF_LOGARITHM = ("frame_rate_fps", "files_mb")  # deviations of these are
OBSERVED = ("frames_at_full_speed", "frames", "clear_s", "frame_rate_fps", "files_mb")


@dataclass(frozen=True)
class Seen:
    """What each guess at the body (first axis) would have shown of each run (second axis).

    `depths` are one above the frames of the hold where it meets no wall.
    """

    depths: Real
    walls: NDArray[np.bool_]
    frames: Real
    clear_s: Real
    rate_fps: Real
    files_mb: Real


@dataclass(frozen=True)
class Noted:
    """What was noted of each run, by the names of `Observed`, and how exactly; NaN: it was not."""

    values: dict[str, Real]
    deviations: dict[str, Real]
    did_not_slow: NDArray[np.bool_]

    @classmethod
    def of(cls, runs: Sequence[ObservedRun]) -> "Noted":
        """Standard deviations: in frames and seconds, or of the logarithm of rate and size."""

        def column(name: str) -> Real:
            found = [getattr(run.observed, name) for run in runs]
            return np.array([np.nan if value is None else float(value) for value in found])

        values = {name: column(name) for name in OBSERVED}
        late_s = np.array([run.accuracy.late_s for run in runs])
        values["clear_s"] = np.maximum(values["clear_s"] - late_s, 0.0)
        of_runs = [run.accuracy.deviations(run.observed) for run in runs]
        return cls(
            values,
            {name: np.array([one[name] for one in of_runs]) for name in OBSERVED},
            np.array([run.observed.did_not_slow for run in runs]),
        )

    def with_errors(self, ratio: float) -> "Noted":
        """The same, noted so many times less exactly."""
        return replace(
            self, deviations={name: ratio * one for name, one in self.deviations.items()}
        )

    def range_of(self, name: str, misfits: Real) -> tuple[float, float, float]:
        """What was noted of the first run, and the ends of what misfits to it come to."""
        if name == "did_not_slow":
            return 1.0, 0.0, 0.0
        value, deviation = float(self.values[name][0]), float(self.deviations[name][0])
        low, high = map(float, np.quantile(misfits, (LOW, HIGH)) * deviation)
        if name in OF_LOGARITHM:
            return value, value * math.exp(low), value * math.exp(high)
        return value, max(value + low, 0.0), max(value + high, 0.0)


def seen_by(population: Population, runs: Sequence[ObservedRun]) -> Seen:
    """What every guess would have shown of every run, by the event loop of all predictions."""
    plans = _plans(population, runs)
    bursts = np.exp(population.bursts)
    holds = np.stack([holds_of(run.scenario) for run in runs])
    holds = np.repeat(holds[None], population.count, axis=0)
    noted_s = np.array([run.scenario.hold_s for run in runs])
    hold_s = np.maximum(noted_s + population.holds_s, SHORTEST_HOLD_S)
    finger_up_ns = np.rint(hold_s * NS_IN_S).astype(np.int64)
    holds[:, :, 0, FINGER_UP_NS] = holds[:, :, 0, COUNTED_UNTIL_NS] = finger_up_ns
    holds[:, :, 0, FILE_SIZE] = parts_of_nominal(bursts)
    outcomes = _outcomes(plans, holds)
    frames, depths = outcomes[..., FRAMES], outcomes[..., DEPTH]
    files_mb = np.array([sum(file.mb for file in run.scenario.files) for run in runs])
    return Seen(
        depths=np.where(depths == NEVER, frames + 1, depths).astype(np.float64),
        walls=depths != NEVER,
        frames=frames.astype(np.float64),
        clear_s=np.maximum(outcomes[..., ALL_WRITTEN_NS] - finger_up_ns, 0) / NS_IN_S,
        rate_fps=NS_IN_S / plans["interval_ns"],
        files_mb=files_mb * bursts,
    )


def _plans(population: Population, runs: Sequence[ObservedRun]) -> Records:
    """All (axes: guess, run), but for the sizes of files and how long the button is down."""
    unsized = np.ones(population.count)
    plans = [
        drawn_plans(run.scenario, run.sources, PopulationDraws(population, run.figures, unsized))
        for run in runs
    ]
    return np.stack(plans, axis=1)


def _outcomes(plans: Records, holds: Whole) -> Whole:
    """What the event loop tells of each plan's one hold, frames of a burst all of one size."""
    draws = plans.size
    outcomes = np.empty((draws, 1, HOLD_OUTCOME_LENGTH), dtype=np.int64)
    in_parts(shoot_all, (
        plans.reshape(draws), holds.reshape(draws, 1, -1),
        np.full((draws, 1), NOMINAL, dtype=np.int32), outcomes,
        np.empty(draws, dtype=np.int64), np.empty(draws, dtype=np.int64),
    ))  # fmt: skip
    return outcomes.reshape(*plans.shape, -1)


def usual_misfit(noted: Noted, seen: Seen) -> float:
    """How far off one kind of figure usually is, in deviations; of the kind that fits worst.

    In those of what the guesses show and of noting it together, so that it is 1 where these are
    right. By the median, so that a few slips are left aside; kinds that were noted of fewer than
    FEWEST_OF_KIND runs tell nothing.
    """
    usual = [0.0]
    for of_kind in misfits(noted, seen).values():
        told = of_kind[:, ~np.isnan(of_kind).any(axis=0)]
        if told.shape[1] >= FEWEST_OF_KIND:
            off = np.median(told, axis=0) / np.hypot(told.std(axis=0), 1)
            usual.append(float(np.median(np.abs(off)) / ndtri(0.75)))
    return max(usual)


def misfits(noted: Noted, seen: Seen) -> dict[str, Real]:
    """How far what the guesses show is from what was noted, in standard deviations, or NaN."""
    values, deviations = noted.values, noted.deviations
    shown = {"frames_at_full_speed": seen.depths, "frames": seen.frames, "clear_s": seen.clear_s}
    found = {name: (one - values[name]) / deviations[name] for name, one in shown.items()}
    of_logarithm = zip(OF_LOGARITHM, (seen.rate_fps, seen.files_mb), strict=True)
    for name, one in of_logarithm:
        found[name] = np.log(one / values[name]) / deviations[name]
    short = np.where(seen.walls, seen.depths - seen.frames - 1, 0)
    short = short / deviations["frames_at_full_speed"]
    found["did_not_slow"] = np.where(noted.did_not_slow, short, np.nan)
    return found
