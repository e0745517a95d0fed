"""Card forms, buses, capacities and speed classes, from the public card standards."""

import math
from collections.abc import Collection
from enum import StrEnum
from typing import Literal, NamedTuple

from engine.quantities import Range


class Form(StrEnum):
    """The shapes that cards come in."""

    SD = "SD"
    MICRO_SD = "microSD"
    CFEXPRESS_A = "CFexpress A"
    CFEXPRESS_B = "CFexpress B"
    CFEXPRESS_C = "CFexpress C"
    XQD = "XQD"
    COMPACT_FLASH = "CompactFlash"
    CFAST_1 = "CFast 1"
    CFAST_2 = "CFast 2"


class Bus(StrEnum):
    """The ways a card and a slot talk."""

    SD_DEFAULT = "Default Speed"
    SD_HIGH_SPEED = "High Speed"
    UHS_I = "UHS-I"
    UHS_II = "UHS-II"
    UHS_III = "UHS-III"
    SD_EXPRESS = "SD Express"
    SD_EXPRESS_2 = "SD Express 1970"
    SD_EXPRESS_4 = "SD Express 3940"
    PCIE_3_X1 = "PCIe 3 x1"
    PCIE_3_X2 = "PCIe 3 x2"
    PCIE_4_X1 = "PCIe 4 x1"
    PCIE_4_X2 = "PCIe 4 x2"
    PCIE_3_X4 = "PCIe 3 x4"
    PCIE_4_X4 = "PCIe 4 x4"
    XQD_1 = "XQD 1"
    XQD_2 = "XQD 2"
    UDMA_4 = "UDMA 4"
    UDMA_5 = "UDMA 5"
    UDMA_6 = "UDMA 6"
    UDMA_7 = "UDMA 7"
    SATA_2 = "SATA 2"
    SATA_3 = "SATA 3"


CEILING_MB_S: dict[Bus, float] = {
    Bus.SD_DEFAULT: 12.5,  # 25 MHz x 4 bits; SD Physical Layer specification 1.01
    Bus.SD_HIGH_SPEED: 25,  # 50 MHz x 4 bits; SD Physical Layer specification 1.10
    Bus.UHS_I: 104,  # SDR104: 208 MHz x 4 bits; SD Physical Layer specification 3.01
    Bus.UHS_II: 312,  # half duplex, both lanes one way; specification 4.00
    Bus.UHS_III: 624,  # twice UHS-II on the same lanes; specification 6.00
    Bus.SD_EXPRESS: 985,  # one PCIe 3 lane: 8 GT/s x 128/130 / 8; specification 7.00
    Bus.SD_EXPRESS_2: 1_970,  # two lanes, or one of PCIe 4; specification 8.00
    Bus.SD_EXPRESS_4: 3_940,  # two lanes of PCIe 4; specification 8.00
    Bus.PCIE_3_X1: 1_000,  # CFexpress 1.0 and 2.0, type A: one lane, rounded as the standard does
    Bus.PCIE_3_X2: 2_000,  # CFexpress 1.0 and 2.0, type B: two lanes
    Bus.PCIE_4_X1: 2_000,  # CFexpress 4.0, type A
    Bus.PCIE_4_X2: 4_000,  # CFexpress 4.0, type B
    Bus.PCIE_3_X4: 4_000,  # CFexpress 2.0, type C: four lanes
    Bus.PCIE_4_X4: 8_000,  # CFexpress 4.0, type C
    Bus.XQD_1: 500,  # XQD 1.0: one PCIe 2 lane, 5 GT/s x 8/10 / 8
    Bus.XQD_2: 1_000,  # XQD 2.0: two PCIe 2 lanes
    Bus.UDMA_4: 66,  # CompactFlash 2.1 and 3.0: Ultra DMA modes 0 to 4, 66.7 MB/s
    Bus.UDMA_5: 100,  # CompactFlash 4.0: Ultra DMA mode 5
    Bus.UDMA_6: 133,  # CompactFlash 4.1: Ultra DMA mode 6
    Bus.UDMA_7: 167,  # CompactFlash 6.0, Ultra DMA mode 7
    Bus.SATA_2: 300,  # CFast 1.0 and 1.1: 3 Gb/s x 8/10 / 8
    Bus.SATA_3: 600,  # CFast 2.0: 6 Gb/s x 8/10 / 8
}

