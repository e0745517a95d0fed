"""How well hidden figures are learnt: by method, and by which runs are made; run by bin/bench.

Every body is drawn from what is assumed of it, and tested with human error in it.
"""

import sys
import time
from collections.abc import Sequence
from dataclasses import replace

import elsewhere
import numpy as np

from engine.burst.scenario import File
from engine.burst.simulate import simulate
from engine.estimates.side import AssumedCard, AssumedSlot
from engine.figures.figure import Figure
from engine.figures.key import FigureKind
from engine.figures.uncertainty import LogNormal, LogUniform
from engine.measurement.assumed import AssumedBody, AssumedFormat, AssumedSetup, setup_of
from engine.measurement.experimental_design import PossibleOutcomes, ranked_tests
from engine.measurement.forward import seen_by
from engine.measurement.hidden_body import HiddenBody
from engine.measurement.learning import Learning
from engine.measurement.learnt import LearntBody
from engine.measurement.runs import Method, Observed, ObservedRun
from engine.tests.stand_in_runs import stand_in_runs
from engine.uncertainty.intervals import Interval

ALL = Observed(frames_at_full_speed=1, frames=1, clear_s=1.0)
SEEN = {
    Method.TAP: replace(ALL, full_speed_tapped=True),
    Method.FILES: Observed(frames_at_full_speed=1, frames=1, frame_rate_fps=9.0, files_mb=9.0),
    Method.SOUND: Observed(frames_at_full_speed=1, frames=1, frame_rate_fps=9.0),
    Method.TYPED: ALL,
    Method.CLAIM: Observed(frames_at_full_speed=1),
}
MIX = "mix"
FIGURES = (
    FigureKind.MEMORY, FigureKind.HELD, FigureKind.FILES, FigureKind.ENCODER, FigureKind.CARD,
    FigureKind.SLOT,
)  # fmt: skip
RUNS = 3
COUNTS = (1, 2, 3, 5)


def random_body(random: np.random.Generator) -> AssumedBody:
    """A body as somebody knows it after six questions."""
    fps, megapixels = float(random.choice([8, 12, 20, 30])), random.uniform(20, 50)
    bus = float(random.choice([312, 985, 1970]))
    sizes = {"raw": 1.08 * megapixels, "lossy": 0.7 * megapixels, "jpeg": 0.42 * megapixels}
    return AssumedBody(
        memory_mb=Figure(2.5 * megapixels * fps, LogUniform(0.5, 2)),
        rates={fps: LogNormal(0.02)},
        formats={
            name: AssumedFormat(
                name=name, files=(File(name=name, mb=mb),), files_uncertainty=LogNormal(0.15),
                held_mb=Figure(2 * megapixels, LogNormal(0.2)),
            )
            for name, mb in sizes.items()
        },
        slots=(AssumedSlot(bus_mb_s=bus),),
        cards={
            name: AssumedCard(
                name=name, write_mb_s=Figure(bus * random.uniform(0.1, 0.6), LogNormal(0.2))
            )
            for name in "AB"
        },
    )  # fmt: skip


def setups(body: AssumedBody, hold_s: float) -> list[AssumedSetup]:
    """Every format with every card."""
    (fps,) = body.rates
    return [
        setup_of(
            body, format_name=name, frame_rate_fps=fps, card_names=(card,), hold_s=hold_s
        )
        for name in body.formats
        for card in body.cards
    ]  # fmt: skip


def run_of(setup: AssumedSetup, method: Method, observed: Observed | None = None) -> ObservedRun:
    """A run to be shot."""
    return ObservedRun(
        scenario=setup.scenario, sources=setup.sources, figures=setup.figures,
        observed=observed or SEEN[method], method=method,
    )  # fmt: skip


def by_method(method: str, bodies: int, count: int = RUNS) -> str:
    """A line of the table: bias, spread, coverage, and how untested set-ups are predicted."""
    off: dict[FigureKind, list[float]] = {name: [] for name in FIGURES}
    inside, frames_inside, errors, failures, took = [], [], [], 0, []
    for seed in range(bodies):
        random = np.random.default_rng([seed, len(method)])
        body = random_body(random)
        tested = list(random.choice(len(setups(body, 1)), count))
        plan = []
        for place in tested:
            kind = Method(str(random.choice(list(SEEN)) if method == MIX else method))
            plan.append(run_of(setups(body, float(random.choice([4, 8, 12])))[place], kind))
        untested = [
            run_of(one, Method.FILES, ALL)
            for place, one in enumerate(setups(body, 6.0))
            if place not in tested
        ][:2]
        truth, shown = stand_in_runs([*plan, *untested], seed)
        start = time.perf_counter()
        learnt = LearntBody.of(Learning(shown[:count]))
        took.append(time.perf_counter() - start)
        for key, figure in learnt.figures.items():
            true = float(truth.ratios(key)[0])
            inside.append(figure.low <= true <= figure.high)
            if key.kind in off:
                off[key.kind].append(float(np.log(figure.middle / true)))
        failures += any(sum(abs(m) > 5 for m in one.values()) for one in learnt.misfits)
        came = seen_by(truth, [*plan, *untested]).frames[0, count:]
        for one, frames in zip(shown[count:], map(float, came), strict=True):
            told = learnt.predict(one.scenario, one.sources, one.figures)
            low, middle, high = (end or 0.0 for end in ends_of(told.frames))
            frames_inside.append(low <= frames <= high)
            errors.append(abs(middle / frames - 1))
    each = "  ".join(
        f"{100 * np.mean(found):+5.1f} ±{100 * np.std(found):4.1f}" for found in off.values()
    )
    frames_told = "all were tested  "  # many runs leave no set-up over
    if errors:
        in_range, error = np.mean(frames_inside), np.median(errors)
        frames_told = f"{100 * in_range:5.1f} %   {100 * error:4.1f} %"
    return (
        f"{method:<6} {each}  {100 * np.mean(inside):5.1f} % of {len(inside):5d}   {frames_told}   "
        f"{failures:3d}   {np.median(took):4.1f} s"
    )


