"""Runs of a body drawn from what is assumed of it, with the errors that people make."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from engine.figures.key import FigureKey
from engine.measurement.forward import Seen, seen_by
from engine.measurement.population import Population
from engine.measurement.runs import CLEAR_S, Observed, ObservedRun


def stand_in_runs(
    runs: Sequence[ObservedRun], seed: int = 0, normals: Mapping[FigureKey, float] | None = None
) -> tuple[Population, list[ObservedRun]]:
    """A body drawn from what `runs` assume of it, and the runs with what testing it would show.

    Human error is in it: counts, thumbs and ears err as `runs.ACCURACY` says. What the given runs
    have observed says what is noted; the figures are replaced. Figures in `normals` are as far
    from what is assumed of them, as standard normals.
    """
    random = np.random.default_rng(seed)
    # How many frames a burst really has is not known before it is shot.
    truth = Population.drawn([replace(run, observed=Observed()) for run in runs], 1, random)
    for key, normal in (normals or {}).items():
        truth.normals[:, truth.unknowns.column[key]] = normal
    shown = seen_by(truth, runs)
    return truth, [
        replace(run, observed=_observed(run, shown, place, random))
        for place, run in enumerate(runs)
    ]


def _observed(run: ObservedRun, seen: Seen, place: int, random: np.random.Generator) -> Observed:
    noted, accuracy = run.observed, run.accuracy

    def erring(value: float, deviation: float) -> float:
        all_of_it = 1 + accuracy.of_all * random.standard_normal()
        return value * all_of_it + deviation * random.standard_normal()

    frames = max(1, round(erring(float(seen.frames[0, place]), accuracy.count_frames)))
    depth = max(1, round(erring(float(seen.depths[0, place]), accuracy.depth_frames)))
    clear_s = max(0.0, accuracy.late_s + erring(float(seen.clear_s[0, place]), accuracy.clear_s))
    heard = noted.frames_at_full_speed is not None or noted.did_not_slow
    walled = bool(seen.walls[0, place])
    return Observed(
        frames_at_full_speed=min(depth, frames) if heard and walled else None,
        full_speed_tapped=noted.full_speed_tapped,
        did_not_slow=heard and not walled,
        frames=None if noted.frames is None else frames,
        clear_s=clear_s if noted.clear_s is not None and clear_s < CLEAR_S.highest else None,
        frame_rate_fps=noted.frame_rate_fps
        and float(seen.rate_fps[0, place] * np.exp(accuracy.rate * random.standard_normal())),
        files_mb=noted.files_mb
        and float(seen.files_mb[0, place] * np.exp(accuracy.size * random.standard_normal())),
    )