EXPRESS_BUSES = (Bus.SD_EXPRESS, Bus.SD_EXPRESS_2, Bus.SD_EXPRESS_4)
_UHS_BUSES = (Bus.UHS_I, Bus.UHS_II, Bus.UHS_III)
_SD_BUSES = (Bus.SD_DEFAULT, Bus.SD_HIGH_SPEED, *_UHS_BUSES, *EXPRESS_BUSES)
_XQD_BUSES = (Bus.XQD_1, Bus.XQD_2)
BUSES_OF_FORM: dict[Form, tuple[Bus, ...]] = {
    Form.SD: _SD_BUSES,
    # microSD Express has one lane of PCIe 3; specification 7.10.
    Form.MICRO_SD: (Bus.SD_DEFAULT, Bus.SD_HIGH_SPEED, *_UHS_BUSES, Bus.SD_EXPRESS),
    Form.CFEXPRESS_A: (Bus.PCIE_3_X1, Bus.PCIE_4_X1),
    # A slot made for XQD takes type B after new firmware, and runs it on its old bus.
    Form.CFEXPRESS_B: (Bus.PCIE_3_X2, Bus.PCIE_4_X2, *_XQD_BUSES),
    Form.CFEXPRESS_C: (Bus.PCIE_3_X4, Bus.PCIE_4_X4),
    Form.XQD: _XQD_BUSES,
    Form.COMPACT_FLASH: (Bus.UDMA_4, Bus.UDMA_5, Bus.UDMA_6, Bus.UDMA_7),
    Form.CFAST_1: (Bus.SATA_2,),
    # A slot of CFast 2 may run on the older bus, too.
    Form.CFAST_2: (Bus.SATA_2, Bus.SATA_3),
}
SD_FORMS = (Form.SD, Form.MICRO_SD)
# Width and height of a card in mm, contacts along the upper edge, from the standard of each form.
SIZE_MM: dict[Form, tuple[float, float]] = {
    Form.SD: (24, 32),
    Form.MICRO_SD: (11, 15),
    Form.CFEXPRESS_A: (20, 28),
    Form.CFEXPRESS_B: (29.8, 38.5),
    Form.CFEXPRESS_C: (54, 74),
    Form.XQD: (29.8, 38.5),
    Form.COMPACT_FLASH: (42.8, 36.4),
    Form.CFAST_1: (42.8, 36.4),
    Form.CFAST_2: (42.8, 36.4),
}


class Standard(StrEnum):
    """The capacity standards of the SD family; a newer host takes older cards, not the reverse."""

    SD = "SD"
    SDHC = "SDHC"
    SDXC = "SDXC"
    SDUC = "SDUC"


CAPACITY_GB = Range(0.001, 128_000, "GB")  # SDUC, the largest standard, ends at 128 TB
# Most GB (10^9 bytes); SD Physical Layer specification 1.01, 2.00, 3.00 and 7.00. That of SDXC is 2
# TiB, so that a card sold as 2,048 GB is one.
MOST_GB: dict[Standard, float] = {
    Standard.SD: 2,
    Standard.SDHC: 32,
    Standard.SDXC: 2_199,
    Standard.SDUC: CAPACITY_GB.highest,
}


def kind_of_card(form: Form, bus: Bus) -> str:
    """What a card of that form on that bus is called: "SD, UHS-II", but "XQD", whose first bus is
    named after it.
    """
    if not bus.startswith(form):
        return f"{form}, {bus}"
    return str(form) if bus == f"{form} 1" else str(bus)


def kind_on_bus(form: Form, bus: Bus) -> str:
    """What a slot takes and how they talk: "SD on UHS-II", but "XQD"."""
    return kind_of_card(form, bus) if bus.startswith(form) else f"{form} on {bus}"


def standard_of(capacity_gb: float) -> Standard:
    """The capacity standard of an SD or microSD card of `capacity_gb`."""
    return next(standard for standard in Standard if capacity_gb <= MOST_GB[standard])


