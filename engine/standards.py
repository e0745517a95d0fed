"""Card forms, buses and what a card can write in a slot, from the public card standards."""

import math
from enum import StrEnum
from typing import Literal, NamedTuple


class Form(StrEnum):
    """The shapes that cards come in."""

    SD = "SD"
    MICRO_SD = "microSD"
    CFEXPRESS_A = "CFexpress A"
    CFEXPRESS_B = "CFexpress B"
    XQD = "XQD"
    COMPACT_FLASH = "CompactFlash"


class Bus(StrEnum):
    """The ways a card and a slot talk."""

    SD_HIGH_SPEED = "High Speed"
    UHS_I = "UHS-I"
    UHS_II = "UHS-II"
    UHS_III = "UHS-III"
    SD_EXPRESS = "SD Express"
    PCIE_3_X1 = "PCIe 3 x1"
    PCIE_3_X2 = "PCIe 3 x2"
    PCIE_4_X1 = "PCIe 4 x1"
    PCIE_4_X2 = "PCIe 4 x2"
    XQD_1 = "XQD 1"
    XQD_2 = "XQD 2"
    UDMA_7 = "UDMA 7"


CEILING_MB_S: dict[Bus, float] = {
    Bus.SD_HIGH_SPEED: 25,  # 50 MHz x 4 bits; SD Physical Layer specification 1.10
    Bus.UHS_I: 104,  # SDR104: 208 MHz x 4 bits; SD Physical Layer specification 3.01
    Bus.UHS_II: 312,  # half duplex, both lanes one way; specification 4.00
    Bus.UHS_III: 624,  # twice UHS-II on the same lanes; specification 6.00
    Bus.SD_EXPRESS: 985,  # one PCIe 3 lane: 8 GT/s x 128/130 / 8; specification 7.00
    Bus.PCIE_3_X1: 1_000,  # CFexpress 1.0 and 2.0, type A: one lane, rounded as the standard does
    Bus.PCIE_3_X2: 2_000,  # CFexpress 1.0 and 2.0, type B: two lanes
    Bus.PCIE_4_X1: 2_000,  # CFexpress 4.0, type A
    Bus.PCIE_4_X2: 4_000,  # CFexpress 4.0, type B
    Bus.XQD_1: 500,  # XQD 1.0: one PCIe 2 lane, 5 GT/s x 8/10 / 8
    Bus.XQD_2: 1_000,  # XQD 2.0: two PCIe 2 lanes
    Bus.UDMA_7: 167,  # CompactFlash 6.0, Ultra DMA mode 7
}

_SD_BUSES = (Bus.SD_HIGH_SPEED, Bus.UHS_I, Bus.UHS_II, Bus.UHS_III, Bus.SD_EXPRESS)
_XQD_BUSES = (Bus.XQD_1, Bus.XQD_2)
BUSES_OF_FORM: dict[Form, tuple[Bus, ...]] = {
    Form.SD: _SD_BUSES,
    Form.MICRO_SD: _SD_BUSES,
    Form.CFEXPRESS_A: (Bus.PCIE_3_X1, Bus.PCIE_4_X1),
    # A slot made for XQD takes type B after new firmware, and runs it on its old bus.
    Form.CFEXPRESS_B: (Bus.PCIE_3_X2, Bus.PCIE_4_X2, *_XQD_BUSES),
    Form.XQD: _XQD_BUSES,
    Form.COMPACT_FLASH: (Bus.UDMA_7,),
}


def slot_form(card_form: Form) -> Form:
    """The form of slot that takes a card of `card_form`; a microSD card goes in by an adapter."""
    return Form.SD if card_form is Form.MICRO_SD else card_form


def shared_bus(card_bus: Bus, slot_bus: Bus) -> Bus:
    """The fastest bus that card and slot both speak: the slower of the two.

    An SD Express card has contacts of its own in place of UHS-II's second row, so where only one
    side speaks Express, both fall back to UHS-I at most (SD specification 7.00).
    """
    buses = {card_bus, slot_bus}
    if len(buses) == 2 and Bus.SD_EXPRESS in buses:
        buses = (buses - {Bus.SD_EXPRESS}) | {Bus.UHS_I}
    return min(buses, key=CEILING_MB_S.__getitem__)


class EffectiveWrite(NamedTuple):
    """MB/s that a card and a slot reach together, and what sets it ("typed": the photographer)."""

    mb_s: float
    set_by: Literal["card", "slot", "bus", "typed"]


def effective_write(
    sustained_mb_s: float, slot_cap_mb_s: float | None, card_bus: Bus, slot_bus: Bus
) -> EffectiveWrite:
    """The least of what the card sustains, the slot has been seen to write and the bus carries.

    A slot cap of None is not known and does not apply. Of equals the card is named first.
    """
    card = EffectiveWrite(sustained_mb_s, "card")
    slot = EffectiveWrite(math.inf if slot_cap_mb_s is None else slot_cap_mb_s, "slot")
    bus = EffectiveWrite(CEILING_MB_S[shared_bus(card_bus, slot_bus)], "bus")
    return min(card, slot, bus, key=lambda limit: limit.mb_s)
