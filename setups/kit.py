"""A visitor's kit as set-ups choose from it, kept in memory while nothing of it changes."""

from collections.abc import Mapping
from datetime import date
from functools import lru_cache
from threading import Lock

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AnonymousUser
from django.utils.timezone import localdate

from engine.cards.compatibility import Fit
from kit.engine_adapter import fits_in
from kit.models import Body, Card, Change, Slot, Visitor
from prices.money import Costs

KITS = 64  # that each process keeps


class Kit:
    """What has been fetched of a visitor's kit: each thing once, for all its set-ups.

    The visitor's own rows come before those of the sample kit. One is shared by all requests while
    nothing changes, so that nothing of it may be changed.
    """

    @classmethod
    def of(cls, visitor: Visitor, *, with_past: bool = False) -> "Kit":
        """The kit as it is now, from memory if nothing has changed since it was fetched.

        With its past it has what is archived and retired as well, of which runs may be.
        """
        return _kept_kit(visitor.pk, Change.version_for(visitor), localdate(), with_past)

    def __init__(self, visitor: Visitor, *, with_past: bool = False) -> None:
        self.visitor = visitor
        self._lock = Lock()
        bodies, cards = Body.objects.visible_to(visitor), Card.objects.visible_to(visitor)
        bodies = (bodies if with_past else bodies.current()).ready_to_shoot()
        self.bodies: list[Body] = list(bodies)
        self._of_slots = cards if with_past else cards.available()
        self._with_choices: set[int] = set()
        self._cards: dict[int, list[Card]] = {}
        self._fits: dict[int, dict[int, Fit]] = {}
        self.costs = Costs(visitor)

    def with_choices(self, body: Body) -> Body:
        """`body` with all that a set-up chooses from."""
        with self._lock:
            if body.pk not in self._with_choices:
                body.fetch_choices()
                self._with_choices.add(body.pk)
        return body

    def cards(self, slot: Slot) -> list[Card]:
        """The cards that can be used in `slot` as it is."""
        with self._lock:
            if slot.pk not in self._cards:
                cards = self._of_slots.fitting(slot)
                pairs = list(zip(cards, fits_in(cards, slot), strict=True))
                self._fits[slot.pk] = {card.pk: held for card, held in pairs}
                self._cards[slot.pk] = [card for card, held in pairs if held.mounts]
        return self._cards[slot.pk]

    def fits(self, slot: Slot) -> Mapping[int, Fit]:
        """What came of holding the cards against `slot`, by their primary keys."""
        self.cards(slot)
        return self._fits[slot.pk]


@lru_cache(maxsize=KITS)
def _kept_kit(
    visitor_pk: int | None, version: tuple[int, int], today: date, with_past: bool
) -> Kit:
    """The kit of that version, with the prices of that day."""
    visitor = get_user_model()(pk=visitor_pk) if visitor_pk else AnonymousUser()
    return Kit(visitor, with_past=with_past)
