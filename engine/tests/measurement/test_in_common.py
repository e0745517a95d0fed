"""What formats of one body have in common: a run of one tells of the others."""

import math
import unittest
from dataclasses import replace
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from engine.estimates.file_sizes import (
    FILES_OF_FORMAT,
    FileRule,
    FormatKind,
    file_sizes,
    kinds_of,
    pixels,
)
from engine.estimates.side import AssumedCard, AssumedSlot
from engine.figures.key import FigureKey, FigureKind
from engine.figures.uncertainty import LogNormal
from engine.measurement.assumed import AssumedBody, AssumedFormat, AssumedSetup, setup_of
from engine.measurement.learning import learn
from engine.measurement.learnt import LearntBody
from engine.measurement.population import Population
from engine.measurement.runs import Method, Observed, ObservedRun

RAW, BOTH, FINE = "lossless RAW", "lossless RAW + JPEG fine", "JPEG fine"
LONE_KINDS = [kind.value for kind in FormatKind if "+" not in kind]
NAMES = (
    [BOTH] + LONE_KINDS + [f"{raw} + {jpeg}" for raw in LONE_KINDS[:4] for jpeg in LONE_KINDS[4:]]
)


def setup(name: str) -> AssumedSetup:
    body = AssumedBody(
        rates={20.0: LogNormal(0.005)}, megapixels=24.0, slots=(AssumedSlot(bus_mb_s=300),),
        formats={name: AssumedFormat(name=name)}, cards={"A": AssumedCard(name="A")},
    )  # fmt: skip
    return setup_of(body, format_name=name, frame_rate_fps=20.0, card_names=("A",), hold_s=6)


def run(name: str, observed: Observed, *, hold_s: float = 6) -> ObservedRun:
    one = setup(name)
    return ObservedRun(
        scenario=replace(one.scenario, hold_s=hold_s), sources=one.sources, figures=one.figures,
        observed=observed, method=Method.FILES,
    )  # fmt: skip


def of_files(name: str) -> FigureKey:
    return FigureKey(FigureKind.FILES, name)


def held(name: str) -> FigureKey:
    return FigureKey(FigureKind.HELD, name)


def correlation(population: Population, first: FigureKey, second: FigureKey) -> float:
    logs = [np.log(population.ratios(key)) for key in (first, second)]
    return float(np.corrcoef(logs)[0, 1])


class FormatsOfOneBody(unittest.TestCase):
    @settings(max_examples=25)
    @given(st.sampled_from(NAMES), st.sampled_from(NAMES), st.integers(0, 1_000))
    def test_their_files_differ_together_as_the_kinds_in_them_do(
        self, first: str, second: str, seed: int
    ) -> None:
        """Whether both are drawn at once or one after the other."""
        random = np.random.default_rng(seed)
        drawn: dict[FileRule, Any] = {}
        sizes = {
            name: sum(
                drawn.setdefault(
                    rule, size.value * size.uncertainty.ratios(random.standard_normal(4_000))
                )
                for kind in kinds_of(name)
                for rule, size in zip(
                    FILES_OF_FORMAT[kind], file_sizes(kind, pixels(24.0, None), None), strict=True
                )
            )
            for name in (first, second)
        }
        logs = [np.log(sizes[name]) for name in (first, second)]
        true = float(np.corrcoef(logs)[0, 1])
        unseen = Observed(did_not_slow=True)
        one, other = (run(name, unseen) for name in (first, second))
        at_once = Population.drawn([one, other], 4_000, random)
        of_one = LearntBody([one], Population.drawn([one], 4_000, random))
        later = of_one.with_figures(other.sources, other.figures)
        for population in (at_once, later):
            found = correlation(population, of_files(first), of_files(second))
            self.assertAlmostEqual(true, found, delta=0.1)
        of_both = correlation(later, held(first), held(second))
        self.assertGreater(of_both, 0.2)
        np.testing.assert_array_equal(
            of_one.population.ratios(held(first)), later.ratios(held(first))
        )

    def test_what_tells_nothing_leaves_them_as_they_are_assumed(self) -> None:
        """All moves of the learner leave the correlations alone, too."""
        nothing = Observed(did_not_slow=True)
        runs = [run(name, nothing, hold_s=0.2) for name in (RAW, BOTH, FINE)]
        learnt, drawn = learn(runs), Population.drawn(runs, 4_000, np.random.default_rng(1))
        for first, second in ((RAW, BOTH), (BOTH, FINE), (RAW, FINE)):
            for figure in (of_files, held):
                keys = figure(first), figure(second)
                self.assertAlmostEqual(
                    correlation(drawn, *keys), correlation(learnt, *keys), delta=0.15
                )
        for name in (RAW, BOTH, FINE):
            for key in (of_files(name), held(name)):
                before, after = (np.log(one.ratios(key)).std() for one in (drawn, learnt))
                self.assertAlmostEqual(1, after / before, delta=0.2)

    def test_a_small_raw_is_small_beside_a_jpeg_too(self) -> None:
        of_raw = setup(RAW).scenario.files[0].mb
        shot = Observed(frames=30, did_not_slow=True, files_mb=0.7 * of_raw)
        runs = [run(RAW, shot, hold_s=1.5)] * 2
        learnt = LearntBody(runs, learn(runs))
        setups = [setup(name) for name in (RAW, BOTH, FINE)]
        figures = learnt.with_formats(setups).figures
        raw, both, fine = (figures[of_files(name)] for name in (RAW, BOTH, FINE))
        self.assertAlmostEqual(0.7, raw.middle, delta=0.05)
        self.assertLess(both.middle, 0.9)
        self.assertGreater(both.narrowed, 1.1)
        self.assertAlmostEqual(1, fine.middle, delta=0.06)
        self.assertLess(math.log(raw.middle), math.log(both.middle))
