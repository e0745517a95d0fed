"""A card in a slot: what they write together, and how sure that is, however little is known.

One home of this for the learn file and the kit: what nobody has noted is estimated.
"""

from dataclasses import dataclass

from engine.burst import scenario as limits
from engine.burst.arrangement import Arrangement
from engine.burst.scenario import LoadedSlot
from engine.estimates.overhead import unknown_overhead
from engine.estimates.write_speed import slot_ceiling, slot_share, unknown_card
from engine.figures.figure import Figure
from engine.figures.uncertainty import EXACT
from engine.quantities import WRITE_MB_S, quantity
from engine.uncertainty.model_error import pace
from engine.uncertainty.sources import SlotSources


@dataclass(frozen=True, kw_only=True)
class AssumedSlot:
    """A slot; what is None is to be estimated.

    It has a bus, or the most that it was seen to pass, its time for each frame, and the share that
    it makes of any card's own speed.
    """

    bus_mb_s: float | None = quantity(WRITE_MB_S, default=None)
    slot_limit_mb_s: Figure | None = quantity(WRITE_MB_S, default=None)
    overhead_s: Figure | None = quantity(limits.OVERHEAD_S, default=None)
    slot_share: Figure | None = quantity(limits.SLOT_SHARE, default=None)


@dataclass(frozen=True, kw_only=True)
class AssumedCard:
    """A card and how fast it writes, None: nobody knows.

    That is its own speed, of which a slot makes a share, or with `has_share` what it keeps writing
    in this body, which has the share in it. One that `is_tested` was measured in this body.
    """

    name: str
    write_mb_s: Figure | None = quantity(WRITE_MB_S, default=None)
    has_share: bool = False
    is_tested: bool = False


def share_of(slot: AssumedSlot, card: AssumedCard) -> Figure:
    """What the slot makes of the card's speed."""
    return Figure(1.0, EXACT) if card.has_share else slot.slot_share or slot_share()


def together(
    slot: AssumedSlot, card: AssumedCard, arrangement: Arrangement
) -> tuple[LoadedSlot, SlotSources]:
    """The slot with the card in it as a set-up takes them, and how sure each number is."""
    limit = slot.slot_limit_mb_s or slot_ceiling(slot.bus_mb_s or 0)
    write = card.write_mb_s or unknown_card(slot.bus_mb_s or limit.value)
    share = share_of(slot, card)
    overhead = slot.overhead_s or unknown_overhead()
    of_pace = pace(arrangement, is_tested=card.is_tested)
    loaded = LoadedSlot(
        write_mb_s=write.value, overhead_s=overhead.value, slot_limit_mb_s=limit.value,
        bus_mb_s=slot.bus_mb_s, slot_share=share.value, pace=of_pace.value,
    )  # fmt: skip
    return loaded, SlotSources(
        write_mb_s=write.uncertainty,
        slot_limit_mb_s=limit.uncertainty,
        overhead_s=overhead.uncertainty,
        slot_share=share.uncertainty,
        pace=of_pace.uncertainty,
    )
