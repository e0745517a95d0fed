"""Runs that could be made of a body, and what each of them would tell."""

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from urllib.parse import urlencode

import numpy as np

from bench.engine_adapter import assumed
from bench.report import NextRow
from engine import InvalidScenario
from engine.measurement.experimental_design import PossibleOutcomes, ranked_tests
from engine.measurement.forward import Real
from engine.measurement.learnt import LearntBody
from engine.measurement.runs import Observed, ObservedRun
from setups.setup import Setup

TEST_HOLD_S = 8.0
MOST_CARDS = 6  # of one's own that are tried as well
LEAST_NARROWING = 0.1  # of a range: less is not worth a test


@dataclass(frozen=True)
class PossibleTests:
    """Set-ups that could be tested, and what every body that is likely would show of them."""

    learnt: LearntBody
    setups: Sequence[Setup]
    outcomes: PossibleOutcomes

    @classmethod
    def of(cls, learnt: LearntBody, setups: Sequence[Setup]) -> "PossibleTests":
        """Those of `setups` that can be shot."""
        found, candidates = [], []
        for setup in setups:
            with suppress(InvalidScenario):  # a buffer that can't hold one frame of that format
                candidates.append(_run_of(setup))
                found.append(setup)
        return cls(learnt, found, PossibleOutcomes.of(learnt, candidates))

    def of_frames(self, setup: Setup) -> list[NextRow]:
        """Those that would narrow the frames of a set-up, the best first."""
        one = assumed(setup)
        frames = self.learnt.frames_of(one.scenario, one.sources, one.figures)
        of_bursts = self.learnt.frames_of_bursts(one.scenario, one.sources, one.figures)
        return self._ranked(np.log(frames + 1), np.log(of_bursts + 1))

    def of_figure(self, values: Real) -> NextRow | None:
        """The one that would tell most of a figure of every body; None where none tells much."""
        return next(iter(self._ranked(values, values)), None)

    def _ranked(self, wanted: Real, of_bursts: Real) -> list[NextRow]:
        return [
            NextRow(
                urlencode(self.setups[one.place].address),
                self.setups[one.place].name_in_body,
                one.narrowing,
                one.effort_s,
            )
            for one in ranked_tests(self.outcomes, wanted, of_bursts)
            if one.narrowing >= LEAST_NARROWING
        ]


def with_own_cards(setup: Setup) -> list[Setup]:
    """The set-up with each of one's other cards in its slot; none where it writes to two."""
    if len(setup.sides) != 1:
        return []
    side = setup.sides[0]
    own = {str(card): card for card in side.cards if card.is_owned}
    own.pop(str(side.card), None)  # of twins one is enough
    others = list(own.values())[:MOST_CARDS]
    return [replace(setup, sides=(side.with_card(card),)) for card in others]


def _run_of(setup: Setup) -> ObservedRun:
    """A run that could be made; what it would show is not known yet."""
    one = assumed(setup)
    return ObservedRun(
        scenario=one.scenario, sources=one.sources, figures=one.figures,
        observed=Observed(frames=1, full_speed_tapped=True),
    )  # fmt: skip
