"""Whether a new card is what its label says: its real capacity, and how fast it is written.

What a computer shows as capacity is what the card claims; only what can be read back is there.
Printed capacities count 10^9 bytes (SD Association), computers often 2^30, and the file system
takes a part; what is missing beyond that is not there.
"""

from dataclasses import dataclass

from engine.formats import figure
from engine.quantities import MB_IN_GB, InvalidValues, Range

SHOWN_GB = Range(0.001, 100_000, "GB")
COPIED_GB = Range(0.001, 100_000, "GB")
COPIED_S = Range(0.1, 1_000_000, "s")
LEAST_SHOWN = 0.9  # of the printed capacity: file systems and spare blocks take less
MOST_SHOWN = 1.03
LEAST_FILLED = 0.97  # of what is shown: a few files are in the way
SHORT_COPY_GB = 2  # less may have gone to a cache only


class InvalidCheck(InvalidValues):
    """A check that makes no sense; fields are those of `CardCheck`."""


@dataclass(frozen=True)
class Finding:
    """What a check has found, and whether it speaks against the card."""

    words: str
    is_bad: bool = False


@dataclass(frozen=True, kw_only=True)
class CardCheck:
    """A check of a card; what was not done is None.

    `printed_gb` and `guaranteed_mb_s` are those of the label. `shown_gb` is the capacity that a
    computer shows, `read_back_gb` what could be read again after filling the card, in 10^9 bytes;
    `copied_gb` were written to it in `copied_s` seconds. Raises :class:`InvalidCheck`.
    """

    printed_gb: float
    guaranteed_mb_s: float | None = None
    shown_gb: float | None = None
    read_back_gb: float | None = None
    copied_gb: float | None = None
    copied_s: float | None = None

    def __post_init__(self) -> None:
        allowed = {
            "shown_gb": SHOWN_GB, "read_back_gb": SHOWN_GB, "copied_gb": COPIED_GB,
            "copied_s": COPIED_S,
        }  # fmt: skip
        faults = {
            name: fault
            for name, range_ in allowed.items()
            if (value := getattr(self, name)) is not None and (fault := range_.fault(value))
        }
        if (self.copied_gb is None) != (self.copied_s is None):
            faults["copied_s"] = "goes together with what was copied"
        if faults:
            raise InvalidCheck(faults)

    @property
    def write_mb_s(self) -> float | None:
        """How fast it was written."""
        if self.copied_gb is None or self.copied_s is None:
            return None
        return self.copied_gb * MB_IN_GB / self.copied_s

    @property
    def is_bad(self) -> bool:
        """Whether something speaks against it."""
        return any(one.is_bad for one in self.findings)

    @property
    def findings(self) -> list[Finding]:
        """A sentence for each thing that was tried."""
        return [*self._of_shown(), *self._of_read_back(), *self._of_speed()]

    def _of_shown(self) -> list[Finding]:
        if self.shown_gb is None:
            return []
        share, shown = self.shown_gb / self.printed_gb, figure(self.shown_gb, "GB")
        if share < LEAST_SHOWN:
            return [Finding(f"It shows {shown}, too little for its label.", is_bad=True)]
        if share > MOST_SHOWN:
            return [Finding(f"It shows {shown}, more than its label says.", is_bad=True)]
        return [Finding(f"It shows {shown}, as its label lets expect.")]

    def _of_read_back(self) -> list[Finding]:
        if self.read_back_gb is None:
            return []
        expected = self.shown_gb or LEAST_SHOWN * self.printed_gb
        told = figure(self.read_back_gb, "GB")
        if self.read_back_gb < LEAST_FILLED * expected:
            return [Finding(
                f"Only {told} could be read back: the rest is lost or was never there. It is no "
                "card of this capacity: send it back.", is_bad=True,
            )]  # fmt: skip
        return [Finding(f"All of it could be read back, {told}.")]

    def _of_speed(self) -> list[Finding]:
        speed = self.write_mb_s
        if speed is None or self.copied_gb is None:
            return []
        told = f"It was written at {figure(speed, 'MB/s')}"
        if self.copied_gb < SHORT_COPY_GB:
            return [Finding(f"{told}, which a cache can do: copy {SHORT_COPY_GB} GB at least.")]
        if self.guaranteed_mb_s and speed < self.guaranteed_mb_s:
            return [Finding(
                f"{told}, less than the {figure(self.guaranteed_mb_s, 'MB/s')} that its class "
                "guarantees. Try another reader and port first; if that doesn't help, it is not "
                "what its label says.", is_bad=True,
            )]  # fmt: skip
        return [Finding(f"{told}.")]
