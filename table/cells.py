"""One cell of the Table: a burst in one format on one card or pair, with its ranges."""

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np

from engine import InvalidScenario, Scenario
from engine.burst.bottleneck import sustained_fps
from engine.burst.event_loop import NEVER
from engine.quantities import NOTICED_S, NS_IN_S
from engine.uncertainty.comparison import noticed
from engine.uncertainty.intervals import Confidence, as_counted, confidence, confidences
from engine.uncertainty.sweep import nominal_outcomes
from setups.engine_adapter import FiguresInCommon, SetupFigures
from setups.setup import Setup


class Lead(StrEnum):
    """The figure that leads: it stands large in each cell, and cells are sorted by it."""

    FULL_SPEED = "full"
    THEN = "then"
    HOLD = "hold"
    CLEAR = "clear"

    @property
    def words(self) -> str:
        """What it is called."""
        return WORDS_OF_LEAD[self]


WORDS_OF_LEAD = {
    Lead.FULL_SPEED: "frames at full speed",
    Lead.THEN: "fps once the buffer is full",
    Lead.HOLD: "frames in the hold",
    Lead.CLEAR: "card light out after",
}


@dataclass(frozen=True)
class Cell:
    """A set-up and what comes of its burst, by its nominal figures.

    The frames themselves are not kept: of a table of long bursts they would fill the memory.
    """

    figures: SetupFigures
    scenario: Scenario
    frames: int
    frames_at_full_speed: int | None
    full_speed_s: float | None
    card_full_s: float | None
    clear_s: float
    sustained_fps: float | None

    @property
    def setup(self) -> Setup:
        """The set-up."""
        return self.figures.setup

    @property
    def frames_due(self) -> int:
        """Frames that the hold would give if the buffer never filled."""
        return self.scenario.frames_due

    @cached_property
    def ranges(self) -> Confidence:
        """The ranges, the same as on the Desk."""
        return as_counted(confidence(self.scenario, self.figures.sources), self.frames_due)

    @property
    def has_ranges(self) -> bool:
        """Whether its ranges are worked out."""
        return "ranges" in vars(self)

    def take_ranges(self, ranges: Confidence) -> None:
        """Has its ranges, which were worked out with those of others."""
        vars(self)["ranges"] = ranges  # in the place of what it would work out by itself

    @property
    def query(self) -> str:
        """Where it opens on the Desk; empty: nowhere."""
        return self.setup.desk_query

    def value(self, lead: Lead) -> float:
        """The leading figure, more being better: of the light, seconds below zero."""
        if lead is Lead.FULL_SPEED:
            depth = self.frames_at_full_speed
            return math.inf if depth is None else depth
        if lead is Lead.THEN:
            return self.sustained_fps or self.scenario.frame_rate_fps
        return self.frames if lead is Lead.HOLD else -self.clear_s

    def bar(self, end_s: float) -> dict[str, float]:
        """The burst along an axis that ends at `end_s`, in per cent.

        `full` to the wall, `hold` to finger up, `clear` to light out; `density` is the share of
        frames that are taken behind the wall.
        """
        hold_s = self.setup.hold_s
        full_s = self.full_speed_s
        full_s = hold_s if full_s is None else min(full_s, hold_s)
        behind = self.scenario.frame_rate_fps * (hold_s - full_s)
        taken = self.frames - self.scenario.frame_rate_fps * full_s
        places = {"full": full_s, "hold": hold_s, "clear": hold_s + self.clear_s}
        percent = {name: round(min(100 * s / end_s, 100), 1) for name, s in places.items()}
        return percent | {
            "behind": round(percent["hold"] - percent["full"], 1),
            "after": round(percent["clear"] - percent["hold"], 1),
            "density": round(min(max(taken / behind, 0.1), 1), 2) if behind > 0 else 0,
        }


def cells_of(setups: Iterable[Setup]) -> list[Cell | None]:
    """The cell of each complete set-up; None where the kit's figures contradict each other.

    All are shot at once, which is many times quicker than one by one.
    """
    made = [(figures, _scenario(figures)) for figures in map(FiguresInCommon().of, setups)]
    possible = [(figures, scenario) for figures, scenario in made if scenario]
    cells = _cells(*zip(*possible, strict=True)) if possible else iter(())
    return [next(cells) if scenario else None for _, scenario in made]


def work_out_ranges(cells: Iterable[Cell | None]) -> None:
    """Works out the ranges of some cells at once; each would do so by itself."""
    left = [cell for cell in cells if cell and not cell.has_ranges]
    sources = [cell.figures.sources for cell in left]
    for cell, found in zip(left, confidences([one.scenario for one in left], sources), strict=True):
        cell.take_ranges(as_counted(found, cell.frames_due))


def _cells(of_each: Sequence[SetupFigures], scenarios: Sequence[Scenario]) -> Iterator[Cell]:
    came = nominal_outcomes(scenarios)
    figures = zip(
        came.frames[:, 0].tolist(), came.frames_at_full_speed[:, 0].tolist(),
        came.card_full_ns[:, 0].tolist(), came.clear_ns[:, 0, -1].tolist(), strict=True,
    )  # fmt: skip
    for place, (frames, depth, card_full_ns, clear_ns) in enumerate(figures):
        scenario = scenarios[place]
        yield Cell(
            figures=of_each[place],
            scenario=scenario,
            frames=frames,
            frames_at_full_speed=None if depth == NEVER else depth,
            full_speed_s=None if depth == NEVER else depth / scenario.frame_rate_fps,
            card_full_s=None if card_full_ns == NEVER else card_full_ns / NS_IN_S,
            clear_s=clear_ns / NS_IN_S,
            sustained_fps=sustained_fps(came.final_regime(place, 0)),
        )


def _scenario(figures: SetupFigures) -> Scenario | None:
    try:
        return figures.scenario
    except InvalidScenario:
        return None


def as_good(value: float, best: float, lead: Lead) -> bool:
    """Whether `value` makes no practical difference to the best one."""
    least = NOTICED_S if lead is Lead.CLEAR else 1.0
    return value == best or not noticed(np.abs([best]), np.abs([value]), least)


def axis_end_s(cells: Iterable[Cell]) -> float:
    """The end of the axis that all bars share: the latest light out, or three holds."""
    shown = list(cells)
    latest = max((cell.setup.hold_s + cell.clear_s for cell in shown), default=1.0)
    longest = 3 * max((cell.setup.hold_s for cell in shown), default=1.0)
    return min(latest, longest)
