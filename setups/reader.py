"""Reads the address of a set-up: every choice, and a sentence for what can't be had.

Its keys are those of `setups.keys`. A key left out means the usual choice. What the kit doesn't
have, or what doesn't go together, is replaced by the nearest that does, and a note says so.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Protocol, TypeVar
from urllib.parse import parse_qsl, urlencode

from engine.burst.arrangement import Arrangement
from engine.burst.file_size import BASE_ISO, DETAIL_OF_SCENE, ISO_STEPS
from engine.quantities import WRITE_MB_S, Range
from engine.typed_numbers import NotANumber, quantity_in, unit_in
from kit.engine_adapter import fit_in
from kit.models import (
    Body,
    Card,
    FrameRate,
    KitItem,
    RecordingFormat,
    Slot,
    SlotArrangement,
)
from kit.models.shared import sample_is_shown
from prices.money import Costs
from setups import keys
from setups.kit import Kit
from setups.setup import HOLD_S, USUAL_HOLD_S, USUAL_SCENE, Setup, Side

RULE_PERCENT = Range(0, 90, "%")
LONGEST_QUOTED = 30


class _HasSlug(Protocol):
    slug: Any


_Named = TypeVar("_Named", bound=_HasSlug)
_Item = TypeVar("_Item", bound=KitItem)


@dataclass(frozen=True, kw_only=True)
class Reading:
    """What came of an address.

    `all_sides` are the slots that the body could write to, whether this arrangement does or not.
    `notes` maps a key to the sentence on what could not be had, `typed` keeps entries that are no
    number in range as they were typed; `unknown` tells that the kit lacks what the address names.
    """

    setup: Setup
    all_sides: tuple[Side, ...]
    bodies: Sequence[Body]
    arrangements: Sequence[SlotArrangement]
    notes: Mapping[str, str]
    typed: Mapping[str, str]
    unknown: bool
    costs: Costs = field(compare=False)

    @property
    def arrangement_words(self) -> list[tuple[str, str]]:
        """The arrangements that can be chosen, and how the sentence says them."""
        return [(one.kind, one.get_kind_display()) for one in self.arrangements]

    @cached_property
    def address(self) -> str:
        """The query that gives this view again, entries as typed included."""
        return urlencode(self.setup.address | dict(self.typed))

    @property
    def formats(self) -> list[tuple[RecordingFormat, str]]:
        """The formats of the body, each with the query of this set-up in it."""
        setup = self.setup
        return [
            (one, urlencode(replace(setup, recording=one).address | dict(self.typed)))
            for one in setup.body.formats.all()
        ]

    def address_beside(self, before: "Reading | None") -> str:
        """The query that gives this view again, laid over the one before a change."""
        return f"{self.address}&{keys.as_before(before.address)}" if before else self.address


def read_address(address: Mapping[str, str], kit: Kit) -> Reading | None:
    """The set-up that `address` asks for; None while the kit has no body to shoot with."""
    return _Reader(address, kit).reading() if kit.bodies else None


def read_query(query: str, kit: Kit) -> Reading | None:
    """The set-up of a query as it stands in an address or a pin; None likewise."""
    return read_address(dict(parse_qsl(query)), kit)


class _Reader:
    def __init__(self, address: Mapping[str, str], kit: Kit) -> None:
        self.asked = {key: value.replace("\0", "").strip() for key, value in address.items()}
        self.kit = kit
        self.notes: dict[str, str] = {}
        self.typed: dict[str, str] = {}
        self.unknown = False

    def reading(self) -> Reading:
        body = self.kit.with_choices(self.body(self.kit.bodies))
        recording = self.recording(body)
        arrangements = _possible(body, recording)
        arrangement = self.arrangement(body, arrangements)
        slots = list(body.slots.all())
        both = arrangement is not None and arrangement.arrangement.slots_used > 1
        sides = tuple(self.side(slot) for slot in slots[: 2 if arrangement else 1])
        setup = Setup(
            body=body,
            recording=recording,
            rate=self.rate(body),
            hold_s=self.hold_s(),
            sides=sides if both else sides[:1],
            arrangement=arrangement,
            scene=self.scene(),
            iso=self.iso(),
            iso_percent=self.rule(keys.ISO_RULE, recording.iso_percent),
            detail_percent=self.rule(keys.DETAIL_RULE, recording.detail_percent),
        )
        return Reading(
            setup=setup,
            all_sides=sides,
            bodies=self.kit.bodies,
            arrangements=arrangements,
            notes=self.notes,
            typed=self.typed,
            unknown=self.unknown,
            costs=self.kit.costs,
        )

    def body(self, bodies: Sequence[Body]) -> Body:
        usual = _usual(bodies)
        assert usual is not None  # noqa: S101 - there is no reading of an empty kit
        body = self._named(keys.BODY, bodies)
        if body is None and self.asked.get(keys.BODY):
            self.notes[keys.BODY] = f"{self._why_not(keys.BODY, Body)}; this is the {usual}."
        return body or usual

    def recording(self, body: Body) -> RecordingFormat:
        formats = body.formats.all()
        recording = self._named(keys.FORMAT, formats)
        if recording is None and self.asked.get(keys.FORMAT):
            self.notes[keys.FORMAT] = (
                f"The {body} does not record “{self._quoted(keys.FORMAT)}”; "
                f"this is {formats[0].name}."
            )
        return recording or formats[0]

    def rate(self, body: Body) -> FrameRate:
        rates = [rate for mode in body.shutter_modes.all() for rate in mode.frame_rates.all()]
        asked = self.asked.get(keys.FRAME_RATE)
        if not asked:
            return rates[0]
        try:
            fps = quantity_in(asked, "fps")
        except NotANumber:
            self.notes[keys.FRAME_RATE] = (
                f"“{self._quoted(keys.FRAME_RATE)}” is not a frame rate; this is {rates[0]}."
            )
            return rates[0]
        nearest = min(rates, key=lambda rate: abs(rate.fps - fps))
        if nearest.fps != fps:
            self.notes[keys.FRAME_RATE] = (
                f"The {body} does not shoot {fps:g} fps; this is {nearest}."
            )
        return nearest

    def arrangement(
        self, body: Body, arrangements: Sequence[SlotArrangement]
    ) -> SlotArrangement | None:
        asked = self.asked.get(keys.ARRANGEMENT)
        usual = arrangements[0] if arrangements else None
        chosen = next((one for one in arrangements if one.kind == asked), usual)
        if asked and asked != (chosen.kind if chosen else Arrangement.SINGLE):
            instead = f"this is {chosen.kind}" if chosen else "it has one slot"
            if any(one.kind == asked for one in body.arrangements.all()):
                why = f"{asked.capitalize()} needs a format that writes two files"
            else:
                why = f"The {body} does not offer “{self._quoted(keys.ARRANGEMENT)}”"
            self.notes[keys.ARRANGEMENT] = f"{why}; {instead}."
        return chosen

    def scene(self) -> str:
        asked = self.asked.get(keys.SCENE) or USUAL_SCENE
        if asked in DETAIL_OF_SCENE:
            return asked
        self.notes[keys.SCENE] = (
            f"“{self._quoted(keys.SCENE)}” is not a scene here; this is {USUAL_SCENE}."
        )
        return USUAL_SCENE

    def iso(self) -> int:
        asked = self.asked.get(keys.ISO) or str(BASE_ISO)
        if asked in {str(iso) for iso in ISO_STEPS}:
            return int(asked)
        self.notes[keys.ISO] = (
            f"ISO goes in full stops from {ISO_STEPS[0]} to {ISO_STEPS[-1]}; "
            f"“{self._quoted(keys.ISO)}” is none of them, so this is {BASE_ISO}."
        )
        return BASE_ISO

    def hold_s(self) -> float:
        hold_s = self._number(keys.HOLD, HOLD_S, "A hold lasts", USUAL_HOLD_S)
        return USUAL_HOLD_S if hold_s is None else hold_s

    def rule(self, key: str, of_format: float) -> float | None:
        """A growth of files in per cent, typed in place of the format's own."""
        return self._number(key, RULE_PERCENT, "Files grow by", of_format)

    def side(self, slot: Slot) -> Side:
        cards = self.kit.cards(slot)
        card = self.card(cards, slot)
        return Side(
            slot=slot,
            card=card,
            free_gb=self.free_gb(card, slot) if card else None,
            write_mb_s=self.write_mb_s(slot),
            cards=cards,
            fits=self.kit.fits(slot),
        )

    def card(self, cards: Sequence[Card], slot: Slot) -> Card | None:
        key = keys.card(slot.number)
        if card := self._named(key, cards):
            return card
        usual = _usual(cards)
        instead = f"this is the {usual}" if usual else "nothing in the kit fits"
        if self.asked.get(key):
            self.notes[key] = f"{self._why_not(key, Card, slot)}; {instead}."
        return usual

    def free_gb(self, card: Card, slot: Slot) -> float | None:
        room = Range(0, card.capacity_gb, "GB")
        subject = f"The {card} has room for"
        return self._number(keys.free(slot.number), room, subject, card.capacity_gb)

    def write_mb_s(self, slot: Slot) -> float | None:
        key = keys.write(slot.number)
        asked = self.asked.get(key, "")
        if not asked:
            return None
        try:
            write_mb_s = quantity_in(asked, "MB/s")
        except NotANumber as error:
            self.typed[key] = asked
            self.notes[key] = f"{error} The kit's figure holds."
            return None
        if WRITE_MB_S.fault(write_mb_s):
            self.typed[key] = asked
            self.notes[key] = (
                f"A write speed is a number of MB/s, or of Mb/s, above 0; “{self._quoted(key)}” is "
                "not that, so the kit's figure holds."
            )
            return None
        if unit_in(asked) not in ("", "MB/s"):
            why = ": 8 bits make a byte" if "b" in unit_in(asked) else ""
            self.notes[key] = f"{self._quoted(key)} are {write_mb_s:g} MB/s{why}."
        return write_mb_s

    def _number(self, key: str, allowed: Range, subject: str, instead: float) -> float | None:
        """The number at `key`; None, and a note that `instead` holds, when it is not in range."""
        asked = self.asked.get(key)
        if not asked:
            return None
        why = f"“{self._quoted(key)}” is not that"
        try:
            number = quantity_in(asked, allowed.unit, allowed)
            if allowed.fault(number) is None:
                return number
        except NotANumber as error:
            why = str(error).rstrip(".")
        self.typed[key] = asked
        self.notes[key] = (
            f"{subject} {allowed.lowest:g} to {allowed.highest:g} {allowed.unit}; {why}, so this "
            f"is {instead:g} {allowed.unit}."
        )
        return None

    def _why_not(self, key: str, model: type[KitItem], slot: Slot | None = None) -> str:
        """Why what the address names is not among the choices."""
        visible = model.objects.visible_to(self.kit.visitor)
        refused = visible.filter(slug=self.asked[key]).first()
        if refused is None:
            self.unknown = True
            return f"The kit has no {model.__name__.lower()} “{self._quoted(key)}”"
        if refused.archived_at:
            return f"The {refused} is archived, and is offered again once it is brought back"
        if refused.is_sample and not sample_is_shown(self.kit.visitor):
            return f"The {refused} is of the sample kit, which is not shown beside yours"
        if isinstance(refused, Card) and slot and not (held := fit_in(refused, slot)).mounts:
            return f"The {refused} in {slot}: {held.verdict}. {held.reasons[-1].rstrip('.')}"
        if isinstance(refused, Card):
            return f"The {refused} is retired"
        return f"The {refused} lacks a frame rate, a format or a slot to shoot with"

    def _named(self, key: str, rows: Iterable[_Named]) -> _Named | None:
        slug = self.asked.get(key)
        return next((row for row in rows if row.slug == slug), None)

    def _quoted(self, key: str) -> str:
        asked = self.asked[key]
        return asked if len(asked) <= LONGEST_QUOTED else f"{asked[:LONGEST_QUOTED]}…"


def _usual(rows: Sequence[_Item]) -> _Item | None:
    """The one to start with: the visitor's first, or else the first of the sample kit."""
    return min(rows, key=lambda row: (row.is_sample, row.pk), default=None)


def _possible(body: Body, recording: RecordingFormat) -> list[SlotArrangement]:
    """The arrangements that the body offers in this format: split needs two files."""
    return [one for one in body.arrangements.all() if one.takes(recording)]
