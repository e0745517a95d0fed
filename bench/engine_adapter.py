"""Runs and set-ups of the kit as `engine.measurement` takes them."""

from dataclasses import replace

from bench.models import Run
from engine.figures.uncertainty import LogNormal
from engine.measurement.assumed import AssumedSetup, with_unknown_cards
from engine.measurement.by_hand import ByHand
from engine.measurement.runs import Method, Observed, ObservedRun, accuracy_of
from engine.uncertainty.sources import FILES
from setups.engine_adapter import SetupFigures, figure_keys_of
from setups.setup import Setup

# Of the files of a scene.
COVERED_RATIO, COVERED = 0.5, LogNormal(0.4)


def observed_of(run: Run) -> Observed:
    """What was seen of a run."""
    return Observed(
        frames_at_full_speed=run.frames_at_full_speed,
        full_speed_tapped=run.depth_is_tapped,
        did_not_slow=run.did_not_slow,
        frames=run.frames,
        clear_s=run.clear_s,
        frame_rate_fps=run.frame_rate_fps,
        files_mb=run.files_mb,
    )


def by_hand_of(run: Run, setup: Setup) -> ByHand:
    """What a run of `setup` says by itself."""
    observed, fps = observed_of(run), setup.rate.fps
    return ByHand(observed, fps, setup.hold_s, accuracy_of(Method(run.method), observed, fps))


def engine_run(run: Run, setup: Setup) -> ObservedRun:
    """The run, with all that is assumed of its set-up."""
    assumed_setup = assumed(setup, covered=run.covered)
    if run.method == Method.CLAIM:
        assumed_setup = with_unknown_cards(assumed_setup)
    return ObservedRun(
        scenario=assumed_setup.scenario, sources=assumed_setup.sources,
        figures=assumed_setup.figures, observed=observed_of(run),
        method=Method(run.method), name=str(run.pk),
    )  # fmt: skip


def assumed(setup: Setup, *, covered: bool = False) -> AssumedSetup:
    """A set-up, which must be complete, before its runs told anything, and its figures."""
    figures_before = SetupFigures(setup, with_learnt=False)
    scenario, sources = figures_before.scenario, figures_before.sources
    if covered:
        smaller = tuple(replace(file, mb=file.mb * COVERED_RATIO) for file in scenario.files)
        scenario = replace(scenario, files=smaller)
        of_others = tuple(one for one in sources.in_common if one.factor != FILES)
        sources = replace(sources, files=COVERED, in_common=of_others)
    return AssumedSetup(scenario, sources, figure_keys_of(setup, covered=covered))
