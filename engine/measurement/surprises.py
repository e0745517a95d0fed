"""Figures that the runs put far from all that was assumed of them, and what may be behind that."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from engine.figures.key import FigureKey, FigureKind
from engine.measurement.kept_speeds import OF_WRITING, kept_speeds
from engine.measurement.learnt import OF_ONE_SETUP, SEED, LearntBody
from engine.measurement.population import Population

SURPRISING = 2.05  # deviations from what was assumed: one in fifty is as low, one in fifty as high
DRAWN = 2_000  # bodies, to see what speeds of a card in its slot were to be expected
WHY = {
    FigureKind.CARD: "check the card for a fake or a worn-out one, the slot, and what was typed of "
    "its label",
    FigureKind.FRAME_RATE: "check the rate that was typed; a lens or the battery may slow it, too",
    FigureKind.FILES: "check the format and the scene of the runs",
    FigureKind.MEMORY: "check what was typed of the buffer and of the frame rate, and the "
    "format of the runs",
}
ELSE = "check what was typed of it"


@dataclass(frozen=True)
class Surprise:
    """A figure far from what was assumed of it.

    One of a card is of what the body keeps writing to it, card and slot together.
    """

    key: FigureKey

    @property
    def why(self) -> str:
        """What to look at."""
        return WHY.get(self.key.kind, ELSE)


def surprises(learnt: LearntBody) -> Iterator[Surprise]:
    """Each such figure, in the middle of all likely bodies."""
    population = learnt.population
    unknowns = population.unknowns
    middles = dict(zip(unknowns.figures, np.median(population.deviations, axis=0), strict=True))
    sizes = np.median(population.sizes / unknowns.format_spreads, axis=0)
    middles |= dict(zip(unknowns.formats, sizes, strict=True))
    of_one = (*OF_ONE_SETUP, *OF_WRITING)
    middles = {key: middle for key, middle in middles.items() if key.kind not in of_one}
    yield from (Surprise(key) for key, middle in middles.items() if abs(middle) > SURPRISING)
    yield from _of_cards(learnt)


def _of_cards(learnt: LearntBody) -> Iterator[Surprise]:
    random = np.random.Generator(np.random.PCG64(SEED))
    before = LearntBody(learnt.runs, Population.drawn(learnt.runs, DRAWN, random))
    seen = set()
    for now, expected in zip(kept_speeds(learnt), kept_speeds(before), strict=True):
        slower = (expected.kept_mb_s < np.median(now.kept_mb_s)).mean()
        rank = ndtri(slower.clip(0.5 / DRAWN, 1 - 0.5 / DRAWN))
        if abs(rank) > SURPRISING and now.card not in seen:
            seen.add(now.card)
            yield Surprise(FigureKey(FigureKind.CARD, now.card))
