"""The cards that a plan takes along: in forms, in the row of a plan, and as the engine has them."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from django import forms
from django.forms.utils import flatatt
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe
from django.utils.text import capfirst

from engine.burst.scenario import FREE_MB
from engine.day.plan import MOST_CARDS, TakenCard
from engine.quantities import MB_IN_GB
from engine.typed_numbers import NotANumber, quantity_in
from kit.form_fields import WholeField
from kit.models import Card
from outings.models import SLOT_NUMBERS
from setups.setup import Side

CARDS = "cards"  # and the number of a slot: how many there are for it
OTHER_CARD = "card2"  # in the slot that only some periods write to
ROOMS = "rooms"  # and the number of a slot: the GB that each of them has room for
IN_SLOTS = (OTHER_CARD, *(f"{name}{slot}" for name in (CARDS, ROOMS) for slot in SLOT_NUMBERS))
FURTHER = "further"  # what names of fields of further cards begin with
MOST_FURTHER = 8
LONGEST_ROOMS = 400
SELECTED = mark_safe(" selected")
NO_SUCH_CARD = {
    "invalid_choice": "That card is not in your kit, or not for this slot: choose another."
}


class RoomsField(forms.CharField):
    """The room on several cards in their order, in GB, with spaces between them."""

    def __init__(self, **options: Any) -> None:
        super().__init__(required=False, max_length=LONGEST_ROOMS, **options)

    def clean(self, value: Any) -> list[float]:
        """In MB; nothing where it is left empty."""
        typed = parts(super().clean(value), MOST_CARDS, "cards are the most for a slot")
        try:
            rooms_mb = [quantity_in(one, "GB") * MB_IN_GB for one in typed]
        except NotANumber as error:
            raise forms.ValidationError(str(error)) from error
        if fault := next(filter(None, map(FREE_MB.fault, rooms_mb)), ""):
            raise forms.ValidationError(f"{capfirst(fault)} (1 GB is {MB_IN_GB:,} MB).")
        return rooms_mb


def parts(value: Any, most: int, words: str) -> list[str]:
    """What stands in a field with spaces or semicolons between; Django's error where it is more."""
    typed = str(value or "").replace(";", " ").split()
    if len(typed) > most:
        raise forms.ValidationError(f"{most} {words}.")
    return typed


class CardSelect(forms.Select):
    """A list of cards, of which a kit may have very many: written in one go, not by a template."""

    def render(
        self, name: str, value: Any, attrs: dict[str, Any] | None = None, renderer: object = None
    ) -> SafeString:
        options = format_html_join(
            "", '<option value="{}"{}>{}</option>',
            ((key, SELECTED if key == (value or "") else "", words) for key, words in self.choices),
        )  # fmt: skip
        written = flatatt(self.build_attrs(self.attrs, {"name": name, **(attrs or {})}))
        return format_html("<select{}>{}</select>", written, options)


def count_field(label: str) -> WholeField:
    """How many cards there are; left empty, one."""
    return WholeField(label=label, required=False, min_value=1, max_value=MOST_CARDS)


class FurtherCardForm(forms.Form):
    """Cards of one kind that go into a slot after those before; a row without a card is none."""

    card = forms.ChoiceField(
        label="Then", required=False, error_messages=NO_SUCH_CARD, widget=CardSelect
    )
    count = count_field("how many")
    rooms = RoomsField(label="or the room on each, GB")

    def __init__(self, *args: Any, sides: Sequence[Side], **options: Any) -> None:
        super().__init__(*args, **options)
        several = len(sides) > 1
        cards = [
            (f"{side.slot_number}/{card.slug}", f"{card}, {side.slot}" if several else str(card))
            for side in sides for card in side.cards
        ]  # fmt: skip
        self.fields["card"].choices = [("", "no other card"), *cards]  # type: ignore[attr-defined]
        for name, field in self.fields.items():
            is_card = name == "card"
            field.widget.attrs["class"] = "form-select" if is_card else "form-control"
            if not is_card:
                field.widget.attrs["size"] = size_of(name)

    def clean(self) -> dict[str, Any]:
        """With a card, if anything is told of it."""
        told = super().clean() or {}
        if not told.get("card") and (told.get("count") or told.get("rooms")):
            self.add_error("card", "Choose the card, or leave this row empty.")
        return told

    @property
    def is_there(self) -> bool:
        """Whether it tells a card."""
        return bool(self.cleaned_data.get("card"))

    @property
    def of_slot(self) -> str:
        """The number of the slot that it is for."""
        return str(self.cleaned_data["card"].partition("/")[0])

    def taken(self, side: Side) -> list[TakenCard]:
        """Its cards, if they are for the slot of `side`."""
        if not self.is_there or self.of_slot != side.slot_number:
            return []
        slug = self.cleaned_data["card"].partition("/")[2]
        card = card_of(side, slug)
        kind = "" if card == side.card else slug
        return _taken(card, self.cleaned_data["rooms"], self.cleaned_data["count"], kind)

    @property
    def kept(self) -> dict[str, Any]:
        """It as the row of a plan keeps it."""
        told = self.cleaned_data
        kept = {"card": told["card"], "count": told["count"] or 1}
        return kept | ({"rooms": self[ROOMS].data} if told["rooms"] else {})


