"""What is noted of a card over the years, and what that says of its state."""

from kit import edit
from kit.document import MOST_IN_LIST
from kit.models import Card, CardEvent, CardLogEntry, CardState, Revision
from pages.refusals import Refused

# What a line says of the card's state from then on.
STATE_AFTER = {CardEvent.FAILURE: CardState.SUSPECT, CardEvent.RETIRED: CardState.RETIRED}


def add_line(card: Card, entry: CardLogEntry) -> Revision:
    """Saves a line as the card's; what it says of its state holds. Raises Refused: no room."""
    if card.log.count() >= MOST_IN_LIST:
        raise Refused([f"This log is full: it has {MOST_IN_LIST} lines."])
    with edit.change(card, f"Log of {card}") as revision:
        entry.card = card
        entry.save()
        if state := STATE_AFTER.get(CardEvent(entry.event)):
            Card.objects.filter(pk=card.pk).update(state=state)
            revision.words += f": it counts as {state.label} now"
    return revision