# Guaranteed sustained write in MB/s.
GUARANTEED_MB_S: dict[str, float] = {
    # Speed classes: SD Physical Layer specification 2.00, UHS classes 3.01, video classes 5.00,
    # classes of SD Express 9.10.
    **{f"C{mb_s}": mb_s for mb_s in (2, 4, 6, 10)},
    "U1": 10,
    "U3": 30,
    **{f"V{mb_s}": mb_s for mb_s in (6, 10, 30, 60, 90)},
    **{f"E{mb_s}": mb_s for mb_s in (150, 300, 450, 600)},
    # Video Performance Guarantee: 20 and 65 on CompactFlash, 130 on CFast, the rest on CFexpress.
    **{f"VPG{mb_s}": mb_s for mb_s in (20, 65, 130, 200, 400, 800)},
}


def buses_of_class(speed_class: str) -> tuple[Bus, ...]:
    """The SD buses on which `speed_class` is defined; none for VPG, which is no class of SD's.

    C10, V6 and V10 need High Speed, U and V30 UHS, V60 and V90 UHS-II (SD Physical Layer
    specification 2.00, 3.01 and 5.00), E needs Express.
    """
    if speed_class.startswith("VPG"):
        return ()
    if speed_class.startswith("E"):
        return EXPRESS_BUSES
    if speed_class in ("V60", "V90"):
        return (Bus.UHS_II, Bus.UHS_III, *EXPRESS_BUSES)
    if speed_class in ("U1", "U3", "V30"):
        return (*_UHS_BUSES, *EXPRESS_BUSES)
    if speed_class in ("C10", "V6", "V10"):
        return (Bus.SD_HIGH_SPEED, *_UHS_BUSES, *EXPRESS_BUSES)
    return _SD_BUSES


def forms_of_class(speed_class: str) -> tuple[Form, ...]:
    """The forms for which `speed_class` is defined.

    Of the Video Performance Guarantee 20 and 65 belong to CompactFlash (VPG Profile 1 and 2), 130
    to CFast (Profile 3), 200, 400 and 800 to CFexpress (CFexpress VPG specification).
    """
    if not speed_class.startswith("VPG"):
        return SD_FORMS
    if speed_class in ("VPG20", "VPG65"):
        return (Form.COMPACT_FLASH,)
    if speed_class == "VPG130":
        return (Form.CFAST_1, Form.CFAST_2)
    return (Form.CFEXPRESS_A, Form.CFEXPRESS_B, Form.CFEXPRESS_C)


# The contacts that an ordinary adapter from microSD to SD carries: those of UHS-I; it has no second
# row.
ADAPTER_BUS = Bus.UHS_I


def slot_forms(card_form: Form) -> tuple[Form, ...]:
    """The forms of slot that take a card of `card_form`, without an adapter first.

    A microSD card goes into an SD slot by an adapter, a CFast 1 card into a slot for CFast 2.
    """
    if card_form is Form.MICRO_SD:
        return (Form.MICRO_SD, Form.SD)
    return (Form.CFAST_1, Form.CFAST_2) if card_form is Form.CFAST_1 else (card_form,)


def card_forms(taken: Collection[str]) -> list[Form]:
    """The forms of cards that go into what takes these forms, by themselves or in an adapter."""
    return [form for form in Form if not set(slot_forms(form)).isdisjoint(taken)]


def by_adapter(card_form: Form, taken_as: Form) -> bool:
    """Whether a card goes into a slot of the form `taken_as` by an adapter."""
    return card_form is Form.MICRO_SD and taken_as is Form.SD


def bus_of_card(card_form: Form, card_bus: Bus, taken_as: Form) -> Bus:
    """The bus of a card as a slot of the form `taken_as` sees it, through its adapter if any."""
    return shared_bus(card_bus, ADAPTER_BUS) if by_adapter(card_form, taken_as) else card_bus


def shared_bus(card_bus: Bus, slot_bus: Bus) -> Bus:
    """The fastest bus that card and slot both speak: the slower of the two.

    An SD Express card has contacts of its own in place of UHS-II's second row, so where only one
    side speaks Express, both fall back to UHS-I at most (SD specification 7.00).
    """
    buses = {card_bus, slot_bus}
    if len(buses & set(EXPRESS_BUSES)) == 1 and len(buses) == 2:
        buses = (buses - set(EXPRESS_BUSES)) | {Bus.UHS_I}
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
