"""A slot, drawn: the outlines of the cards that it takes, to scale."""

from collections.abc import Sequence
from dataclasses import dataclass

from engine.cards.standards import CEILING_MB_S, SIZE_MM, Bus, Form
from kit.models import AcceptedForm, Slot

PER_MM = 1.8


@dataclass(frozen=True)
class Outline:
    """One form that a slot takes: its card's size in the drawing, and what its bus allows."""

    accepted: AcceptedForm
    width: float
    height: float
    ceiling_mb_s: float


def draw_slot(slot: Slot) -> Sequence[Outline]:
    """The cards that `slot` takes, all slots to one scale."""
    sizes = ((taken, SIZE_MM[Form(taken.form)]) for taken in slot.accepted_forms.all())
    return [
        Outline(taken, width_mm * PER_MM, height_mm * PER_MM, CEILING_MB_S[Bus(taken.bus)])
        for taken, (width_mm, height_mm) in sizes
    ]