FurtherCardForms = forms.formset_factory(
    FurtherCardForm, extra=1, max_num=MOST_FURTHER, absolute_max=MOST_FURTHER
)


def size_of(name: str) -> int:
    """How wide a field of cards is, in letters."""
    return 12 if name.startswith(ROOMS) else 5


def card_of(side: Side, kind: str) -> Card:
    """A card of a kind in the slot of `side`, its own where it has no name.

    Raises ValueError where there is none.
    """
    if not kind:
        return side.fitted
    found = next((card for card in side.cards if card.slug == kind), None)
    if found is None:
        raise ValueError(f"{side.slot} takes no card that is called {kind}")
    return found


def first_cards(side: Side, told: Mapping[str, Any]) -> list[TakenCard]:
    """The cards that a slot is begun with, by what is told of each slot.

    Raises ValueError where no card of the kit fits it.
    """
    rooms_mb, count = told[f"{ROOMS}{side.slot_number}"], told[f"{CARDS}{side.slot_number}"]
    return _taken(side.fitted, rooms_mb, count)


def whole_cards(card: Card, count: int, kind: str = "") -> list[TakenCard]:
    """So many empty cards."""
    return [TakenCard(card.capacity_gb * MB_IN_GB, kind)] * count


def _taken(
    card: Card, rooms_mb: Sequence[float], count: int | None, kind: str = ""
) -> list[TakenCard]:
    """Cards with the room that is told, or else so many empty ones."""
    with_room = [TakenCard(free_mb, kind) for free_mb in rooms_mb]
    return with_room or whole_cards(card, count or 1, kind)


def as_kept(form: forms.Form, further: Sequence[FurtherCardForm]) -> dict[str, Any]:
    """What is told of cards, as the row of a plan keeps it."""
    told = form.cleaned_data
    kept = {name: told[name] or 1 for name in told if name.startswith(CARDS)}
    kept |= {
        name: form.data[name] for name in told
        if name.startswith((ROOMS, OTHER_CARD)) and told[name]
    }  # fmt: skip
    rows = [row.kept for row in further if row.is_there]
    return kept | ({FURTHER: rows} if rows else {})


def as_sent(kept: Mapping[str, Any]) -> dict[str, Any]:
    """What a row keeps, as its forms would send it."""
    sent = {name: value for name, value in kept.items() if name != FURTHER}
    rows = kept.get(FURTHER, [])
    sent |= {f"{FURTHER}-TOTAL_FORMS": len(rows) + 1, f"{FURTHER}-INITIAL_FORMS": 0}
    for number, row in enumerate(rows):
        sent |= {f"{FURTHER}-{number}-{name}": value for name, value in row.items()}
    return sent


def renamed(kept: Mapping[str, Any], cards: Mapping[str, str]) -> dict[str, Any]:
    """What a row keeps, with the slugs of cards that are called otherwise now."""
    now = dict(kept)
    if OTHER_CARD in now:
        now[OTHER_CARD] = cards.get(now[OTHER_CARD], now[OTHER_CARD])
    if FURTHER in now:
        now[FURTHER] = list(_renamed_rows(now[FURTHER], cards))
    return now


def _renamed_rows(
    rows: Sequence[Mapping[str, Any]], cards: Mapping[str, str]
) -> Iterator[dict[str, Any]]:
    for row in rows:
        slot, _, slug = row["card"].partition("/")
        yield {**row, "card": f"{slot}/{cards.get(slug, slug)}"}
