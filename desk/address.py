"""The address of the Desk: every choice of a set-up, and a sentence for what can't be had.

| key | meaning |
|---|---|
| body, format, card1 | slugs of the kit |
| fps | frames a second, one of the body's rates |
| hold | seconds that the button is held down |
| free1 | GB free on the card; left out: all of it |

A key left out means the usual choice. What the kit doesn't have, or what doesn't go together, is
replaced by the nearest that does, and a note says so.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar
from urllib.parse import urlencode

from engine.scenario import Range
from kit.models import Body, Card, FrameRate, RecordingFormat, Slot

HOLD_S = Range(0.1, 600, "s")  # ten minutes, so that the Desk answers at once
USUAL_HOLD_S = 6.0
LONGEST_QUOTED = 30


class _HasSlug(Protocol):
    slug: Any


_Named = TypeVar("_Named", bound=_HasSlug)


@dataclass(frozen=True, kw_only=True)
class Setup:
    """One complete set-up; `card` is None when nothing in the kit fits the slot."""

    body: Body
    recording: RecordingFormat
    rate: FrameRate
    hold_s: float
    slot: Slot
    card: Card | None
    free_gb: float | None  # None: all of the card

    @property
    def room_gb(self) -> float:
        """GB that the card has room for."""
        if self.free_gb is not None:
            return self.free_gb
        return self.card.capacity_gb if self.card else 0.0


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What came of an address.

    `notes` maps a key to the sentence on what could not be had, `typed` keeps entries that are no
    number in range as they were typed; `unknown` tells that the kit lacks what the address names.
    """

    setup: Setup
    bodies: Sequence[Body]
    cards: Sequence[Card]
    notes: Mapping[str, str]
    typed: Mapping[str, str]
    unknown: bool

    @property
    def address(self) -> str:
        """The query that gives this view again, entries as typed included."""
        setup = self.setup
        choices = {
            "body": setup.body.slug,
            "format": setup.recording.slug,
            "fps": _plain(setup.rate.fps),
            "hold": _plain(setup.hold_s),
        }
        if setup.card is not None:
            choices["card1"] = setup.card.slug
        if setup.free_gb is not None:
            choices["free1"] = _plain(setup.free_gb)
        return urlencode(choices | dict(self.typed))


def read(address: Mapping[str, str]) -> Reading | None:
    """The set-up that `address` asks for; None while the kit has no body to shoot with."""
    bodies = list(Body.objects.ready_to_shoot())
    return _Reader(address).reading(bodies) if bodies else None


class _Reader:
    def __init__(self, address: Mapping[str, str]) -> None:
        self.asked = {key: value.replace("\0", "").strip() for key, value in address.items()}
        self.notes: dict[str, str] = {}
        self.typed: dict[str, str] = {}
        self.unknown = False

    def reading(self, bodies: Sequence[Body]) -> Reading:
        body = self.body(bodies)
        body.fetch_choices()
        slot = body.slots.all()[0]
        cards = list(Card.objects.fitting(slot))
        card = self.card(cards, slot)
        setup = Setup(
            body=body,
            recording=self.recording(body),
            rate=self.rate(body),
            hold_s=self.hold_s(),
            slot=slot,
            card=card,
            free_gb=self.free_gb(card) if card else None,
        )
        return Reading(
            setup=setup,
            bodies=bodies,
            cards=cards,
            notes=self.notes,
            typed=self.typed,
            unknown=self.unknown,
        )

    def body(self, bodies: Sequence[Body]) -> Body:
        usual = min(bodies, key=lambda body: body.pk)
        body = self._named("body", bodies)
        if body is None and self.asked.get("body"):
            self.unknown = True
            self.notes["body"] = (
                f"The kit has no body “{self._quoted('body')}”; this is the {usual}."
            )
        return body or usual

    def recording(self, body: Body) -> RecordingFormat:
        formats = body.formats.all()
        recording = self._named("format", formats)
        if recording is None and self.asked.get("format"):
            self.notes["format"] = (
                f"The {body} does not record “{self._quoted('format')}”; this is {formats[0].name}."
            )
        return recording or formats[0]

    def rate(self, body: Body) -> FrameRate:
        rates = [rate for mode in body.shutter_modes.all() for rate in mode.frame_rates.all()]
        asked = self.asked.get("fps")
        if not asked:
            return rates[0]
        fps = _number(asked)
        if fps is None:
            self.notes["fps"] = f"“{self._quoted('fps')}” is not a frame rate; this is {rates[0]}."
            return rates[0]
        nearest = min(rates, key=lambda rate: abs(rate.fps - fps))
        if nearest.fps != fps:
            self.notes["fps"] = f"The {body} does not shoot {fps:g} a second; this is {nearest}."
        return nearest

    def card(self, cards: Sequence[Card], slot: Slot) -> Card | None:
        usual = min(cards, key=lambda card: card.pk, default=None)
        card = self._named("card1", cards)
        instead = f"this is the {usual}" if usual else "nothing in the kit fits"
        if card is None and self.asked.get("card1"):
            refused = Card.objects.filter(slug=self.asked["card1"]).first()
            if refused is None:
                self.unknown = True
                self.notes["card1"] = f"The kit has no card “{self._quoted('card1')}”; {instead}."
            else:
                takes = " or ".join(taken.form for taken in slot.accepted_forms.all())
                self.notes["card1"] = (
                    f"The {refused} ({refused.form}) does not fit {slot}, which takes {takes}; "
                    f"{instead}."
                )
        return card or usual

    def hold_s(self) -> float:
        asked = self.asked.get("hold")
        if not asked:
            return USUAL_HOLD_S
        return self._in_range("hold", HOLD_S, "A hold lasts", USUAL_HOLD_S) or USUAL_HOLD_S

    def free_gb(self, card: Card) -> float | None:
        if not self.asked.get("free1"):
            return None
        room = Range(0, card.capacity_gb, "GB")
        return self._in_range("free1", room, f"The {card} has room for", card.capacity_gb)

    def _in_range(self, key: str, allowed: Range, subject: str, instead: float) -> float | None:
        """The number at `key`, or None, with what was typed kept and a note, when it is not one."""
        number = _number(self.asked[key].removesuffix(allowed.unit))
        if number is not None and allowed.fault(number) is None:
            return number
        self.typed[key] = self.asked[key]
        self.notes[key] = (
            f"{subject} {allowed.lowest:g} to {allowed.highest:g} {allowed.unit}; "
            f"“{self._quoted(key)}” is not that, so this is {instead:g} {allowed.unit}."
        )
        return None

    def _named(self, key: str, rows: Iterable[_Named]) -> _Named | None:
        slug = self.asked.get(key)
        return next((row for row in rows if row.slug == slug), None)

    def _quoted(self, key: str) -> str:
        asked = self.asked[key]
        return asked if len(asked) <= LONGEST_QUOTED else f"{asked[:LONGEST_QUOTED]}…"


def _plain(number: float) -> str:
    return f"{number:.10g}"


def _number(text: str) -> float | None:
    """The number that a photographer typed, with a decimal comma or point."""
    try:
        return float(text.strip().replace(",", "."))
    except ValueError:
        return None
