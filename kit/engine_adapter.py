"""The one place where the kit's rows become values of the engine."""

from collections.abc import Iterable
from dataclasses import replace

from engine.burst.scenario import LoadedSlot
from engine.cards.compatibility import Accepted, Fit, FitCard, FitSlot, fit
from engine.cards.copy_time import Copying, CopyReader, Port, copying
from engine.cards.standards import Bus, Form, Standard, bus_of_card
from engine.figures.figure import value_of
from engine.quantities import MB_IN_GB
from kit.models import Card, Reader, Slot


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
        newest_standard=Standard(body.newest_standard) if body.newest_standard else None,
        firmware=body.firmware,
    )
    return [
        fit(
            FitCard(
                form=Form(card.form),
                bus=Bus(card.bus),
                capacity_gb=card.capacity_gb,
                sustained_mb_s=card.write_mb_s,
            ),
            replace(
                of_slot,
                on_tested_list=(card.maker.casefold(), card.name.casefold()) in tested,
            )
            if tested
            else of_slot,
        )
        for card in cards
    ]


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
