"""One complete set-up of the kit: what the sentence on the Desk says."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Self
from urllib.parse import urlencode

from engine.burst.arrangement import Arrangement
from engine.burst.file_size import BASE_ISO
from engine.cards.compatibility import Fit
from engine.formats import exact, figure, span
from engine.quantities import Range
from kit.engine_adapter import fit_in, kept_writing, limit_of
from kit.models import Body, Card, FrameRate, RecordingFormat, Slot, SlotArrangement, Source
from setups import keys

HOLD_S = Range(0.1, 600, "s")  # ten minutes, so that the Desk answers at once
USUAL_HOLD_S = 6.0
USUAL_SCENE = "a mixed scene"


def caution(name: str, slot: Slot, fit: Fit) -> str:
    """What has to be tested before the card of that name is relied on; empty: nothing."""
    return f"{name} in {slot}: {fit.caution}." if fit.caution else ""


@dataclass(frozen=True, kw_only=True)
class Side:
    """A slot that the set-up writes to, with its card; None when nothing in the kit fits.

    `free_gb` is the room on the card, `write_mb_s` a speed that was typed in place of the kit's;
    None where the card is empty, and where the kit's holds. `cards` are those that can be used in
    the slot, `fits` what came of holding them against it, by their primary keys.
    """

    slot: Slot
    card: Card | None
    free_gb: float | None = None
    write_mb_s: float | None = None
    cards: Sequence[Card] = field(default=(), compare=False)
    fits: Mapping[int, Fit] = field(default_factory=dict, compare=False)

    @property
    def slot_number(self) -> str:
        """The slot's number as the address has it: "1" or "2"."""
        return str(self.slot.number)

    @cached_property
    def fit(self) -> Fit:
        """What came of holding the card against the slot."""
        return self._fit_of(self.fitted)

    @property
    def fitted(self) -> Card:
        """The card; raises ValueError when nothing fits."""
        if self.card is None:
            raise ValueError(f"nothing in the kit fits {self.slot}")
        return self.card

    @property
    def source_words(self) -> str:
        """Where the write speed of the card came from, seen from this body."""
        source = self.fitted.source_in(self.slot.body)
        learnt = self.fitted.learnt if source == Source.MEASURED_HERE else None
        if kept := kept_writing(self.fitted):
            range_mb_s = span(kept.low_mb_s, kept.high_mb_s)
            noted = figure(self.fitted.sustained_write_mb_s, "MB/s")
            printed = f" of {noted}" if source == Source.PRINTED else ""
            return f"{source.label}{printed}: cameras keep writing {range_mb_s}"
        return learnt.why if learnt else str(source.label)

    @property
    def limit_words(self) -> str:
        """Where the most that the slot passes came from."""
        return limit_of(self.slot, self.fit.bus).why if self.fit.bus else ""

    def usable_mb_s(self, card: Card) -> float:
        """What the slot and `card`, one of `cards`, reach together."""
        return self._fit_of(card).usable_mb_s or 0.0

    def _fit_of(self, card: Card) -> Fit:
        return self.fits.get(card.pk) or fit_in(card, self.slot)

    def with_card(self, card: Card) -> Self:
        """The slot with another card, empty and at the speed that the kit has for it."""
        return replace(self, card=card, free_gb=None, write_mb_s=None)

    @property
    def room_gb(self) -> float:
        """GB that the card has room for."""
        if self.free_gb is not None:
            return self.free_gb
        return self.card.capacity_gb if self.card else 0.0


@dataclass(frozen=True, kw_only=True)
class Setup:
    """Body, format, rate, hold, scene and the one or two slots written to.

    `arrangement` is None in a body with one slot. `iso_percent` and `detail_percent` are the rule
    of the format by which files grow with ISO and detail, where it was typed in place of the kit's.
    """

    body: Body
    recording: RecordingFormat
    rate: FrameRate
    hold_s: float
    sides: tuple[Side, ...]
    arrangement: SlotArrangement | None = None
    scene: str = USUAL_SCENE
    iso: int = BASE_ISO
    iso_percent: float | None = None
    detail_percent: float | None = None

    @property
    def arranged(self) -> Arrangement:
        """What is written where; in a body with one slot there is no choice."""
        return self.arrangement.arrangement if self.arrangement else Arrangement.SINGLE

    @property
    def is_available(self) -> bool:
        """Whether its cards can be chosen."""
        return all(side.fitted.is_available for side in self.sides)

    @property
    def name(self) -> str:
        """Which set-up it is, in a line."""
        return f"{self.body} · {self.name_in_body}"

    @property
    def name_for_any_hold(self) -> str:
        """The same, however long the button is down."""
        return f"{self.body} · {self._named()}"

    @property
    def name_in_body(self) -> str:
        """The same beside others of its body."""
        return self._named(f"{exact(self.hold_s)} s")

    def _named(self, *hold: str) -> str:
        cards = [str(side.card) for side in self.sides if side.card]
        said = [f"{self.recording}", f"{self.rate}", *hold]
        if self.arranged.slots_used > 1:
            said.append(self.arranged)
        return " · ".join([*said, *cards])

    @property
    def rate_words(self) -> str:
        """Where its frame rate came from."""
        return self.rate.figure.why

    @property
    def cautions(self) -> list[str]:
        """What has to be tested before its cards are relied on, a sentence each."""
        told = (caution(str(one.card), one.slot, one.fit) for one in self.sides if one.card)
        return [sentence for sentence in told if sentence]

    @property
    def complete(self) -> bool:
        """Whether every slot written to has a card."""
        return all(side.card is not None for side in self.sides)

    @property
    def slot_alone(self) -> int | None:
        """The slot that is written to, if slot 1 is left empty; else None."""
        number = self.sides[0].slot.number
        return None if number == 1 else number

    @cached_property
    def desk_query(self) -> str:
        """Where it opens on the Desk, which leaves no first slot empty; then nowhere."""
        return "" if self.slot_alone else urlencode(self.address)

    @cached_property
    def address(self) -> dict[str, str]:
        """The keys and values that give this set-up again; usual values are left out."""
        choices = {
            keys.BODY: self.body.slug,
            keys.FORMAT: self.recording.slug,
            keys.FRAME_RATE: exact(self.rate.fps),
            keys.HOLD: exact(self.hold_s),
        }
        if self.scene != USUAL_SCENE:
            choices[keys.SCENE] = self.scene
        if self.iso != BASE_ISO:
            choices[keys.ISO] = str(self.iso)
        if self.iso_percent is not None:
            choices[keys.ISO_RULE] = exact(self.iso_percent)
        if self.detail_percent is not None:
            choices[keys.DETAIL_RULE] = exact(self.detail_percent)
        if self.arrangement is not None:
            choices[keys.ARRANGEMENT] = self.arrangement.kind
        for side in self.sides:
            number = side.slot.number
            if side.card is not None:
                choices[keys.card(number)] = side.card.slug
            if side.free_gb is not None:
                choices[keys.free(number)] = exact(side.free_gb)
            if side.write_mb_s is not None:
                choices[keys.write(number)] = exact(side.write_mb_s)
        return choices
