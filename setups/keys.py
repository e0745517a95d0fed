"""The keys of a set-up's address: what they are called is known here and nowhere else.

| key | meaning |
|---|---|
| body, format, card1, card2 | slugs of the kit |
| fps | frames a second, one of the body's rates |
| hold | seconds that the button is held down |
| to | single, overflow, mirror or split, one that the body offers |
| free1, free2 | GB free on the card; left out: all of it |
| write1, write2 | MB/s (or "1800 Mb/s") in place of what the kit says of card and slot |
| over, iso | a scene of `engine.burst.file_size`, and the ISO |
| isorule, detailrule | per cent by which files grow with them, in place of the format's own |
| was | the address of the set-up before a change that is tried |
| pin | the address of a pinned set-up, once for each; empty: nothing is pinned any more |
"""

from collections.abc import Mapping
from urllib.parse import parse_qsl, urlencode

from engine.burst.arrangement import Arrangement

LONGEST_SETUP = 1_000  # characters of a query that is kept; one of the Desk has a few hundred

BODY = "body"
FORMAT = "format"
FRAME_RATE = "fps"
HOLD = "hold"
ARRANGEMENT = "to"
SCENE = "over"
ISO = "iso"
ISO_RULE = "isorule"
DETAIL_RULE = "detailrule"
BEFORE = "was"
PIN = "pin"


def card(slot_number: int) -> str:
    """The key of the card in slot 1 or 2."""
    return f"card{slot_number}"


def free(slot_number: int) -> str:
    """The key of the room on that card."""
    return f"free{slot_number}"


def write(slot_number: int) -> str:
    """The key of a write speed typed for that slot."""
    return f"write{slot_number}"


CARDS = (card(1), card(2))

# What means nothing for another body: its formats, rates and slots, and the rules of a format.
OF_BODY = (FORMAT, FRAME_RATE, ISO_RULE, DETAIL_RULE, ARRANGEMENT,
           *(key(number) for number in (1, 2) for key in (card, free, write)))  # fmt: skip


def for_body(address: Mapping[str, str], body: str) -> dict[str, str]:
    """The keys of a set-up's address as far as they hold for `body`, a slug."""
    if address.get(BODY) == body:
        return dict(address)
    return {key: value for key, value in address.items() if key not in OF_BODY} | {BODY: body}


def renamed(query: str, bodies: Mapping[str, str], cards: Mapping[str, str]) -> str:
    """The query of a set-up whose bodies and cards, by their slugs, are called otherwise now."""
    now = dict.fromkeys(CARDS, cards) | {BODY: bodies}
    return urlencode([(key, now.get(key, {}).get(value, value)) for key, value in parse_qsl(query)])


def sent_with(form: Mapping[str, str]) -> dict[str, str]:
    """The keys and values of the set-up that a form sends along."""
    return dict(parse_qsl(form.get("setup", "")[:LONGEST_SETUP]))


def query_of(body: str, cards: dict[int, str] | None = None) -> str:
    """The query of a body with certain cards in its slots, by their slugs."""
    choices = {BODY: body} | {card(number): slug for number, slug in (cards or {}).items()}
    if cards and 2 in cards:
        choices[ARRANGEMENT] = (
            Arrangement.OVERFLOW.value
        )  # slot 2 is written to, whatever is in slot 1
    return urlencode(choices)


def as_pin(query: str) -> str:
    """A set-up's query as a pin in another query."""
    return urlencode({PIN: query})


def as_before(query: str) -> str:
    """A set-up's query as the one before a change, in the query of the changed one."""
    return urlencode({BEFORE: query})
