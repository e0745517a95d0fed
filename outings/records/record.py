"""The record of an outing: what was shot, on which cards, and how that was planned."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from engine.burst.arrangement import Arrangement
from engine.day.cards_used import CardUse, Swap, Writing, cards_used
from engine.day.frames_taken import FramesTaken
from engine.day.plan_simulation import shares_of_slots
from engine.measurement.track_record import Compared, TrackRecord
from engine.quantities import MB_IN_GB, S_IN_HOUR, S_IN_MINUTE
from kit.models import Card, Visitor
from outings.models import FieldNote, FieldNoteKind, Outing, OutingDay
from outings.plans.against_plan import NAMES, came_to, compared
from outings.replays.day import DayReplay, scenario_of_day
from outings.words import clock_among
from setups.kit import Kit
from setups.pins import Pins
from setups.reader import Reading
from setups.setup import Setup

NEAR_S = 2 * S_IN_HOUR  # of the first or last frame is where its notes are
UNTOLD = "a card that was not told"
GONE = "a card that is no longer in your kit"


@dataclass(frozen=True)
class CardNames:
    """What the cards of a visitor are called, by their slugs, whatever became of them since."""

    names: dict[str, str]

    @classmethod
    def of(cls, visitor: Visitor) -> "CardNames":
        """One's own before those of the sample kit."""
        names: dict[str, str] = {}
        for card in Card.objects.visible_to(visitor):
            names.setdefault(card.slug, str(card))
        return cls(names)

    def name(self, slug: str) -> str:
        """Of the card, or why there is none."""
        return self.names.get(slug, GONE) if slug else UNTOLD


@dataclass(frozen=True)
class CardInSlot:
    """A card that was in a slot, by its name; when it went in and out, empty: at start and end."""

    use: CardUse
    name: str
    from_clock: str
    until_clock: str

    @property
    def gb(self) -> float:
        """GB that were written to it."""
        return self.use.mb / MB_IN_GB


@dataclass(frozen=True)
class OutingRecord:
    """An outing in a kit with its past; `card_names` are those of its owner."""

    outing: Outing
    kit: Kit
    card_names: CardNames

    @cached_property
    def day(self) -> OutingDay | None:
        """Its pictures."""
        return getattr(self.outing, "day", None)

    @cached_property
    def _taken(self) -> FramesTaken | None:
        return self.day.pictures.taken if self.day else None

    @cached_property
    def notes(self) -> Sequence[FieldNote]:
        """What was noted in the field."""
        return list(self.outing.field_notes.all())

    @property
    def is_untold(self) -> bool:
        """Whether some note doesn't tell its card."""
        return any(card == UNTOLD for _, card in self.noted)

    @property
    def noted(self) -> list[tuple[FieldNote, str]]:
        """The notes, the latest first, each with what its card is called."""
        about_cards = (FieldNoteKind.SWAP, FieldNoteKind.FAILURE)
        return [
            (one, self.card_names.name(one.card) if one.kind in about_cards else "")
            for one in reversed(self.notes)
        ]

    @cached_property
    def reading(self) -> Reading | None:
        """The set-up that it was shot with, or is planned with; None where its body is gone."""
        return self.outing.reading(self.kit)

    @cached_property
    def came(self) -> Mapping[str, float]:
        """What the day came to; nothing where its set-up doesn't tell."""
        if self.day is None or self.reading is None or not self.reading.setup.complete:
            return {}
        day = DayReplay(self.reading, self.day.pictures, Pins.of([], self.kit), self.day.told_s)
        try:
            return came_to(day.was, day.pictures.taken)
        except ValueError:
            return {}

    def compared_with(self, came: Mapping[str, float]) -> list[Compared]:
        """Each figure of the plan with what it came to."""
        plan = getattr(self.outing, "plan", None)
        return list(compared(plan.predicted, came)) if plan else []

    @property
    def compared(self) -> list[tuple[str, Compared]]:
        """The same, each by what it is called."""
        return [(NAMES[one.key], one) for one in self.compared_with(self.came)]

    @property
    def track_record(self) -> TrackRecord:
        """How well the plan was."""
        return TrackRecord([one for _, one in self.compared])

    @property
    def bursts_noted(self) -> int:
        """How many bursts were tapped."""
        return sum(one.kind == FieldNoteKind.BURST for one in self.notes)

    @property
    def clocks_differ(self) -> bool:
        """Whether no note lies near the frames, as where clocks are apart."""
        if self._taken is None or not self.notes:
            return False
        first_s, last_s = self._taken.times_s[[0, -1]]
        return not any(
            first_s - NEAR_S <= self._by_camera(one) <= last_s + NEAR_S for one in self.notes
        )

    @cached_property
    def cards(self) -> list[CardInSlot]:
        """The cards that were in the slots, in their order."""
        swaps = [
            Swap(one.slot, self._by_camera(one), one.card)
            for one in self.notes
            if one.kind == FieldNoteKind.SWAP
        ]
        none = np.zeros(0)
        times_s, mb = (self._taken.times_s, self._taken.mb) if self._taken else (none, none)
        uses = cards_used(self._writing(swaps), swaps, times_s, mb)
        ends_s = [*times_s[:1].tolist(), *times_s[-1:].tolist(), *(one.at_s for one in swaps)]
        clock = clock_among(ends_s, "%H:%M")
        return [
            CardInSlot(
                one, self.card_names.name(one.card),
                "" if one.from_s is None else clock(one.from_s),
                "" if one.until_s is None else clock(one.until_s),
            )
            for one in uses
        ]  # fmt: skip

    @property
    def failures(self) -> list[tuple[FieldNote, str]]:
        """Cards that failed, with what they are called."""
        return [(one, name) for one, name in self.noted if one.kind == FieldNoteKind.FAILURE]

    def _by_camera(self, note: FieldNote) -> float:
        """The moment of a note by the clock of the camera."""
        ahead_min = self.day.ahead_min if self.day else 0
        return note.at_s + S_IN_MINUTE * ahead_min

    def _writing(self, swaps: Sequence[Swap]) -> Writing:
        """What wrote to which slot; without a set-up the slots that are noted, from the start."""
        if self.reading is None:
            slots = max((one.slot for one in swaps), default=0)
            return Writing(
                arrangement=Arrangement.SINGLE, first=[""] * slots, shares=[1.0], rooms_mb={}
            )
        setup = self.reading.setup
        cards = [side.card for side in setup.sides]
        return Writing(
            arrangement=setup.arranged,
            first=[card.slug if card else "" for card in cards],
            shares=_shares(setup),
            rooms_mb={card.slug: card.capacity_gb * MB_IN_GB for card in cards if card},
        )


def records_of(outings: Iterable[Outing], visitor: Visitor) -> Iterator[OutingRecord]:
    """The record of each outing of a visitor."""
    kit, names = Kit.of(visitor, with_past=True), CardNames.of(visitor)
    return (OutingRecord(one, kit, names) for one in outings)


def record_of(outing: Outing, visitor: Visitor) -> OutingRecord:
    """The record of one."""
    return next(records_of([outing], visitor))


def _shares(setup: Setup) -> list[float]:
    """The share of a frame that each slot takes; all of it where the kit can't tell any more."""
    try:
        return shares_of_slots(scenario_of_day(setup).scenario)
    except ValueError:
        return [1.0] * len(setup.sides)
