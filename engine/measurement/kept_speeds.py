"""What a body keeps writing to each card that was tested in it, and what holds that back."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import IntEnum
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from engine.burst.scenario import LoadedSlot
from engine.figures.key import Factor, FigureKey, FigureKind
from engine.measurement.forward import Real
from engine.measurement.learnt import LearntBody
from engine.measurement.runs import ObservedRun
from engine.quantities import BYTES_IN_MB, HIGH, LOW, MIDDLE
from engine.uncertainty.sources import ENCODER

OF_WRITING = (FigureKind.CARD, FigureKind.SHARE, FigureKind.SLOT, FigureKind.OVERHEAD)


class Held(IntEnum):
    """What holds the writing back."""

    CARD = 0
    SLOT = 1
    PROCESSOR = 2


@dataclass(frozen=True)
class KeptSpeed:
    """A card in a slot: what the body keeps writing to it in MB/s, in every likely body.

    `shares` are what the slot makes of any card's speed, `stops` tells in which bodies the slot has
    reached its most, `held` what holds the writing back. That is the processor where it finishes
    fewer frames than are written; else the slot where it has reached its most, or makes a share
    further below the usual than the card's own speed is below what was assumed of it; else the
    card.
    """

    card: str
    slot: str
    kept_mb_s: Real
    shares: Real
    stops: NDArray[np.bool_]
    held: NDArray[np.int64]

    @cached_property
    def range_mb_s(self) -> tuple[float, float, float]:
        """Ends and middle of its 80 % range."""
        low, middle, high = np.quantile(self.kept_mb_s, (LOW, MIDDLE, HIGH))
        return float(low), float(middle), float(high)

    @cached_property
    def share(self) -> float:
        """The middle of what the slot makes of any card's speed."""
        return float(np.median(self.shares))

    @cached_property
    def is_stopped(self) -> bool:
        """Whether the slot has more likely reached its most than not."""
        return bool(self.stops.mean() > 0.5)

    @cached_property
    def odds(self) -> dict[Held, float]:
        """How likely each of them is to hold the writing back."""
        return {one: float(np.mean(self.held == one)) for one in Held}


def kept_speeds(learnt: LearntBody) -> Iterator[KeptSpeed]:
    """Each card that was tested, in each slot, by the first run of the two."""
    seen = set()
    for run in learnt.runs:
        for place, slot in enumerate(run.scenario.slots, 1):
            card = run.figures[Factor(FigureKind.CARD, place)]
            of_slot = run.figures[Factor(FigureKind.SLOT, place)]
            if (card, of_slot) not in seen:
                seen.add((card, of_slot))
                yield _kept_speed(learnt, run, place, slot)


def typical_body(learnt: LearntBody) -> int:
    """The place of the body that is nearest to the middle in what it keeps writing and all else.

    Figures that make up for one another belong together: the middle of each would be a body that
    none of them is.
    """
    columns = [one.kept_mb_s for one in kept_speeds(learnt)]
    columns += [
        learnt.population.ratios(key) for key in learnt.figures if key.kind not in OF_WRITING
    ]
    logs = np.log(np.stack(columns, axis=1))
    off = (logs - np.median(logs, axis=0)) / logs.std(axis=0).clip(1e-9)
    return int((off**2).sum(axis=1).argmin())


def _kept_speed(learnt: LearntBody, run: ObservedRun, place: int, slot: LoadedSlot) -> KeptSpeed:
    population = learnt.population

    def key(kind: FigureKind) -> FigureKey:
        return run.figures[Factor(kind, place)]

    def below(kind: FigureKind) -> Real:
        """How far a figure is below what was assumed of it, on the scale of normals."""
        column = population.unknowns.column.get(key(kind))
        return (
            -population.deviations[:, column] if column is not None else np.zeros(population.count)
        )

    shares = slot.slot_share * population.ratios(key(FigureKind.SHARE))
    card_mb_s = slot.write_mb_s * population.ratios(key(FigureKind.CARD)) * shares
    limit_mb_s = np.full(population.count, slot.slot_limit_mb_s or np.inf)
    limit_mb_s *= population.ratios(key(FigureKind.SLOT))
    most_mb_s = np.minimum(limit_mb_s, slot.bus_mb_s or np.inf)
    kept_mb_s = np.minimum(card_mb_s, most_mb_s)
    stops = card_mb_s >= most_mb_s
    by_slot = stops | (below(FigureKind.SHARE) > below(FigureKind.CARD))
    held = np.where(by_slot, Held.SLOT, Held.CARD)
    if run.scenario.process_fps is not None:
        process_fps = run.scenario.process_fps * population.ratios(run.figures.get(ENCODER))
        written_mb_s = process_fps * run.scenario.file_bytes / BYTES_IN_MB
        held = np.where(written_mb_s < kept_mb_s, Held.PROCESSOR, held)
    card, of_slot = key(FigureKind.CARD).of, key(FigureKind.SLOT).of
    return KeptSpeed(card, of_slot, kept_mb_s, shares, stops, held.astype(np.int64))
