"""What a job asks of a set-up, each part of it optional."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from engine.burst.scenario import HOLD_S
from engine.quantities import (
    S_IN_MINUTE,
    InvalidValues,
    Range,
    interval_ns,
    ns_of,
    out_of_range,
    quantity,
)

Picture = Literal["first", "last"]

FRAMES = Range(1, 1_000_000, "frames")
FRAMES_A_DAY = Range(1, 10_000_000, "frames")
EVERY_S = Range(0.001, 86_400, "s")
GOES_ON_MIN = Range(0.01, 1_440, "min")
LIGHT_OUT_S = Range(0, 3_600, "s")
COPIED_MIN = Range(0.1, 10_000, "min")
FREE_GB = Range(0, 1_000_000, "GB")
COPIES = Range(1, 2, "copies")
SURE = Range(0.5, 0.99, "of all bursts")

# Bursts simulated at most, and frames of them all: the camera is steady long before, or a cache
# does not fill by then. Long bursts are few; after that many any camera is steady.
MOST_BURSTS, FEWEST_BURSTS = 200, 5
MOST_FRAMES_OF_BURSTS = 12_000


class InvalidNeed(InvalidValues):
    """A need that contradicts itself; fields are those of :class:`Need`."""


@dataclass(frozen=True, kw_only=True)
class Need:
    """What a job asks for; None: it does not ask for that.

    The button is held down for `lasts_s`, once or every `every_s` from press to press, for
    `goes_on_min` (None: for as long as makes a difference). Every one of these bursts is to give
    full rate for at least `full_rate_s`, and at least `frames` in its first `frames_in_s` (None: in
    all of it); so the camera is ready again when the next burst does what is asked. Besides, the
    first or the last `picture` of each burst can be looked at within `picture_s` of finger up, and
    the card light is out within `light_out_s`.

    Room for `frames_a_day` on cards that begin the day with `free_gb` (None: empty); cards of a
    kind may be swapped in turn. `copies` of every file; these copied to the computer within
    `copied_min` (a full card, if no frames a day are asked for); for `budget_cents` at most,
    hundredths of one currency. Each is met when it is in at least `sure` of all draws.

    Raises :class:`InvalidNeed`.
    """

    lasts_s: float = quantity(HOLD_S)
    every_s: float | None = quantity(EVERY_S, default=None)
    goes_on_min: float | None = quantity(GOES_ON_MIN, default=None)
    full_rate_s: float | None = quantity(HOLD_S, default=None)
    frames: int | None = quantity(FRAMES, default=None)
    frames_in_s: float | None = quantity(HOLD_S, default=None)
    picture_s: float | None = quantity(LIGHT_OUT_S, default=None)
    picture: Picture = "first"
    light_out_s: float | None = quantity(LIGHT_OUT_S, default=None)
    frames_a_day: int | None = quantity(FRAMES_A_DAY, default=None)
    free_gb: float | None = quantity(FREE_GB, default=None)
    copies: int = quantity(COPIES, default=1)
    copied_min: float | None = quantity(COPIED_MIN, default=None)
    budget_cents: int | None = None
    sure: float = quantity(SURE, default=0.8)

    def __post_init__(self) -> None:
        faults = dict(self._contradictions()) | out_of_range(self)
        if faults:
            raise InvalidNeed(faults)

    @property
    def counted_in_s(self) -> float:
        """Seconds from the press in which its frames are counted."""
        return self.lasts_s if self.frames_in_s is None else self.frames_in_s

    @property
    def bursts(self) -> int:
        """How often the button is pressed, or MOST_BURSTS where that is left open."""
        if self.every_s is None:
            return 1
        if self.goes_on_min is None:
            return MOST_BURSTS
        return max(1, int(round(self.goes_on_min * S_IN_MINUTE / self.every_s, 6)))

    def frames_due(self, frame_rate_fps: float) -> int:
        """Frames of one burst at full speed."""
        return -(-ns_of(self.lasts_s) // interval_ns(frame_rate_fps))

    def presses_ns(self, frame_rate_fps: float) -> list[int]:
        """The presses that are simulated."""
        of_frames = MOST_FRAMES_OF_BURSTS // self.frames_due(frame_rate_fps)
        bursts = min(self.bursts, MOST_BURSTS, max(of_frames, FEWEST_BURSTS))
        every_ns = ns_of(self.every_s or 0)
        return [number * every_ns for number in range(bursts)]

    def day_frames(self, frame_rate_fps: float) -> int | None:
        """Frames that the cards are to have room for; None: nobody said."""
        if self.frames_a_day is not None or self.goes_on_min is None:
            return self.frames_a_day
        return self.bursts * self.frames_due(frame_rate_fps)

    @property
    def names_a_day(self) -> bool:
        """Whether it says how many frames a day there are to keep and to copy."""
        return self.frames_a_day is not None or self.goes_on_min is not None

    def most_frames(self, frame_rate_fps: float) -> int:
        """Frames that the time they are counted in gives at most."""
        return -(-ns_of(self.counted_in_s) // interval_ns(frame_rate_fps))

    def _contradictions(self) -> Iterator[tuple[str, str]]:
        if self.budget_cents is not None and self.budget_cents < 0:
            yield "budget_cents", "must not be below nothing"
        for field in ("full_rate_s", "frames_in_s"):
            value = getattr(self, field)
            if value is not None and value > self.lasts_s:
                yield field, f"must not be longer than the action, {self.lasts_s:g} s"
        if self.every_s is not None and self.every_s < self.lasts_s:
            yield "every_s", f"must not be shorter than the action, {self.lasts_s:g} s"
        if self.goes_on_min is not None and self.every_s is None:
            yield "goes_on_min", "needs how often the action comes"
