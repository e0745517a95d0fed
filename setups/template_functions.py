"""Links to set-ups, and the bursts that the screens of the kit show beside cards."""

from collections.abc import Iterable
from typing import Any

from django.urls import reverse

from kit.fits import SlotFit
from kit.models import Body, Card
from kit.models.shared import Visitor
from setups import keys
from setups.bursts import bursts_with
from setups.kit import Kit
from setups.prediction import Prediction
from setups.reader import read_address
from setups.setup import Setup

MOST_OF_BODY = 20


def on_desk(shown: Body | SlotFit) -> str:
    """The Desk with that body, or with that card in that slot of its body."""
    if isinstance(shown, Body):
        query = keys.query_of(shown.slug)
    else:
        slot = shown.slot
        query = keys.query_of(slot.body.slug, {slot.number: shown.card.slug})
    return f"{reverse('desk')}?{query}"


def in_my_body(cards: Iterable[Card], visitor: Visitor) -> dict[str, Any]:
    """The burst of the visitor's first body on each of `cards`: `setup`, and `by_card`."""
    kit = Kit.of(visitor)
    reading = read_address({}, kit)
    if reading is None:
        return {"setup": None, "by_card": {}}
    return {"setup": reading.setup, "by_card": bursts_with(kit, reading.setup, cards)}


def burst_on(card: Card, visitor: Visitor) -> Prediction | None:
    """The same on one card; None: it doesn't go in."""
    return burst_of(in_my_body([card], visitor), card)


def bursts_of(body: Body, visitor: Visitor) -> dict[str, Any]:
    """The burst of `body` with each card that it takes: `setup` and `rows`, the visitor's first."""
    kit = Kit.of(visitor)
    reading = read_address({keys.BODY: body.slug}, kit)
    if reading is None or reading.setup.body.pk != body.pk:
        return {"setup": None, "rows": []}
    rows = sorted(_rows(kit, reading.setup), key=_order)
    return {"setup": reading.setup, "rows": rows[:MOST_OF_BODY], "more": len(rows[MOST_OF_BODY:])}


def _rows(kit: Kit, setup: Setup) -> list[Prediction]:
    cards = {card.pk: card for slot in setup.body.slots.all() for card in kit.cards(slot)}
    return list(bursts_with(kit, setup, cards.values()).values())


def _order(burst: Prediction) -> tuple[bool, int, int]:
    """One's own first, then the most frames at full speed, then the soonest light out."""
    depth, card = burst.shot.frames_at_full_speed, burst.setup.sides[0].fitted
    full = burst.shot.frames_due + 1 if depth is None else depth
    return card.is_sample, -full, round(1000 * burst.shot.clear_s)


def burst_of(bursts: dict[str, Any], card: Card) -> Prediction | None:
    """The burst of `in_my_body` on `card`; None: it doesn't go in."""
    found: Prediction | None = bursts["by_card"].get(card.pk)
    return found


FUNCTIONS = {"in_my_body": in_my_body, "burst_on": burst_on, "bursts_of": bursts_of}
FILTERS = {
    "as_pin": keys.as_pin,
    "as_before": keys.as_before,
    "on_desk": on_desk,
    "burst_of": burst_of,
}
