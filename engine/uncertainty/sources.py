"""Where the numbers of a set-up came from, and how far off they may be."""

import math
from dataclasses import dataclass

from engine.burst.scenario import MOST_SLOTS
from engine.figures.uncertainty import EXACT, LogNormal, Uncertainty

# How often each coupling is met with where nobody has tested a body: Ondata's working assumption.
ODDS_OF_COUPLING = {"parallel": 0.5, "slowest": 0.3, "serial": 0.2}


@dataclass(frozen=True, kw_only=True)
class SlotSources:
    """How sure the numbers of one slot and its card are.

    `write` is for the card's own speeds, cached and nearly full ones too, `limit` for the most that
    the slot passes, whatever the card.
    """

    write: Uncertainty
    limit: Uncertainty = EXACT
    overhead: Uncertainty = EXACT
    cache: Uncertainty = EXACT


@dataclass(frozen=True, kw_only=True)
class Sources:
    """How sure the numbers of a set-up are; `slots` has an entry for each slot of the scenario.

    `files` is for the mean size of files. `file_to_file` is the standard deviation of the logarithm
    of their sizes: half of that variance is from burst to burst, half from frame to frame within a
    burst. A coupling that nobody knows may be any of the three.
    """

    slots: tuple[SlotSources, ...]
    frame_rate: Uncertainty = EXACT
    held: Uncertainty = EXACT
    files: Uncertainty = EXACT
    file_to_file: float = 0.0
    memory: Uncertainty = EXACT
    encoder: Uncertainty = EXACT
    knows_coupling: bool = True

    @property
    def within_burst(self) -> float:
        """Standard deviation of the logarithm of file size from frame to frame in one burst."""
        return self.file_to_file / math.sqrt(2)

    @property
    def between_bursts(self) -> float:
        """The same of the mean size from burst to burst."""
        return self.file_to_file / math.sqrt(2)

    @property
    def factors(self) -> dict[str, Uncertainty]:
        """Every number that is drawn, by its name, but for sizes from frame to frame."""
        shared: dict[str, Uncertainty] = {
            "frame rate": self.frame_rate,
            "held size": self.held,
            "file size": self.files,
            "burst": LogNormal(self.between_bursts),
            "memory": self.memory,
            "encoder": self.encoder,
        }
        for number, slot in enumerate(self.slots, 1):
            shared |= {
                f"card {number}": slot.write,
                f"slot {number}": slot.limit,
                f"overhead {number}": slot.overhead,
                f"cache {number}": slot.cache,
            }
        return shared

    @property
    def varying(self) -> list[str]:
        """The names of all factors that are not known exactly, that of the coupling included."""
        spreads = {name: uncertainty.spread for name, uncertainty in self.factors.items()}
        spreads[COUPLING] = 0.0 if self.knows_coupling else 1.0
        return [name for name in FACTORS if spreads.get(name)]


def _all_factors() -> tuple[str, ...]:
    numbers = list(Sources(slots=(SlotSources(write=EXACT),) * MOST_SLOTS).factors)
    place = numbers.index("encoder") + 1
    return (*numbers[:place], COUPLING, *numbers[place:])


COUPLING = "coupling"
FACTORS = _all_factors()