def ends_of(interval: Interval) -> tuple[float | None, float | None, float | None]:
    """Its ends and its middle."""
    return interval.low, interval.middle, interval.high


def by_choice(bodies: int) -> dict[str, list[float]]:
    """The median error of the frames of all untested set-ups, after 1, 2, 3 and 5 runs."""
    errors: dict[tuple[str, int], list[float]] = {}
    for seed in range(bodies):
        for how in ("chosen", "at random"):
            random = np.random.default_rng([seed, 77])
            body, hidden = random_body(random), HiddenBody(seed + 1)
            choices = setups(body, 8.0)
            runs = [shot(hidden, choices[int(random.integers(len(choices)))], random, 0)]
            for count in range(1, max(COUNTS) + 1):
                learnt = LearntBody.of(Learning(runs))
                if count in COUNTS:
                    errors.setdefault((how, count), []).append(error_of(learnt, hidden, body))
                place = int(random.integers(len(choices)))
                if how == "chosen":
                    place = chosen(learnt, choices)
                runs.append(shot(hidden, choices[place], random, count))
    return {
        how: [100 * float(np.median(errors[how, count])) for count in COUNTS]
        for how in ("chosen", "at random")
    }


def shot(
    hidden: HiddenBody, setup: AssumedSetup, random: np.random.Generator, burst: int
) -> ObservedRun:
    """A run, tapped by hand."""
    run, result = run_of(setup, Method.TAP), simulate(hidden.scenario(setup, burst))
    error = run.accuracy
    frames = max(1, round(result.frames + error.count_frames * random.normal()))
    depth = result.frames_at_full_speed
    if depth is not None:
        depth = min(max(1, round(depth + error.depth_frames * random.normal())), frames)
    return replace(
        run,
        observed=Observed(
            frames=frames, frames_at_full_speed=depth, full_speed_tapped=True,
            did_not_slow=depth is None,
            clear_s=max(0.0, result.clear_s + error.clear_s * random.normal()),
        ),
    )  # fmt: skip


def chosen(learnt: LearntBody, choices: Sequence[AssumedSetup]) -> int:
    """The run that would narrow most the set-up whose frames are least sure."""
    frames = [
        np.log(learnt.frames_of(one.scenario, one.sources, one.figures) + 1) for one in choices
    ]
    widest = max(frames, key=lambda one: float(np.std(one)))
    outcomes = PossibleOutcomes.of(learnt, [run_of(one, Method.TAP) for one in choices])
    ranked = ranked_tests(outcomes, widest, widest)
    return ranked[0].place if ranked else 0


def error_of(learnt: LearntBody, hidden: HiddenBody, body: AssumedBody) -> float:
    """The mean error of the frames of bursts of 6 s in every set-up."""
    errors = []
    for one in setups(body, 6.0):
        told = learnt.predict(one.scenario, one.sources, one.figures).frames.middle
        errors.append(abs((told or 0.0) / simulate(hidden.scenario(one, 99)).frames - 1))
    return float(np.mean(errors))


def main() -> None:
    bodies = int(sys.argv[1]) if len(sys.argv) > 1 else 60
    print(f"{bodies} random bodies by each method, {RUNS} runs each; bias ± spread in per cent")
    print(f"method {'  '.join(f'{name:>12}' for name in FIGURES)}  in 80 % ranges     frames in "
          "range, error   misfit  time")  # fmt: skip
    for method in (*SEEN, MIX):
        print(by_method(str(method), bodies), flush=True)
    for count in (10, 30):
        print(f"{count} runs, {bodies // count + 5} bodies")
        print(by_method(str(Method.TAP), bodies // count + 5, count), flush=True)
    half = max(bodies // 2, 1)
    print(f"median error of the frames of set-ups, after {COUNTS} runs, {half} bodies")
    for how, errors in by_choice(half).items():
        print(f"{how:<10} {'  '.join(f'{error:5.1f} %' for error in errors)}")
    print(f"{half} cameras of another world: in 80 % ranges, and median error, by runs")
    print("\n".join(elsewhere.table(half)))
    print("The same before any run, by the class of card, as the Desk predicts:")
    print("\n".join(elsewhere.by_class(2 * half)))


if __name__ == "__main__":
    main()
