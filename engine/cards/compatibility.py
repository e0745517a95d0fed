"""Whether a card works in a slot of a body, and how much of its speed the slot can use."""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

from packaging.version import Version

from engine.cards.standards import (
    ADAPTER_BUS,
    CEILING_MB_S,
    SD_FORMS,
    Bus,
    EffectiveWrite,
    Form,
    Standard,
    bus_of_card,
    by_adapter,
    effective_write,
    shared_bus,
    slot_forms,
    standard_of,
)
from engine.formats import written
from engine.quantities import NOTICED_SHARE


class Verdict(StrEnum):
    """What came of holding a card against a slot, the best first."""

    MADE_FOR_IT = "all the card can do"
    SPEED_WASTED = "works, limited by the camera"
    TEST_FIRST = "may not mount: test first"
    AFTER_FIRMWARE = "works after firmware, test before the job"
    DOES_NOT_FIT = "doesn't fit"


_ORDER = list(Verdict)


@dataclass(frozen=True, kw_only=True)
class FitCard:
    """What of a card decides whether it fits; `sustained_mb_s` None: not known."""

    form: Form
    bus: Bus
    capacity_gb: float
    sustained_mb_s: float | None = None


@dataclass(frozen=True)
class Accepted:
    """The bus on which a slot runs a form, and the firmware from which on ("": from the first)."""

    bus: Bus
    from_firmware: str = ""


@dataclass(frozen=True, kw_only=True)
class FitSlot:
    """A slot: what it takes, its cap (None: not known), and the body's firmware ("": not known).

    Where its cap is not known it is taken to pass `usual_share` of its bus, if that is given.

    `newest_standard` is the newest capacity standard of the SD family that the body takes; None:
    not known. `on_tested_list` tells whether the card is on the maker's list of tested cards; None:
    there is no list.
    """

    accepts: Mapping[Form, Accepted]
    cap_mb_s: float | None = None
    usual_share: float | None = None
    newest_standard: Standard | None = None
    firmware: str = ""
    on_tested_list: bool | None = None

    def __hash__(self) -> int:
        accepts = tuple(self.accepts.items())
        return hash((accepts, self.cap_mb_s, self.usual_share, self.newest_standard, self.firmware))


@dataclass(frozen=True, kw_only=True)
class Fit:
    """The verdict with its reasons, one sentence each.

    `bus` is what card and slot agree on; `usable_mb_s` the sustained write that they reach
    together, which card, slot or bus sets; `wasted_share` the part of the card's own speed that is
    lost for certain. None where not known, or where the card doesn't fit. `adapter` tells that the
    card goes in by one.
    """

    verdict: Verdict
    reasons: tuple[str, ...]
    bus: Bus | None = None
    usable: EffectiveWrite | None = None
    wasted_share: float | None = None
    adapter: bool = False

    @property
    def usable_mb_s(self) -> float | None:
        """The sustained write that they reach together."""
        return self.usable.mb_s if self.usable else None

    @property
    def caution(self) -> str:
        """What has to be known before the card is relied on; empty: nothing."""
        return str(self.verdict) if self.verdict is Verdict.TEST_FIRST else ""

    @property
    def mounts(self) -> bool:
        """Whether the card can be used in the slot as it is now, or may be: some need a test."""
        return self.verdict not in (Verdict.AFTER_FIRMWARE, Verdict.DOES_NOT_FIT)


# A kit of some hundred cards is held against the same slots at every step.
@lru_cache(maxsize=4_096)
def fit(card: FitCard, slot: FitSlot) -> Fit:
    """Holds `card` against `slot`: shape, capacity, firmware, tested list, bus, speed, in order.

    A card that goes in by itself and by an adapter goes the better way.
    """
    ways = [_fit_as(card, slot, form) for form in slot_forms(card.form) if form in slot.accepts]
    if not ways:
        takes = " or ".join(slot.accepts) or "no card that is known"
        return Fit(
            verdict=Verdict.DOES_NOT_FIT, reasons=(f"It is {card.form}; the slot takes {takes}.",)
        )
    return min(ways, key=lambda way: _ORDER.index(way.verdict))


def _fit_as(card: FitCard, slot: FitSlot, taken_as: Form) -> Fit:
    """Holds `card`, put in as `taken_as`, against `slot`."""
    accepted = slot.accepts[taken_as]
    adapted = by_adapter(card.form, taken_as)
    bus = bus_of_card(card.form, card.bus, taken_as)
    slowed = card if bus == card.bus else replace(card, bus=bus)
    usable = _usable(slowed, accepted, slot)
    wasted_share = _wasted(card, usable, slot)
    found = [
        *(_adapter(card, slowed) if adapted else ()),
        *_standard(card, slot),
        *_firmware(accepted, slot),
        *_tested(accepted, slot),
        *_bus(slowed, accepted),
        *_speed(card, usable, wasted_share),
    ]
    return Fit(
        verdict=max((one.at_best for one in found), key=_ORDER.index),
        reasons=tuple(one.says for one in found),
        bus=shared_bus(slowed.bus, accepted.bus),
        usable=usable,
        wasted_share=wasted_share,
        adapter=adapted,
    )


