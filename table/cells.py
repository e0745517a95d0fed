"""One cell of the Table: a burst in one format on one card or pair, with its ranges."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np

from engine import Scenario
from engine.quantities import NOTICED_S
from engine.uncertainty.comparison import noticed
from engine.uncertainty.intervals import Confidence, as_counted, confidence
from setups.engine_adapter import sources_of
from setups.prediction import predict
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
    """A set-up and the figures of its burst, by its nominal figures.

    The frames themselves are not kept: of a table of long bursts they would fill the memory.
    """

    setup: Setup
    scenario: Scenario
    frames: int
    frames_at_full_speed: int | None
    full_speed_s: float | None
    card_full_s: float | None
    clear_s: float
    sustained_fps: float | None

    @property
    def frames_due(self) -> int:
        """Frames that the hold would give if the buffer never filled."""
        return self.scenario.frames_due

    @cached_property
    def ranges(self) -> Confidence:
        """The ranges, the same as on the Desk."""
        return as_counted(confidence(self.scenario, sources_of(self.setup)), self.frames_due)

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


def cell_of(setup: Setup) -> Cell | None:
    """The cell of a complete set-up; None where the kit's figures contradict each other."""
    prediction = predict(setup)
    if (result := prediction.result) is None:
        return None
    return Cell(
        setup=setup,
        scenario=result.scenario,
        frames=result.frames,
        frames_at_full_speed=result.frames_at_full_speed,
        full_speed_s=result.full_speed_s,
        card_full_s=result.card_full_s,
        clear_s=result.clear_s,
        sustained_fps=prediction.sustained_fps,
    )


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
