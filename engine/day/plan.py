"""A day to come: its periods, the cards that are taken along, and how fast they are copied."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import accumulate
from typing import NamedTuple

from engine.burst.scenario import FREE_MB, HOLD_S
from engine.day.presses import InvalidDay
from engine.quantities import S_IN_MINUTE, WRITE_MB_S, Range, out_of_range, quantity

MINUTES = Range(1, 2_880, "min")
AN_HOUR = Range(0, 3_600, "an hour")
MOST_MINUTES = MINUTES.highest  # of all periods: 48 hours
MOST_PERIODS = 48
MOST_PRESSES = 4_000  # of a day, on average
MOST_CARDS = 50  # for one slot
MIN_IN_HOUR = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Period:
    """A stretch of a day that is shot alike, or not at all.

    Bursts come at any moment of it, so many an hour on average; half of them are held for no longer
    than `hold_s`, nine of ten for no longer than `long_hold_s`; or `listed_s` has the hold of each
    burst in their order, whenever they come. Single frames come besides. With `copies`, what is on
    the cards is copied to the computer in it. `set_up` names the one that it is shot with ("": the
    first). Raises :class:`InvalidDay`.
    """

    name: str
    minutes: float = quantity(MINUTES)
    bursts_an_hour: float = quantity(AN_HOUR, default=0.0)
    hold_s: float = quantity(HOLD_S, default=1.0)
    long_hold_s: float = quantity(HOLD_S, default=3.0)
    singles_an_hour: float = quantity(AN_HOUR, default=0.0)
    copies: bool = False
    set_up: str = ""
    listed_s: Sequence[float] = ()

    def __post_init__(self) -> None:
        faults = out_of_range(self)
        if not faults and self.long_hold_s < self.hold_s:
            faults["long_hold_s"] = (
                f"must not be shorter than half of the holds are, {self.hold_s:g} s"
            )
        if self.listed_s and self.bursts_an_hour:
            faults["listed_s"] = "must be left out where bursts an hour are given"
        elif fault := next(filter(None, map(HOLD_S.fault, self.listed_s)), None):
            faults["listed_s"] = fault
        if faults:
            raise InvalidDay(faults)

    @property
    def longest_s(self) -> float:
        """The longest hold that is usual."""
        return max(self.listed_s) if self.listed_s else self.long_hold_s

    @property
    def bursts(self) -> float:
        """Bursts in it, on average."""
        return len(self.listed_s) or self.bursts_an_hour * self.minutes / MIN_IN_HOUR

    @property
    def singles(self) -> float:
        """Single frames in it, on average."""
        return self.singles_an_hour * self.minutes / MIN_IN_HOUR

    @property
    def lasts_s(self) -> float:
        """Its length."""
        return self.minutes * S_IN_MINUTE


@dataclass(frozen=True, slots=True)
class TakenCard:
    """A card that is taken along, with so much room; `kind` ("": the one that set-ups have)."""

    free_mb: float
    kind: str = ""


class SlotCard(NamedTuple):
    """A card that is taken along for a slot, by the number of that."""

    slot: int
    card: TakenCard


@dataclass(frozen=True, kw_only=True)
class Plan:
    """Periods, one after the other, and the cards that are taken along for each slot, in order.

    A body that writes to its slots in turn uses the cards of slot 1, then those of slot 2.
    Copying goes at `copy_mb_s`. Raises :class:`InvalidDay`.
    """

    periods: Sequence[Period]
    cards: Sequence[Sequence[TakenCard]]
    copy_mb_s: float | None = quantity(WRITE_MB_S, default=None)

    def __post_init__(self) -> None:
        faults = dict(self._faults()) | out_of_range(self)
        if faults:
            raise InvalidDay(faults)

    @property
    def starts_s(self) -> list[float]:
        """When each period begins, and the end of the last."""
        return [0.0, *accumulate(period.lasts_s for period in self.periods)]

    def _faults(self) -> Iterator[tuple[str, str]]:
        if not 1 <= len(self.periods) <= MOST_PERIODS:
            yield "periods", f"must be 1 to {MOST_PERIODS}"
        elif sum(period.minutes for period in self.periods) > MOST_MINUTES:
            yield "periods", f"must not last longer than {MOST_MINUTES / MIN_IN_HOUR:.0f} hours"
        elif sum(period.bursts + period.singles for period in self.periods) > MOST_PRESSES:
            yield "periods", f"must not have more than {MOST_PRESSES:,} presses"
        elif not any(period.bursts or period.singles for period in self.periods):
            yield "periods", "must have a burst or a single frame in one of them"
        if not self.cards or not all(1 <= len(of_slot) <= MOST_CARDS for of_slot in self.cards):
            yield "cards", f"must be 1 to {MOST_CARDS} for each slot"
        elif any(FREE_MB.fault(card.free_mb) for of_slot in self.cards for card in of_slot):
            yield "cards", f"must each have room for {FREE_MB.lowest:g} to {FREE_MB.highest:,} MB"
        elif not any(card.free_mb for of_slot in self.cards for card in of_slot):
            yield "cards", "must not all be full from the start"
        if self.copy_mb_s is None and any(period.copies for period in self.periods):
            yield "copy_mb_s", "must be given, as there is copying"