@dataclass(frozen=True)
class _Finding:
    """A reason, and the best verdict that it leaves."""

    says: str
    at_best: Verdict = Verdict.MADE_FOR_IT


def _adapter(card: FitCard, adapted: FitCard) -> Iterator[_Finding]:
    yield _Finding("It goes in by an adapter: one more part to break or lose.")
    if CEILING_MB_S[adapted.bus] < CEILING_MB_S[card.bus]:
        yield _Finding(
            f"An ordinary adapter has the contacts of {ADAPTER_BUS} only: "
            f"{CEILING_MB_S[ADAPTER_BUS]:,g} MB/s at most, though the card speaks {card.bus}.",
            Verdict.MADE_FOR_IT if card.sustained_mb_s else Verdict.SPEED_WASTED,
        )


def _standard(card: FitCard, slot: FitSlot) -> Iterator[_Finding]:
    if card.form not in SD_FORMS:
        return
    standard, newest = standard_of(card.capacity_gb), slot.newest_standard
    if newest is None and standard is Standard.SDUC:
        yield _Finding(
            "It is SDUC, which most bodies are too old for; what this one takes is not noted.",
            Verdict.TEST_FIRST,
        )
    order = list(Standard)
    if newest is not None and order.index(standard) > order.index(newest):
        # An SDHC host may read SDXC after all, as the bus is the same; the other steps changed how
        # a card is addressed (SD Physical Layer specification 2.00 and 7.00).
        never = newest is Standard.SD or standard is Standard.SDUC
        yield _Finding(
            f"It is {standard}; this body takes {newest} at most.",
            Verdict.DOES_NOT_FIT if never else Verdict.TEST_FIRST,
        )


def _firmware(accepted: Accepted, slot: FitSlot) -> Iterator[_Finding]:
    needed, installed = accepted.from_firmware, slot.firmware
    if not needed:
        return
    if not installed:
        yield _Finding(
            f"The slot takes this form from firmware {needed} on; the installed one is not noted.",
            Verdict.TEST_FIRST,
        )
    elif not is_at_least(installed, needed):
        yield _Finding(
            f"The slot takes this form from firmware {needed} on; {installed} is installed.",
            Verdict.AFTER_FIRMWARE,
        )
    else:
        yield _Finding(f"The slot takes this form thanks to firmware {needed} or newer.")


def is_at_least(firmware: str, needed: str) -> bool:
    """Whether `firmware` is `needed` or newer, number by number: 1.10 is newer than 1.9."""
    return _version(firmware) >= _version(needed)


def _version(firmware: str) -> Version:
    """The numbers of a firmware; letters around them ("C 1.10") are no part of its order."""
    numbers = re.search(r"\d+(\.\d+)*", firmware)
    return Version(numbers.group() if numbers else "0")


def _tested(accepted: Accepted, slot: FitSlot) -> Iterator[_Finding]:
    if slot.on_tested_list:
        yield _Finding("It is on the maker's list of tested cards.")
    elif slot.on_tested_list is False and accepted.from_firmware:
        # A slot made for another form refuses some cards of the newer one.
        yield _Finding(
            "It is not on the maker's list of tested cards, and a slot that takes a form by "
            "firmware refuses some.",
            Verdict.TEST_FIRST,
        )
    elif slot.on_tested_list is False:
        yield _Finding(
            "It is not on the maker's list of tested cards; such lists are short, and most cards "
            "off them work."
        )
    else:
        yield _Finding("No list of tested cards is noted for this body.")


def _bus(card: FitCard, accepted: Accepted) -> Iterator[_Finding]:
    shared = shared_bus(card.bus, accepted.bus)
    if CEILING_MB_S[shared] < CEILING_MB_S[card.bus]:
        yield _Finding(
            f"It speaks {card.bus}, the slot {accepted.bus}: together {shared}, "
            f"{CEILING_MB_S[shared]:,g} MB/s at most.",
            Verdict.MADE_FOR_IT if card.sustained_mb_s else Verdict.SPEED_WASTED,
        )


def _speed(
    card: FitCard, usable: EffectiveWrite | None, wasted_share: float | None
) -> Iterator[_Finding]:
    if usable and wasted_share is not None and wasted_share > NOTICED_SHARE:
        yield _Finding(
            f"Its sustained write is {written(card.sustained_mb_s)} MB/s, and the slot passes "
            f"{written(usable.mb_s)}; the rest can only shorten copying.",
            Verdict.SPEED_WASTED,
        )


def _usable(card: FitCard, accepted: Accepted, slot: FitSlot) -> EffectiveWrite | None:
    if card.sustained_mb_s is None:
        return None
    bus_mb_s = CEILING_MB_S[shared_bus(card.bus, accepted.bus)]
    usual_mb_s = slot.usual_share and slot.usual_share * bus_mb_s
    cap_mb_s = usual_mb_s if slot.cap_mb_s is None else slot.cap_mb_s
    return effective_write(card.sustained_mb_s, cap_mb_s, card.bus, accepted.bus)


def _wasted(card: FitCard, usable: EffectiveWrite | None, slot: FitSlot) -> float | None:
    if not card.sustained_mb_s or usable is None:
        return None
    if usable.set_by == "slot" and slot.cap_mb_s is None:
        return 0.0
    return 1 - usable.mb_s / card.sustained_mb_s
