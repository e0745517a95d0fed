"""What a card's face says, as values, and the text that prints it."""

from dataclasses import dataclass

from engine.cards.standards import (
    BUSES_OF_FORM,
    CEILING_MB_S,
    EXPRESS_BUSES,
    GUARANTEED_MB_S,
    SD_FORMS,
    Bus,
    Form,
    Standard,
    buses_of_class,
)

# How many lanes each generation of PCIe has on a bus, as shop texts print it.
PCIE_OF_BUS: dict[Bus, tuple[int, int]] = {
    Bus.SD_EXPRESS: (3, 1),
    Bus.SD_EXPRESS_2: (3, 2),
    Bus.SD_EXPRESS_4: (4, 2),
    Bus.PCIE_3_X1: (3, 1),
    Bus.PCIE_3_X2: (3, 2),
    Bus.PCIE_3_X4: (3, 4),
    Bus.PCIE_4_X1: (4, 1),
    Bus.PCIE_4_X2: (4, 2),
    Bus.PCIE_4_X4: (4, 4),
}
READ_MB_S_OF_TIMES = 0.15  # 1x is the reading of an audio CD, 150 kB/s

LEAST_RATIO = 1.1  # of what a bus carries to what a class guarantees over it


@dataclass(frozen=True, kw_only=True)
class Face:
    """What is printed on a card; None, or nothing, where no mark says it.

    `classes` are speed classes as printed ("V60"), `times` the figure of "1867x". `write_mb_s` is
    a maximum, `sustained_mb_s` a printed figure that holds.
    """

    form: Form | None = None
    standard: Standard | None = None
    bus: Bus | None = None
    capacity_gb: float | None = None
    classes: tuple[str, ...] = ()
    application: str | None = None
    read_mb_s: float | None = None
    write_mb_s: float | None = None
    sustained_mb_s: float | None = None
    times: int | None = None
    adapter: bool = False

    @property
    def guaranteed_mb_s(self) -> float | None:
        """The highest sustained write that a class guarantees; None without one."""
        return max((GUARANTEED_MB_S[one] for one in self.classes), default=None)

    @property
    def least_bus(self) -> Bus | None:
        """The bus that is printed, or else the slowest that the other marks allow."""
        if self.bus is not None or self.form is None:
            return self.bus
        if self.form is Form.CFEXPRESS_B:
            return Bus.PCIE_3_X2  # its other buses are those of slots made for XQD
        possible = BUSES_OF_FORM[self.form]
        return next((bus for bus in possible if self._allows(bus)), possible[-1])

    def _allows(self, bus: Bus) -> bool:
        ceiling = CEILING_MB_S[bus]
        if self.form in SD_FORMS and (
            # Above 2 GB no card is as slow as the first ones; and what reads faster than High
            # Speed is UHS-I at least, but no more for certain: matching readers exceed the bus.
            (bus is Bus.SD_DEFAULT and self.standard is not Standard.SD)
            or (self.read_mb_s or 0) > ceiling < CEILING_MB_S[Bus.UHS_I]
            or any(bus not in (buses_of_class(one) or [bus]) for one in self.classes)
        ):
            return False
        return ceiling >= max(self.write_mb_s or 0, LEAST_RATIO * (self.guaranteed_mb_s or 0))

    def __str__(self) -> str:
        """The marks as a face prints them; reading them again gives the same values."""
        figures = (
            (self.read_mb_s, "R"),
            (self.write_mb_s, "W"),
            (self.sustained_mb_s, "sustained write"),
        )
        marks = (
            _printed_capacity(self.capacity_gb),
            self._printed_form(),
            self._printed_bus(),
            *self.classes,
            self.application,
            *(f"{mb_s:.10g} MB/s {way}" for mb_s, way in figures if mb_s is not None),
            f"{self.times}x" if self.times else None,
            "+ adapter" if self.adapter else None,
        )
        return " ".join(mark for mark in marks if mark)

    def _printed_form(self) -> str | None:
        if self.form in SD_FORMS:
            small = "micro" if self.form is Form.MICRO_SD else ""
            return small + (self.standard or Form.SD)
        if self.form in (Form.CFAST_1, Form.CFAST_2):
            return f"{self.form}.0"
        if self.form and self.form.startswith("CFexpress"):
            return self.form.replace("CFexpress", "CFexpress Type")
        return self.form

    def _printed_bus(self) -> str | None:
        if self.bus in PCIE_OF_BUS:
            generation, lanes = PCIE_OF_BUS[self.bus]
            express = "EX " if self.bus in EXPRESS_BUSES else ""
            return f"{express}PCIe {generation} x{lanes}"
        if self.bus in (Bus.XQD_1, Bus.XQD_2):
            return "1.0" if self.bus is Bus.XQD_1 else "2.0"
        return None if self.bus in (Bus.SATA_2, Bus.SATA_3) else self.bus


def _printed_capacity(capacity_gb: float | None) -> str | None:
    if capacity_gb is None:
        return None
    return f"{capacity_gb / 1000:.10g} TB" if capacity_gb >= 1000 else f"{capacity_gb:.10g} GB"
