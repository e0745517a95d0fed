"""The form of a plan: when the day begins, its periods, and what is taken along."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import time
from typing import Any
from urllib.parse import urlencode

from django import forms
from django.utils.text import capfirst

from engine.burst.scenario import HOLD_S
from engine.day.picture_desk import PictureDesk
from engine.day.plan import AN_HOUR, MINUTES, Period
from engine.day.presses import InvalidDay
from engine.formats import exact
from engine.quantities import WRITE_MB_S, Range
from kit.engine_adapter import copying_with
from kit.form_fields import QuantityField, WholeField
from kit.models import Reader
from outings.models import OF_DESK
from outings.plans.cards import (
    CARDS,
    FURTHER,
    IN_SLOTS,
    NO_SUCH_CARD,
    OTHER_CARD,
    ROOMS,
    CardSelect,
    RoomsField,
    card_of,
    count_field,
    parts,
    size_of,
)
from outings.plans.planned_outing import shot_in
from outings.replays.day import scenario_of_day
from setups import keys
from setups.kit import Kit
from setups.reader import Reading

MOST_ROWS = 24
MOST_LISTED = 200  # bursts of a period
LONGEST_NAME = 40
AS_ABOVE = ""
PERIODS = "periods"  # what names of fields of periods begin with
USUAL_START = time(6, 0)
USUALLY_LONGER = 3.0  # times as long as half of the holds are nine of ten
OF_SET_UP = {"recording": keys.FORMAT, "frame_rate": keys.FRAME_RATE,
             "arrangement": keys.ARRANGEMENT}  # fmt: skip


class RangedField(QuantityField):
    """A quantity in a range of the engine; left empty, it is what is usual."""

    def __init__(self, allowed: Range, usual: float, unit: str, label: str) -> None:
        super().__init__(unit=unit, label=label, required=False)
        self.allowed, self.usual = allowed, usual
        self.widget.attrs |= {"size": 5, "aria-label": label, "class": "form-control"}

    def clean(self, value: Any) -> float:
        """A number in the range."""
        number = super().clean(value)
        if number is None:
            return self.usual
        if fault := self.allowed.fault(number):
            raise forms.ValidationError(f"{capfirst(fault)}.")
        return float(number)


class HoldsField(RangedField):
    """How long half of the bursts are held at most; or the hold of each, with spaces between."""

    def clean(self, value: Any) -> Any:
        """One number, or all of them."""
        typed = parts(value, MOST_LISTED, "bursts are the most in a list")
        return [super(HoldsField, self).clean(one) for one in typed or [""]]


class PeriodForm(forms.Form):
    """A period; a row without a name and a length is none."""

    name = forms.CharField(
        max_length=LONGEST_NAME,
        required=False,
        widget=forms.TextInput({"aria-label": "Period", "class": "form-control"}),
    )
    minutes = RangedField(MINUTES, 0, "min", "Minutes")
    bursts_an_hour = RangedField(AN_HOUR, 0, "", "Bursts an hour")
    hold_s = HoldsField(HOLD_S, 1, "s", "Half are held for at most, s")
    long_hold_s = RangedField(HOLD_S, 0, "s", "Nine of ten for at most, s")
    singles_an_hour = RangedField(AN_HOUR, 0, "", "Single frames an hour")
    copies = forms.BooleanField(
        required=False,
        widget=forms.CheckboxInput({"aria-label": "Cards are copied", "class": "form-check-input"}),
    )
    recording = forms.ChoiceField(required=False)
    frame_rate = forms.ChoiceField(required=False)
    arrangement = forms.ChoiceField(required=False)

    def __init__(self, *args: Any, reading: Reading, kit: Kit, **options: Any) -> None:
        super().__init__(*args, **options)
        self.reading, self.kit = reading, kit
        body = reading.setup.body
        modes = body.shutter_modes.all()
        for name, label, choices in (
            ("recording", "Format", [(one.slug, str(one)) for one in body.formats.all()]),
            ("frame_rate", "Rate",
             [(exact(one.fps), str(one)) for mode in modes for one in mode.frame_rates.all()]),
            ("arrangement", "Slots",
             [(one.kind, one.get_kind_display()) for one in body.arrangements.all()]),
        ):  # fmt: skip
            field = self.fields[name]
            field.choices = [(AS_ABOVE, "as above"), *choices]  # type: ignore[attr-defined]
            field.widget.attrs = {"aria-label": label, "class": "form-select"}
            if not choices:
                del self.fields[name]  # as the slots of a body with one

    def label_of(self, name: str) -> str:
        """What a field is called, in the middle of a sentence."""
        label = str(self.fields[name].widget.attrs["aria-label"])
        return label[:1].lower() + label[1:]

    @property
    def is_there(self) -> bool:
        """Whether it is a period."""
        told = self.cleaned_data
        return bool(told.get("name") or told.get("minutes"))

    def clean(self) -> dict[str, Any]:
        """As a period of the engine."""
        told = super().clean() or {}
        if self.errors or not self.is_there:
            return told
        if not told["minutes"]:
            self.add_error("minutes", "Say how many minutes it lasts.")
            return told
        set_up = {key: told[name] for name, key in OF_SET_UP.items() if told.get(name)}
        shot = shot_in(self.reading, urlencode(set_up), self.kit)
        for name, key in OF_SET_UP.items():
            if key in shot.notes and key not in self.reading.notes:
                self.add_error(name if name in self.fields else None, shot.notes[key])
        told["listed_s"], told["hold_s"] = told["hold_s"], told["hold_s"][0]
        if len(told["listed_s"]) == 1:
            told["listed_s"] = []
        elif told["bursts_an_hour"]:
            self.add_error("bursts_an_hour", "Leave this empty, as the hold of each is listed.")
            return told
        else:
            told["long_hold_s"] = max(told["listed_s"])
        told["long_hold_s"] = told["long_hold_s"] or max(
            told["hold_s"], min(USUALLY_LONGER * told["hold_s"], HOLD_S.highest)
        )
        try:
            told["period"] = Period(
                name=told["name"] or "period", set_up=urlencode(set_up),
                **{key: told[key] for key in (
                    "minutes", "bursts_an_hour", "hold_s", "long_hold_s", "singles_an_hour",
                    "copies", "listed_s",
                )},
            )  # fmt: skip
        except InvalidDay as error:
            for field, fault in error.faults.items():
                self.add_error(field, f"{capfirst(fault)}.")
        return told


def is_of_plan(name: str) -> bool:
    """Whether a field of that name is one of a plan's forms."""
    is_of_row = name.startswith((f"{PERIODS}-", f"{FURTHER}-"))
    return is_of_row or name in {*PlanForm.base_fields, *IN_SLOTS}


