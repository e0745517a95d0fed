"""The hidden figures of a report, and how two slots share the work, each with what would tell."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from django.template.defaultfilters import pluralize

from bench.possible_tests import PossibleTests
from bench.report import FigureRow, OddsRow
from engine.burst.plan import COUPLING_NUMBER
from engine.figures.key import FigureKey, FigureKind
from engine.measurement.kept_speeds import typical_body
from engine.measurement.learnt import LearntBody, LearntRange
from engine.measurement.runs import ObservedRun
from engine.quantities import MS_IN_S
from setups.setup import Setup

MOST_SAMPLES = 200
WIDE = 1.1  # times, from the low end of a range to the high one
TIED = 0.3  # correlated with what the runs have told: they told something of both together


def figure_rows(
    learnt: LearntBody, setups: list[Setup], possible: PossibleTests
) -> list[FigureRow]:
    """All of them, those first that were narrowed most."""
    typical_place = typical_body(learnt)
    rows = [
        _figure_row(key, learnt, one, setups, possible, typical_place)
        for key, one in learnt.figures.items()
        if learnt.assumed[key]
    ]
    rows = [replace(row, is_tied=_is_tied(row, rows, learnt)) for row in rows]
    return sorted(rows, key=lambda row: (not row.is_learnt, -row.ratios.narrowed))


def odds_rows(learnt: LearntBody, possible: PossibleTests) -> list[OddsRow]:
    """How the slots share the work, for each arrangement of which nobody knew."""
    rows = []
    for key, odds in learnt.odds.items():
        row = OddsRow(key.of, odds)
        if not row.is_known:
            numbers = learnt.population.couplings_called(key)
            is_likeliest = (numbers == COUPLING_NUMBER[row.likeliest]).astype(np.float64)
            row = replace(row, next=possible.of_figure(is_likeliest))
        rows.append(row)
    return rows


def _is_tied(row: FigureRow, rows: list[FigureRow], learnt: LearntBody) -> bool:
    """Whether it goes up or down with another figure that the runs have told something of."""
    own = np.log(learnt.population.ratios(row.key))
    others = [
        np.log(learnt.population.ratios(one.key))
        for one in rows
        if one.is_learnt and one.key != row.key
    ]
    varying = [other for other in others if np.std(other) > 0 and np.std(own) > 0]
    return any(abs(np.corrcoef(own, other)[0, 1]) > TIED for other in varying)


def _why(key: FigureKey, runs: Sequence[ObservedRun]) -> str:
    """Which runs tell of a figure, and by what."""
    about = [run for run in runs if key in run.figures.values()]
    if not about:
        return "runs of other formats"
    seen = [run.observed for run in about]
    slowed = sum(one.frames_at_full_speed is not None or one.did_not_slow for one in seen)
    timed = sum(one.frames is not None and one.clear_s is not None for one in seen)
    files = [(sum(one.files_mb is not None for one in seen), "its files")]
    told = {
        FigureKind.MEMORY: [(slowed, "when it slowed"), (timed, "frames and light out")],
        FigureKind.FILES: files,
        FigureKind.COVERED_FILES: files,
        FigureKind.FRAME_RATE: [
            (sum(one.frame_rate_fps is not None for one in seen), "each frame's moment")
        ],
    }
    by_what = [
        words if count == len(about) else f"{words} in {count}"
        for count, words in told.get(key.kind, [])
        if count
    ]
    if key.kind is FigureKind.SLOT and (cards := _cards_in(key, about)) > 1:
        by_what.append(f"{cards} cards in it")
    runs_of = f"{len(about)} run{pluralize(len(about))}"
    return ": ".join([runs_of, ", ".join(by_what)]) if by_what else runs_of


def _cards_in(slot: FigureKey, runs: Sequence[ObservedRun]) -> int:
    """How many cards were tested in a slot."""
    cards = {
        run.figures[factor._replace(kind=FigureKind.CARD)]
        for run in runs
        for factor, key in run.figures.items()
        if key == slot
    }
    return len(cards)


def _figure_row(
    key: FigureKey,
    learnt: LearntBody,
    ratios: LearntRange,
    setups: list[Setup],
    possible: PossibleTests,
    typical_place: int,
) -> FigureRow:
    name, unit = described(key, setups)
    shown = learnt.assumed[key] * (MS_IN_S if unit == "ms" else 1)
    samples = learnt.population.ratios(key)[:: max(1, learnt.population.count // MOST_SAMPLES)]
    typical = float(learnt.population.ratios(key)[typical_place])
    of_typical = " ".join(f"{ratio / typical:.4f}" for ratio in samples[:MOST_SAMPLES])
    why = _why(key, learnt.runs)
    is_wide = ratios.high > WIDE * ratios.low
    of_ratios = np.log(learnt.population.ratios(key))
    return FigureRow(
        key, name, unit, shown, ratios, why, typical=typical, samples=of_typical,
        fastest_fps=_fastest(key, setups),
        next=possible.of_figure(of_ratios) if is_wide else None,
    )  # fmt: skip


def _fastest(key: FigureKey, setups: list[Setup]) -> float | None:
    return max(setups[0].body.rate_of_fps) if key.kind is FigureKind.ENCODER else None


def described(key: FigureKey, setups: list[Setup]) -> tuple[str, str]:
    """A figure's name in words, and its unit."""
    formats = {one.slug: one.name for setup in setups for one in setup.body.formats.all()}
    cards = {side.fitted.slug: str(side.fitted) for setup in setups for side in setup.sides}
    of_format, of_card = formats.get(key.of, key.of), cards.get(key.of, key.of)
    return {
        FigureKind.MEMORY: ("buffer", "MB"),
        FigureKind.HELD: (f"buffer that a frame takes, {of_format}", "MB"),
        FigureKind.FILES: (f"file size, {of_format}", "MB"),
        FigureKind.COVERED_FILES: (f"file size, {of_format}, lens covered", "MB"),
        FigureKind.ENCODER: (f"processor, {of_format}", "fps"),
        FigureKind.FRAME_RATE: ("frame rate", "fps"),
        FigureKind.CARD: (f"{of_card}, by itself", "MB/s"),
        FigureKind.SLOT: (f"slot {key.of} passes", "MB/s"),
        FigureKind.SHARE: (f"what slot {key.of} makes of any card's speed", ""),
        FigureKind.OVERHEAD: (f"slot {key.of} waits before each frame", "ms"),
        FigureKind.CACHE: (f"cache of {of_card}", "MB"),
    }[key.kind]
