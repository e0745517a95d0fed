"""How long a card takes to copy to the computer, and what it waits for."""

from dataclasses import dataclass
from enum import StrEnum

from engine.standards import CEILING_MB_S, Bus, shared_bus
from engine.units import MB_IN_GB, S_IN_MINUTE


class Port(StrEnum):
    """How a reader, or the camera itself, hangs on the computer."""

    USB_2 = "USB 2"
    USB_5 = "USB 5 Gb/s"
    USB_10 = "USB 10 Gb/s"
    USB_20 = "USB 20 Gb/s"
    USB_40 = "USB 40 Gb/s"
    BUILT_IN = "built-in slot"


# The most that a port carries, in MB/s; None: it is never narrower than the slot's bus.
PORT_MB_S: dict[Port, float | None] = {
    Port.USB_2: 53,  # 13 bulk packets of 512 B in each of 8,000 microframes; USB 2.0, 5.8.4
    Port.USB_5: 500,  # 5 Gb/s x 8/10 / 8; USB 3.2, generation 1
    Port.USB_10: 1_212,  # 10 Gb/s x 128/132 / 8; USB 3.2, generation 2
    Port.USB_20: 2_424,  # two lanes of that; USB 3.2, generation 2x2
    Port.USB_40: 4_848,  # two lanes of 20 Gb/s x 128/132 / 8; USB4, generation 3x2
    Port.BUILT_IN: None,
}


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
    """MB/s of copying at best, the part that limits it, and what the next one would allow."""

    mb_s: float
    narrowest: str
    next_mb_s: float | None

    def minutes(self, size_gb: float) -> float:
        """Minutes for `size_gb` at best; a computer's disk and many small files only slow it."""
        return size_gb * MB_IN_GB / self.mb_s / S_IN_MINUTE


def copying(card_read_mb_s: float | None, card_bus: Bus, reader: CopyReader) -> Copying:
    """How fast a card that prints `card_read_mb_s` for reading (None: nothing) is copied."""
    bus = shared_bus(card_bus, reader.bus)
    parts: dict[str, float | None] = {
        "the card": card_read_mb_s,
        f"the bus, {bus}": None if reader.matches else CEILING_MB_S[bus],
        "the reader": reader.most_mb_s,
        f"the port, {reader.port}": PORT_MB_S[reader.port],
    }
    limits = sorted((mb_s, part) for part, mb_s in parts.items() if mb_s is not None)
    if not limits:
        limits = [(CEILING_MB_S[bus], f"the bus, {bus}")]
    (mb_s, narrowest), *behind = limits
    return Copying(mb_s, narrowest, behind[0][0] if behind else None)
