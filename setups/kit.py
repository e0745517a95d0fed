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
    def of(cls, visitor: Visitor, *, with_past: bool = False, with_sample: bool = False) -> "Kit":
        """The kit as it is now, from memory if nothing has changed since it was fetched.

        With the sample kit it has that too where the visitor has left it out, as a link that was
        shared needs.

        With its past it has what is archived, retired or of the sample kit as well, of which runs
        may be.
        """
        shows_sample = with_sample or getattr(visitor, "shows_sample", False)
        version = Change.version_for(visitor)
        return _kept_kit(visitor.pk, shows_sample, version, localdate(), with_past)

    def __init__(self, visitor: Visitor, *, with_past: bool = False) -> None:
        self.visitor = visitor
        self._lock = Lock()
        if with_past:
            bodies, cards = Body.objects.visible_to(visitor), Card.objects.visible_to(visitor)
        else:
            bodies = Body.objects.offered_to(visitor).current()
            cards = Card.objects.offered_to(visitor).available()
        self.bodies: list[Body] = list(bodies.ready_to_shoot())
        self._of_slots = cards
        self._all_cards: list[Card] | None = None  # fetched when a slot first asks
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
                if self._all_cards is None:
                    self._all_cards = list(self._of_slots)
                forms = slot.card_forms()
                cards = [card for card in self._all_cards if card.form in forms]
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
    visitor_pk: int | None,
    shows_sample: bool,
    version: tuple[int, int],
    today: date,
    with_past: bool,
) -> Kit:
    """The kit of that version, with the prices of that day."""
    people = get_user_model()
    visitor = people(pk=visitor_pk, shows_sample=shows_sample) if visitor_pk else AnonymousUser()
    return Kit(visitor, with_past=with_past)