PeriodForms = forms.formset_factory(PeriodForm, extra=1, max_num=MOST_ROWS, absolute_max=MOST_ROWS)


class PlanForm(forms.Form):
    """What holds for all of the day shot with the body and cards of `reading`."""

    start = forms.TimeField(
        label="It begins at", required=False, widget=forms.TimeInput({"type": "time"}, "%H:%M")
    )
    reader = forms.ChoiceField(label="Cards are copied with", required=False)
    copy_mb_s = QuantityField(unit="MB/s", label="or at, MB/s", required=False)
    desk_frames = WholeField(label="The picture desk wants, frames of a burst", required=False)
    desk_min = QuantityField(unit="min", label="within, minutes", required=False)
    send_mb_s = QuantityField(unit="MB/s", label="sent at, MB/s", required=False)

    def __init__(
        self, data: Mapping[str, Any], *, reading: Reading, readers: Sequence[Reader]
    ) -> None:
        super().__init__(data)
        self.reading, self.setup = reading, reading.setup
        self.readers = {one.slug: one for one in readers}
        known = [(slug, str(one)) for slug, one in self.readers.items()]
        self.fields["reader"].choices = [("", "the fastest reader"), *known]  # type: ignore[attr-defined]
        of_slots: dict[str, forms.Field] = {}
        written = len(reading.setup.sides)
        for number, side in enumerate(reading.all_sides):
            label = f"{side.card or 'Cards'}"
            if number >= written:
                label = f"Cards for {side.slot}"
                of_slots[OTHER_CARD] = forms.ChoiceField(
                    label=f"Card in {side.slot}, where a period writes to it", required=False,
                    error_messages=NO_SUCH_CARD, widget=CardSelect,
                    choices=[(one.slug, str(one)) for one in
                             sorted(side.cards, key=lambda one: one != side.card)],
                )  # fmt: skip
            elif written > 1:
                label += f" for {side.slot}"
            of_slots[f"{CARDS}{side.slot_number}"] = count_field(f"{label}, how many")
            of_slots[f"{ROOMS}{side.slot_number}"] = RoomsField(
                label="or the room on each, GB, such as 256 120"
            )
        self.fields |= of_slots
        for name, field in self.fields.items():
            is_choice = isinstance(field, forms.ChoiceField)
            field.widget.attrs["class"] = "form-select" if is_choice else "form-control"
            if not is_choice:
                field.widget.attrs["size"] = size_of(name)

    def clean_start(self) -> time:
        """The usual one where it is left empty."""
        return self.cleaned_data["start"] or USUAL_START

    def clean_copy_mb_s(self) -> float | None:
        """A speed that the engine takes."""
        speed: float | None = self.cleaned_data["copy_mb_s"]
        if speed is not None and (fault := WRITE_MB_S.fault(speed)):
            raise forms.ValidationError(f"{capfirst(fault)}.")
        return speed

    def clean(self) -> dict[str, Any]:
        """With all that is to be known of a picture desk, or nothing."""
        told = super().clean() or {}
        for name, allowed in OF_DESK.items():
            value = told.get(name)
            if value is None and told.get("desk_frames") and name not in self.errors:
                self.add_error(name, "Say this, too, or leave the picture desk out.")
            elif value is not None and (fault := allowed.fault(value)):
                self.add_error(name, f"{capfirst(fault)}.")
        return told

    @property
    def beginning(self) -> list[forms.BoundField]:
        """When the day begins, and the cards that it is begun with."""
        return [field for field in self if field.name in ("start", *IN_SLOTS)]

    @property
    def after(self) -> list[forms.BoundField]:
        """What becomes of the pictures."""
        return [field for field in self if field.name not in ("start", *IN_SLOTS)]

    @property
    def desk(self) -> PictureDesk | None:
        """The picture desk, to which the smallest file of each frame is sent."""
        told = self.cleaned_data
        if not told["desk_frames"]:
            return None
        return PictureDesk(
            frames=told["desk_frames"], within_min=told["desk_min"], send_mb_s=told["send_mb_s"],
            file_mb=min(file.mb for file in scenario_of_day(self.setup).scenario.files),
            locks_playback=self.setup.body.locks_playback,
        )  # fmt: skip

    @property
    def with_other_card(self) -> Reading:
        """The set-up, with the card that is chosen for the slot that it doesn't write to itself."""
        chosen = self.cleaned_data.get(OTHER_CARD)
        if not chosen:
            return self.reading
        *written, other = self.reading.all_sides
        card = card_of(other, chosen)
        return replace(self.reading, all_sides=(*written, other.with_card(card)))

    @property
    def copying_mb_s(self) -> float | None:
        """How fast cards of the first slot are copied; None: no reader takes them."""
        told, card = self.cleaned_data, self.setup.sides[0].fitted
        if told["copy_mb_s"]:
            return float(told["copy_mb_s"])
        chosen = self.readers.get(told["reader"])
        readers = [chosen] if chosen else list(self.readers.values())
        copied = (copying_with(card, one) for one in readers)
        return max((one.mb_s for one in copied if one), default=None)
