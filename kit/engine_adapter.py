"""The one place where the kit's rows become values of the engine."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from functools import lru_cache
from typing import cast

from engine.burst.arrangement import Arrangement
from engine.burst.scenario import LoadedSlot
from engine.cards.compatibility import Accepted, Fit, FitCard, FitSlot, fit
from engine.cards.copy_time import Copying, CopyReader, Port, copying
from engine.cards.label.parser import read_marks
from engine.cards.standards import CEILING_MB_S, Bus, Form, Standard, bus_of_card
from engine.estimates.side import AssumedCard, AssumedSlot, share_of, together
from engine.estimates.write_speed import (
    SLOT_CEILING,
    WriteEstimate,
    learnt_elsewhere,
    noted_speed,
    slot_ceiling,
)
from engine.figures.figure import Figure, value_of
from engine.figures.key import FigureKey
from engine.figures.uncertainty import OF_SOURCE
from engine.figures.uncertainty import Source as EngineSource
from engine.quantities import MB_IN_GB
from engine.uncertainty.sources import SlotSources
from kit.models import Body, Card, LearntSpeed, Reader, Slot, Source


def fit_in(card: Card, slot: Slot) -> Fit:
    """Whether `card` works in `slot`, whose body and forms are best fetched before."""
    return fits_in([card], slot)[0]


def fits_in(cards: Iterable[Card], slot: Slot) -> list[Fit]:
    """The same for many cards."""
    body = slot.body
    tested = {(one.maker.casefold(), one.name.casefold()) for one in body.tested_cards.all()}
    of_slot = FitSlot(
        accepts={
            Form(taken.form): Accepted(Bus(taken.bus), taken.from_firmware)
            for taken in slot.accepted_forms.all()
        },
        cap_mb_s=value_of(slot.limit),
        usual_share=SLOT_CEILING.middle,
        newest_standard=Standard(body.newest_standard) if body.newest_standard else None,
        firmware=body.firmware,
        on_tested_list=False if tested else None,
    )
    listed = replace(of_slot, on_tested_list=True)
    share = AssumedSlot(slot_share=body.learnt.get(slot.share_key))
    return [
        fit(
            FitCard(
                form=Form(card.form),
                bus=Bus(card.bus),
                capacity_gb=card.capacity_gb,
                sustained_mb_s=_sustained_mb_s(card, body, share),
            ),
            listed if (card.maker.casefold(), card.name.casefold()) in tested else of_slot,
        )
        for card in cards
    ]


def _sustained_mb_s(card: Card, body: Body, slot: AssumedSlot) -> float:
    """What `card` writes in a slot of `body` where that lets it."""
    assumed = assumed_card(card, body)
    return (value_of(assumed.write_mb_s) or 0) * share_of(slot, assumed).value


def limit_of(slot: Slot, bus: Bus) -> Figure:
    """The most that `slot` passes over `bus`, estimated where nobody knows it."""
    return slot.limit or slot_ceiling(CEILING_MB_S[bus])


def loaded_slot(
    card: Card,
    slot: Slot,
    bus: Bus,
    arrangement: Arrangement = Arrangement.SINGLE,
    *,
    with_learnt: bool = True,
) -> tuple[LoadedSlot, SlotSources]:
    """What `card` and `slot` do together over `bus`, and how sure that is.

    `with_learnt` or as it was assumed before the runs in this body.
    """
    body = slot.body
    figures = body.figures if with_learnt else body.assumed
    assumed = assumed_card(card, body, with_learnt=with_learnt)
    loaded, sources = together(_assumed_slot(slot, bus, figures), assumed, arrangement)
    alone, learnt = card_alone(card), _learnt(card, body, with_learnt=with_learnt)
    # The cache's speed was noted beside what the card keeps writing, not beside its own speed.
    faster = loaded.write_mb_s / (learnt.value if learnt else card.sustained_write_mb_s)
    with_card = replace(
        alone,
        write_mb_s=loaded.write_mb_s,
        cache_write_mb_s=alone.cache_write_mb_s and alone.cache_write_mb_s * faster,
        overhead_s=loaded.overhead_s,
        slot_limit_mb_s=loaded.slot_limit_mb_s,
        bus_mb_s=loaded.bus_mb_s,
        slot_share=loaded.slot_share,
        pace=loaded.pace,
    )
    source = _source_in(card, body, with_learnt=with_learnt)
    return with_card, replace(sources, cache_mb=OF_SOURCE[source])


def assumed_card(card: Card, body: Body, *, with_learnt: bool = True) -> AssumedCard:
    """How fast `card` writes in `body`, or writes by itself."""
    source = _source_in(card, body, with_learnt=with_learnt)
    learnt = _learnt(card, body, with_learnt=with_learnt)
    if learnt and learnt.own_mb_s:
        own, is_tested = Figure(learnt.own_mb_s, learnt.uncertainty), source == "measured_here"
        write = own if is_tested else learnt_elsewhere(own)
        return AssumedCard(name=card.slug, write_mb_s=write, is_tested=is_tested)
    if learnt and source == "measured_here":
        write = Figure(learnt.value, learnt.uncertainty)
        return AssumedCard(name=card.slug, write_mb_s=write, has_share=True, is_tested=True)
    mb_s = learnt.value if learnt else card.sustained_write_mb_s
    speed, is_tested = _speed(mb_s, source, *_printed(card))
    return AssumedCard(name=card.slug, write_mb_s=speed, has_share=is_tested, is_tested=is_tested)


def _learnt(card: Card, body: Body, *, with_learnt: bool) -> LearntSpeed | None:
    """What runs have taught of a card; before those in this body, what others have."""
    learnt: LearntSpeed | None = card.learnt
    if learnt is None or with_learnt:
        return learnt
    return None if card.source_in(body) == Source.MEASURED_HERE else learnt


def _source_in(card: Card, body: Body, *, with_learnt: bool) -> EngineSource:
    """Where its speed came from."""
    is_learnt = _learnt(card, body, with_learnt=with_learnt) is not None
    found = card.source_in(body) if is_learnt else card.noted_source_in(body)
    return cast("EngineSource", found.value)


def _assumed_slot(slot: Slot, bus: Bus, figures: Mapping[FigureKey, Figure]) -> AssumedSlot:
    return AssumedSlot(
        bus_mb_s=CEILING_MB_S[bus],
        slot_limit_mb_s=figures.get(slot.limit_key),
        overhead_s=figures.get(slot.overhead_key),
        slot_share=figures.get(slot.share_key),
    )


_Printed = tuple[str, str, str, float | None, float | None, float | None]


def _printed(card: Card) -> _Printed:
    """What is printed on a card, with a sustained figure that somebody has noted as printed."""
    noted = card.sustained_write_mb_s
    is_sustained = card.sustained_source == Source.PRINTED and noted != card.printed_write_mb_s
    return (
        card.marks,
        card.form,
        card.bus,
        card.printed_read_mb_s,
        card.printed_write_mb_s,
        noted if is_sustained else None,
    )


@lru_cache(maxsize=8_192)  # a kit of thousands of cards is held against the same slots every time
def _speed(
    mb_s: float, source: EngineSource, marks: str, form: str, bus: str, read_mb_s: float | None,
    write_mb_s: float | None, sustained_mb_s: float | None,
) -> tuple[Figure, bool]:  # fmt: skip
    """The speed of a card by what was noted of it and what is printed on it; as `noted_speed`."""
    face = read_marks(marks).face
    printed = replace(
        face,
        form=Form(form),
        bus=Bus(bus),
        read_mb_s=read_mb_s or face.read_mb_s,
        write_mb_s=write_mb_s or face.write_mb_s,
        sustained_mb_s=sustained_mb_s or face.sustained_mb_s,
    )
    return noted_speed(Figure(mb_s, OF_SOURCE[source]), printed)


def kept_writing(card: Card) -> WriteEstimate | None:
    """What cameras keep writing to `card`; None: it was measured in one."""
    source = card.sustained_source
    if card.learnt or source not in (Source.PRINTED, Source.ESTIMATED):
        return None
    speed, _ = _speed(card.sustained_write_mb_s, cast("EngineSource", source), *_printed(card))
    return WriteEstimate.over(Bus(card.bus), speed)


def card_alone(card: Card) -> LoadedSlot:
    """What `card` does in a slot that never stands in its way."""
    return LoadedSlot(
        write_mb_s=card.write_mb_s,
        free_mb=card.capacity_gb * MB_IN_GB,
        cache_mb=card.cache_gb * MB_IN_GB,
        cache_write_mb_s=card.cache_write_mb_s,
        slow_below_free_mb=card.slow_below_free_gb * MB_IN_GB,
        slow_factor=card.slow_factor,
    )


def copying_with(card: Card, reader: Reader) -> Copying | None:
    """How fast `reader` copies `card`; None when it does not take its form."""
    taken = {one.form: one.bus for one in reader.accepted_forms.all()}
    taken_as = next((form for form in card.slot_forms if form in taken), None)
    if taken_as is None:
        return None
    matched = reader.matches_maker.casefold()
    return copying(
        card.printed_read_mb_s,
        bus_of_card(Form(card.form), Bus(card.bus), taken_as),
        CopyReader(
            bus=Bus(taken[taken_as]),
            port=Port(reader.port),
            most_mb_s=reader.most_mb_s,
            matches=bool(matched) and matched == card.maker.casefold(),
        ),
    )
