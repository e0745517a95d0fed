"""The form of a new card's check."""

from typing import Any

from django import forms

from engine.cards.label.parser import read_marks
from engine.cards.new_card import CardCheck, InvalidCheck
from kit.form_fields import QuantityField
from kit.models import Card

GIB_HELP = "type GiB behind it where the computer counts so"


class CardCheckForm(forms.Form):
    """What was seen of a card; each step may be left out."""

    shown_gb = QuantityField(
        unit="GB", label="Capacity that the computer shows, GB", required=False, help_text=GIB_HELP
    )
    copied_gb = QuantityField(unit="GB", label="Copied to it, GB", required=False)
    copied_s = QuantityField(unit="s", label="in how many seconds", required=False)
    read_back_gb = QuantityField(
        unit="GB", label="Read back from the full card, GB", required=False, help_text=GIB_HELP
    )

    def __init__(self, *args: Any, card: Card) -> None:
        super().__init__(*args)
        self.card = card
        self.check: CardCheck | None = None

    def clean(self) -> dict[str, Any]:
        """The check of the card."""
        cleaned = super().clean() or {}
        if self.errors:
            return cleaned
        if not any(value is not None for value in cleaned.values()):
            raise forms.ValidationError("Give what one step has shown at least.")
        face = read_marks(self.card.marks).face
        try:
            self.check = CardCheck(
                printed_gb=self.card.capacity_gb, guaranteed_mb_s=face.guaranteed_mb_s, **cleaned
            )
        except InvalidCheck as error:
            for name, fault in error.faults.items():
                self.add_error(name, f"It {fault}.")
        return cleaned
