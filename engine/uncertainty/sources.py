"""How far off the numbers of a set-up may be."""

import math
from dataclasses import dataclass

from engine.burst.scenario import MOST_SLOTS
from engine.figures.key import FIELD_OF_BODY, FIELD_OF_SLOT, Factor, FigureKind
from engine.figures.uncertainty import EXACT, LogNormal, Uncertainty

# How often each coupling is met with where nobody has tested a body: Ondata's working assumption.
ODDS_OF_COUPLING = {"parallel": 0.5, "slowest": 0.3, "serial": 0.2}

FRAME_RATE, HELD = Factor(FigureKind.FRAME_RATE), Factor(FigureKind.HELD)
FILES, BURST = Factor(FigureKind.FILES), Factor(FigureKind.BURST)
MEMORY, ENCODER = Factor(FigureKind.MEMORY), Factor(FigureKind.ENCODER)
COUPLING, ROOM = Factor(FigureKind.COUPLING), Factor(FigureKind.ROOM)
# All that are drawn, in a fixed order.
PLACES = range(1, MOST_SLOTS + 1)
FACTORS = (
    FRAME_RATE, HELD, FILES, BURST, MEMORY, ENCODER, COUPLING,
    *(Factor(kind, place) for place in PLACES
      for kind in (FigureKind.CARD, FigureKind.SLOT, FigureKind.OVERHEAD, FigureKind.CACHE)),
    ROOM,
    *(Factor(kind, place) for place in PLACES for kind in (FigureKind.SHARE, FigureKind.PACE)),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class SlotSources:
    """How sure the numbers of one slot and its card are, by the names that `Slot` has for them.

    `write_mb_s` is for the card's own speeds, cached and nearly full ones too, `slot_limit_mb_s`
    for the most that the slot passes, whatever the card. `pace` is for what the model leaves out:
    how much faster or slower this card writes here than all of these let expect.
    """

    write_mb_s: Uncertainty = EXACT
    slot_limit_mb_s: Uncertainty = EXACT
    overhead_s: Uncertainty = EXACT
    cache_mb: Uncertainty = EXACT
    slot_share: Uncertainty = EXACT
    pace: Uncertainty = EXACT


@dataclass(frozen=True)
class InCommon:
    """What makes a number off in other set-ups, too, and the part of its deviation that this is.

    Two formats with one kind of file are off by the same size. Parts are factor loadings: those of
    one factor have squares that add up to less than 1, and the rest is the format's own.
    """

    factor: Factor
    cause: str
    part: float


@dataclass(frozen=True, kw_only=True)
class Sources:
    """How sure the numbers of a set-up are, by the names that `Scenario` has for them.

    `slots` has an entry for each slot of the scenario. `files` is for the mean size of files.
    `file_to_file` is the standard deviation of the logarithm of their sizes: half of that variance
    is from burst to burst, half from frame to frame within a burst. A coupling that nobody knows
    may be any of the three. `room` is for what the model leaves out: how much more
    or less of the memory a set-up has than others of the body. `in_common` is for sizes of files
    and of what a frame holds.
    """

    slots: tuple[SlotSources, ...]
    frame_rate_fps: Uncertainty = EXACT
    held_mb: Uncertainty = EXACT
    files: Uncertainty = EXACT
    file_to_file: float = 0.0
    memory_mb: Uncertainty = EXACT
    process_fps: Uncertainty = EXACT
    room: Uncertainty = EXACT
    knows_coupling: bool = True
    in_common: tuple[InCommon, ...] = ()

    def parts_of(self, factor: Factor) -> dict[str, float]:
        """What a factor has in common with those of other set-ups, by cause."""
        return {one.cause: one.part for one in self.in_common if one.factor == factor}

    @property
    def within_burst(self) -> float:
        """Standard deviation of the logarithm of file size from frame to frame in one burst."""
        return self.file_to_file / math.sqrt(2)

    @property
    def between_bursts(self) -> LogNormal:
        """How far the mean size of a burst's files may be from that of all bursts."""
        return LogNormal(self.file_to_file / math.sqrt(2))

    @property
    def factors(self) -> dict[Factor, Uncertainty]:
        """Every number that is drawn, but for sizes from frame to frame."""
        shared = {Factor(kind): getattr(self, name) for kind, name in FIELD_OF_BODY.items()}
        of_slots = {
            Factor(kind, place): getattr(slot, name)
            for place, slot in enumerate(self.slots, 1)
            for kind, name in FIELD_OF_SLOT.items()
        }
        return shared | {BURST: self.between_bursts, ROOM: self.room} | of_slots

    @property
    def varying(self) -> list[Factor]:
        """All factors that are not known exactly, the coupling included."""
        known = self.factors
        return [
            factor
            for factor in FACTORS
            if (known[factor].spread if factor in known else self._varies(factor))
        ]

    def _varies(self, factor: Factor) -> bool:
        return factor == COUPLING and not self.knows_coupling
