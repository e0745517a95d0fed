"""Cards held against the slots of bodies, and against readers."""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby
from typing import Any

from django.db.models import QuerySet

from engine.cards.compatibility import Fit, Verdict
from engine.cards.copy_time import Copying
from kit.engine_adapter import copying_with, fits_in
from kit.models import Body, Card, KitItem, Reader, Slot, Visitor
from kit.models.card import CardQuerySet

_ORDER = list(Verdict)


@dataclass(frozen=True)
class SlotFit:
    """What came of holding a card against one slot."""

    card: Card
    slot: Slot
    fit: Fit

    @property
    def fits(self) -> bool:
        """Whether it can be tried, with other firmware perhaps."""
        return self.fit.verdict is not Verdict.DOES_NOT_FIT

    @property
    def mounts(self) -> bool:
        """Whether the Desk offers the card in that slot."""
        return self.fit.mounts

    @property
    def wasted_percent(self) -> float:
        """How much of the card's own speed is lost here, in per cent."""
        return 100 * (self.fit.wasted_share or 0)


@dataclass(frozen=True)
class Copied:
    """`gb` of `card` copied with `reader`."""

    card: Card
    reader: Reader
    copy: Copying
    gb: float

    @property
    def minutes(self) -> float:
        """What it takes at the practical rate."""
        return self.copy.minutes(self.gb)

    @property
    def most_minutes(self) -> float:
        """What it may take just as well."""
        return self.copy.most_minutes(self.gb)


def copied(pairs: Iterable[tuple[Card, Reader]], gb: float | None = None) -> list[Copied]:
    """Each card copied with its reader, where that takes it: `gb` of it, or all of a full one."""
    return [
        Copied(card, reader, copy, card.capacity_gb if gb is None else gb)
        for card, reader in pairs
        if (copy := copying_with(card, reader))
    ]


def bodies_to_fit(visitor: Visitor) -> "QuerySet[Body]":
    """The bodies to hold cards against, with all that this needs."""
    bodies: QuerySet[Body] = _own_if_any(Body, visitor)
    return bodies.prefetch_related(
        "slots__accepted_forms", "slots__body", "tested_cards", "estimates", "learnt_figures"
    )


def readers_to_copy(visitor: Visitor) -> list[Reader]:
    """The readers to copy cards with, with all that this needs."""
    return list(_own_if_any(Reader, visitor).prefetch_related("accepted_forms"))


def cards_to_fit(visitor: Visitor) -> CardQuerySet:
    """The cards to hold against slots and readers; archived and retired ones are not."""
    cards: CardQuerySet = _own_if_any(Card, visitor)
    return cards.available()


def _own_if_any(model: type[KitItem], visitor: Visitor) -> Any:
    """The visitor's own; those of the sample kit while there are none, if it is shown."""
    current = model.objects.offered_to(visitor).current()
    own = current.owned_by(visitor)
    return own if own.exists() else current


def in_every_slot(cards: Iterable[Card], bodies: Iterable[Body]) -> list[list[SlotFit]]:
    """Each of `cards` held against every slot of `bodies`."""
    cards = list(cards)
    columns = [
        [SlotFit(card, slot, fit) for card, fit in zip(cards, fits_in(cards, slot), strict=True)]
        for body in bodies
        for slot in body.slots.all()
    ]
    return [[column[number] for column in columns] for number in range(len(cards))]


def suits(held: Iterable[SlotFit]) -> list[tuple[Verdict, list[SlotFit]]]:
    """The bodies that a card can be tried in, each with its best slot, by verdict."""
    by_body = groupby(held, key=lambda one: one.slot.body_id)
    best = [one for _, slots in by_body if (one := min(slots, key=_badness)).fits]
    by_verdict = ((v, [one for one in best if one.fit.verdict is v]) for v in Verdict)
    return [(verdict, ones) for verdict, ones in by_verdict if ones]


def _badness(held: SlotFit) -> tuple[int, float]:
    return _ORDER.index(held.fit.verdict), -(held.fit.usable_mb_s or 0)
