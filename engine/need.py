"""What a job asks of a set-up, each part of it optional."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import Literal

from engine.scenario import HOLD_S, Range
from engine.units import interval_ns, ns_of

Ready = Literal["next burst", "first picture"]

FRAMES = Range(1, 1_000_000, "frames")
FRAMES_A_DAY = Range(1, 10_000_000, "frames")
READY_S = Range(0, 3_600, "s")
COPIED_MIN = Range(0.1, 10_000, "min")
COPIES = Range(1, 2, "copies")
SURE = Range(0.5, 0.99, "of all bursts")


class Goal(StrEnum):
    """The parts of a need, in the order in which they are asked for: the certain ones first."""

    COPIES = "copies"
    BUDGET = "budget"
    DAY = "frames a day"
    COPIED = "copied in time"
    FULL_RATE = "full rate"
    FRAMES = "frames"
    READY = "ready again"


class InvalidNeed(ValueError):
    """A need that contradicts itself; `faults` maps each field to what is wrong with it."""

    def __init__(self, faults: dict[str, str]) -> None:
        self.faults = faults
        super().__init__(" ".join(f"{field} {fault}." for field, fault in faults.items()))


@dataclass(frozen=True, kw_only=True)
class Need:
    """What a job asks for; None: it does not ask for that.

    The button is held down for `lasts_s`. Full rate for at least `full_rate_s`; at least `frames`
    in the first `frames_in_s` (None: in all of it); ready within `ready_s` of finger up, which
    means all of memory free for the `next burst`, or the `first picture` to look at. Room for
    `frames_a_day`; `copies` of every file; these copied to the computer within `copied_min` (a
    full card, if no frames a day are asked for); for `budget_cents` at most, hundredths of one
    currency. Each is met when it is in at least `sure` of all draws.

    Raises :class:`InvalidNeed`.
    """

    lasts_s: float
    full_rate_s: float | None = None
    frames: int | None = None
    frames_in_s: float | None = None
    ready_s: float | None = None
    ready_for: Ready = "next burst"
    frames_a_day: int | None = None
    copies: int = 1
    copied_min: float | None = None
    budget_cents: int | None = None
    sure: float = 0.8

    def __post_init__(self) -> None:
        faults = dict(self._contradictions()) | dict(self._out_of_range())
        if faults:
            raise InvalidNeed(faults)

    @property
    def counted_in_s(self) -> float:
        """Seconds from the press in which its frames are counted."""
        return self.lasts_s if self.frames_in_s is None else self.frames_in_s

    @property
    def goals(self) -> list[Goal]:
        """What it asks for, in order."""
        asked = {
            Goal.COPIES: self.copies > 1,
            Goal.BUDGET: self.budget_cents is not None,
            Goal.DAY: self.frames_a_day is not None,
            Goal.COPIED: self.copied_min is not None,
            Goal.FULL_RATE: self.full_rate_s is not None,
            Goal.FRAMES: self.frames is not None,
            Goal.READY: self.ready_s is not None,
        }
        return [goal for goal in Goal if asked[goal]]

    def most_frames(self, frame_rate_fps: float) -> int:
        """Frames that the time they are counted in gives at most."""
        return -(-ns_of(self.counted_in_s) // interval_ns(frame_rate_fps))

    def _out_of_range(self) -> Iterator[tuple[str, str]]:
        ranges: dict[str, Range] = {
            "lasts_s": HOLD_S,
            "full_rate_s": HOLD_S,
            "frames": FRAMES,
            "frames_in_s": HOLD_S,
            "ready_s": READY_S,
            "frames_a_day": FRAMES_A_DAY,
            "copies": COPIES,
            "copied_min": COPIED_MIN,
            "sure": SURE,
        }
        for field, allowed in ranges.items():
            value = getattr(self, field)
            if value is not None and (fault := allowed.fault(value)):
                yield field, fault
        if self.budget_cents is not None and self.budget_cents < 0:
            yield "budget_cents", "must not be below nothing"

    def _contradictions(self) -> Iterator[tuple[str, str]]:
        for field in ("full_rate_s", "frames_in_s"):
            value = getattr(self, field)
            if value is not None and value > self.lasts_s:
                yield field, f"must not be longer than the action, {self.lasts_s:g} s"
