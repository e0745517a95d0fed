"""The one place where the kit's rows become values of the engine."""

from engine.copying import Copying, CopyReader, Port, copying
from engine.fit import Accepted, Fit, FitCard, FitSlot, fit
from engine.standards import Bus, Form, Standard
from kit.models import Card, Reader, Slot


def fit_in(card: Card, slot: Slot) -> Fit:
    """Whether `card` works in `slot`, whose body and forms are best fetched before."""
    body = slot.body
    tested = {(one.maker.casefold(), one.name.casefold()) for one in body.tested_cards.all()}
    held = FitCard(
        form=Form(card.form),
        bus=Bus(card.bus),
        capacity_gb=card.capacity_gb,
        sustained_mb_s=card.sustained_write_mb_s,
    )
    return fit(
        held,
        FitSlot(
            accepts={
                Form(taken.form): Accepted(Bus(taken.bus), taken.from_firmware)
                for taken in slot.accepted_forms.all()
            },
            cap_mb_s=slot.cap_mb_s,
            newest_standard=Standard(body.newest_standard) if body.newest_standard else None,
            firmware=body.firmware,
            on_tested_list=(card.maker.casefold(), card.name.casefold()) in tested
            if tested
            else None,
        ),
    )


def copying_with(card: Card, reader: Reader) -> Copying | None:
    """How fast `reader` copies `card`; None when it does not take its form."""
    buses = {accepted.form: accepted.bus for accepted in reader.accepted_forms.all()}
    bus = buses.get(card.form) or buses.get(card.form_taken)
    if bus is None:
        return None
    matched = reader.matches_maker.casefold()
    return copying(
        card.printed_read_mb_s,
        Bus(card.bus),
        CopyReader(
            bus=Bus(bus),
            port=Port(reader.port),
            most_mb_s=reader.most_mb_s,
            matches=bool(matched) and matched == card.maker.casefold(),
        ),
    )
