"""How long a card takes to copy to the computer, and what it waits for."""

from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

from engine.cards.standards import CEILING_MB_S, Bus, shared_bus
from engine.quantities import MB_IN_GB, S_IN_MINUTE


class Port(StrEnum):
    """How a reader, or the camera itself, is connected to the computer."""

    USB_2 = "USB 2"
    USB_5 = "USB 5 Gb/s"
    USB_10 = "USB 10 Gb/s"
    USB_20 = "USB 20 Gb/s"
    USB_40 = "USB 40 Gb/s"
    BUILT_IN = "built-in slot"


class PortRate(NamedTuple):
    """MB/s of a port: what its line carries, and what is reached over it in practice."""

    line_mb_s: float
    practical_mb_s: float


# In practice protocol and drivers take their part: round figures of what is seen with fast cards
# and disks; over the last from 3,000 to 3,800. A built-in slot is never narrower than its bus.
RATE_OF_PORT: dict[Port, PortRate] = {
    # 13 bulk packets of 512 B in each of 8,000 microframes; USB 2.0, 5.8.4
    Port.USB_2: PortRate(53, 40),
    # 5 Gb/s x 8/10 / 8; USB 3.2, generation 1
    Port.USB_5: PortRate(500, 430),
    # 10 Gb/s x 128/132 / 8; USB 3.2, generation 2
    Port.USB_10: PortRate(1_212, 1_000),
    # two lanes of that; USB 3.2, generation 2x2
    Port.USB_20: PortRate(2_424, 2_000),
    # two lanes of 20 Gb/s x 128/132 / 8; USB4, generation 3x2
    Port.USB_40: PortRate(4_848, 3_400),
}
# How far off copying may be, as a ratio either way: printed figures are maxima, and disks differ.
UNMEASURED_RATIO, MEASURED_RATIO = 1.25, 1.1


@dataclass(frozen=True, kw_only=True)
class CopyReader:
    """What a card is read in: a reader, a computer's own slot, or the camera on a cable.

    `bus` is the one on which it reads the card's form; `most_mb_s` the most that it has been seen
    to read (None: not known); `matches` that it is made for this maker's cards, and reads them
    faster than the bus of the standard.
    """

    bus: Bus
    port: Port
    most_mb_s: float | None = None
    matches: bool = False


@dataclass(frozen=True)
class Copying:
    """MB/s of copying in practice, the part that limits it, and what the next one would allow.

    `measured` tells that the limit was measured with that reader; else it is so at best.
    """

    mb_s: float
    narrowest: str
    next_mb_s: float | None
    measured: bool = False

    def minutes(self, size_gb: float) -> float:
        """Minutes for `size_gb`."""
        return size_gb * MB_IN_GB / self.mb_s / S_IN_MINUTE

    def most_minutes(self, size_gb: float) -> float:
        """Minutes that copying may take just as well."""
        return self.minutes(size_gb) * (MEASURED_RATIO if self.measured else UNMEASURED_RATIO)


def copying(card_read_mb_s: float | None, card_bus: Bus, reader: CopyReader) -> Copying:
    """How fast a card that prints `card_read_mb_s` for reading (None: nothing) is copied."""
    bus, port = shared_bus(card_bus, reader.bus), RATE_OF_PORT.get(reader.port)
    parts: dict[str, float | None] = {
        "the card": card_read_mb_s,
        f"the bus, {bus}": None if reader.matches else CEILING_MB_S[bus],
        "the reader": reader.most_mb_s,
        f"the port, {reader.port}": port.practical_mb_s if port else None,
    }
    limits = sorted((mb_s, part) for part, mb_s in parts.items() if mb_s is not None)
    if not limits:
        limits = [(CEILING_MB_S[bus], f"the bus, {bus}")]
    (mb_s, narrowest), *behind = limits
    measured = narrowest == "the reader"
    return Copying(mb_s, narrowest, behind[0][0] if behind else None, measured)
