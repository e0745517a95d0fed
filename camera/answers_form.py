"""The six questions about a camera, and the card that goes with it."""

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any

from django import forms

from engine.cards.label.parser import LabelReading, read_marks
from engine.cards.standards import CAPACITY_GB, CEILING_MB_S, SIZE_MM, Bus, Form, kind_of_card
from engine.estimates.body import USUAL_BUS, Answers
from engine.estimates.file_sizes import FILE_MB, MEGAPIXELS, FormatKind, KnownSize
from engine.estimates.memory import CLAIM_FRAMES, Claim
from engine.estimates.spec_text import STILLS_FPS, SpecReading
from engine.estimates.write_speed import estimate_write
from engine.quantities import Range
from kit.form_fields import QuantityField, choice_of, chosen

# What slots usually take, each with its usual bus.
USUAL_SLOTS: tuple[tuple[Form, Bus], ...] = (
    (Form.SD, Bus.UHS_I),
    (Form.SD, Bus.UHS_II),
    (Form.CFEXPRESS_A, Bus.PCIE_3_X1),
    (Form.CFEXPRESS_B, Bus.PCIE_3_X2),
    (Form.CFEXPRESS_B, Bus.PCIE_4_X2),
    (Form.XQD, Bus.XQD_1),
    (Form.COMPACT_FLASH, Bus.UDMA_7),
    (Form.CFAST_2, Bus.SATA_3),
)
SLOT_CHOICES = [(choice_of(form, bus), kind_of_card(form, bus)) for form, bus in USUAL_SLOTS]
FORMAT_CHOICES = [(kind.value, kind.value) for kind in FormatKind]
USUAL_FORMATS = (FormatKind.LOSSLESS_RAW, FormatKind.JPEG_FINE)
USUAL_SLOT = ((Form.SD, USUAL_BUS),)
PX_OF_MM = 0.7  # of the outlines that are tapped
LONGEST_LABEL = 300


class BoundedField(QuantityField):
    """A number within a range, or nothing."""

    def __init__(self, allowed: Range, **options: Any) -> None:
        super().__init__(unit=allowed.unit, required=False, **options)
        self.allowed = allowed

    def clean(self, value: Any) -> float | None:
        number: float | None = super().clean(value)
        if number is not None and (fault := self.allowed.fault(number)):
            raise forms.ValidationError(f"{fault[0].upper()}{fault[1:]}.")
        return number


class AnswersForm(forms.Form):
    """What somebody knows of a camera: only a frame rate is needed."""

    name = forms.CharField(max_length=80, required=False, label="What is it called?")
    mechanical = BoundedField(STILLS_FPS, label="Mechanical shutter, fps")
    electronic = BoundedField(STILLS_FPS, label="Electronic shutter, fps")
    megapixels = BoundedField(MEGAPIXELS, label="Megapixels")
    file_mb = BoundedField(FILE_MB, label="or size of a file, MB")
    slot1 = forms.MultipleChoiceField(choices=SLOT_CHOICES, required=False, label="Slot 1")
    slot2 = forms.MultipleChoiceField(choices=SLOT_CHOICES, required=False, label="Slot 2")
    formats = forms.MultipleChoiceField(choices=FORMAT_CHOICES, required=False, label="Formats")
    claim_frames = BoundedField(CLAIM_FRAMES, label="Frames")
    claim_format = forms.ChoiceField(
        choices=[("", "my first format"), *FORMAT_CHOICES], required=False, label="of"
    )
    claim_fps = BoundedField(STILLS_FPS, label="at fps")
    claim_card = forms.CharField(max_length=LONGEST_LABEL, required=False, label="with the card")
    card = forms.CharField(
        max_length=LONGEST_LABEL, required=False, label="What does the label of your card say?"
    )
    card_gb = BoundedField(CAPACITY_GB, label="It holds, GB")

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        frames = cleaned.get("claim_frames")
        if frames is not None and frames != int(frames):
            self.add_error("claim_frames", "Frames are counted in whole numbers.")
        if cleaned.get("slot2") and not cleaned.get("slot1"):
            self.add_error("slot1", "Say what slot 1 takes before slot 2.")
        if cleaned.get("card") and not read_marks(cleaned["card"]).marks:
            self.add_error("card", "None of its marks is known. Type them as in 128 GB SDXC V60.")
        elif cleaned.get("card") and estimate_write(self.card_reading.face) is None:
            self.add_error("card", "Say which kind of card it is, as in SD, XQD or CFexpress B.")
        return cleaned

    @property
    def faults(self) -> list[tuple[str, str]]:
        """What is wrong: the label of the field and a sentence."""
        labels = {name: str(field.label) for name, field in self.fields.items()}
        return [
            (labels.get(name, ""), " ".join(map(str, told))) for name, told in self.errors.items()
        ]

    @property
    def rates(self) -> dict[str, float]:
        """Frames a second by shutter, the fastest first; else that of the claim."""
        told = {name: self.cleaned_data.get(name) for name in ("electronic", "mechanical")}
        rates = {name: fps for name, fps in told.items() if fps}
        if not rates and (fps := self.cleaned_data.get("claim_fps")):
            return {"mechanical": fps}
        return dict(sorted(rates.items(), key=lambda rate: -rate[1]))

    @property
    def kinds(self) -> tuple[FormatKind, ...]:
        """The formats, in the order of the questions; the usual ones where none is ticked."""
        ticked = self.cleaned_data.get("formats")
        return tuple(map(FormatKind, ticked)) if ticked else USUAL_FORMATS

    @property
    def slots(self) -> list[list[tuple[Form, Bus]]]:
        """What each slot takes."""
        told = (self.cleaned_data.get(name) or [] for name in ("slot1", "slot2"))
        return [list(map(chosen, choices)) for choices in told if choices]

    @cached_property
    def card_reading(self) -> LabelReading:
        """What the label of the card says; without a form it is a card for the first slot."""
        label = self.cleaned_data.get("card") or ""
        read = read_marks(label)
        if not label or read.face.form:
            return read
        form, bus = usual_card(self.slots[0] if self.slots else ())
        return read_marks(f"{label} {form} {bus}")

    @property
    def card_room_gb(self) -> float | None:
        """How much the card holds, as typed or else by its label; None: nobody said."""
        return self.cleaned_data.get("card_gb") or self.card_reading.face.capacity_gb

    def require_room(self) -> bool:
        """Whether a card that is to be kept has a known capacity; else its field says so."""
        if self.cleaned_data.get("card") and not self.card_room_gb:
            self.add_error("card_gb", "Its label doesn't say how many GB it holds: type it here.")
        return not self.errors

    @cached_property
    def answers(self) -> Answers | None:
        """The answers as the engine takes them; None while there is no frame rate."""
        if not self.rates:
            return None
        cleaned, kinds = self.cleaned_data, self.kinds
        file_mb = cleaned.get("file_mb")
        return Answers(
            frame_rates_fps=tuple(self.rates.values()),
            megapixels=cleaned.get("megapixels"),
            known=KnownSize(kinds[0], file_mb) if file_mb else None,
            buses=tuple(max((bus for _, bus in slot), key=_ceiling) for slot in self.slots),
            formats=kinds,
            claim=self._claim(),
        )

    def _claim(self) -> Claim | None:
        frames = self.cleaned_data.get("claim_frames")
        if frames is None:
            return None
        kind = self.cleaned_data.get("claim_format")
        estimate = estimate_write(read_marks(self.cleaned_data.get("claim_card") or "").face)
        return Claim(
            frames=int(frames),
            kind=FormatKind(kind) if kind else self.kinds[0],
            frame_rate_fps=self.cleaned_data.get("claim_fps") or max(self.rates.values()),
            write_mb_s=(estimate.low_mb_s, estimate.high_mb_s) if estimate else None,
        )

    @property
    def slot_fields(self) -> list[dict[str, Any]]:
        """The slots as they are tapped: each choice with the outline of its card, in pixels."""
        return [
            {
                "label": self.fields[name].label,
                "name": name,
                "errors": self.errors.get(name, []),
                "used": bool(self[name].value()),
                "choices": [
                    (value, words, value in (self[name].value() or []), *_outline(value))
                    for value, words in SLOT_CHOICES
                ],
            }
            for name in ("slot1", "slot2")
        ]

    @property
    def format_choices(self) -> list[tuple[str, bool]]:
        """The formats, and which of them are ticked."""
        ticked = self["formats"].value() if self.is_bound else None
        return [(kind, kind in (ticked or [])) for kind in FormatKind]


def answers_of(found: SpecReading) -> Mapping[str, Any]:
    """What the fields show of a page that was read."""
    values: dict[str, Any] = dict(found.fps_of_shutter)
    if found.megapixels:
        values["megapixels"] = found.megapixels
    usual = {value for value, _ in SLOT_CHOICES}
    for number, slot in enumerate(found.slots, start=1):
        choices = (choice_of(*taken) for taken in slot)
        values[f"slot{number}"] = [choice for choice in choices if choice in usual]
    if found.claims:
        first = found.claims[0]
        values |= {"claim_frames": first.frames, "claim_format": first.kind.value}
        values["formats"] = list(dict.fromkeys([*found.kinds, *USUAL_FORMATS]))
        if first.fps:
            values["claim_fps"] = first.fps
    return values


def usual_card(slot: Sequence[tuple[Form, Bus]]) -> tuple[Form, Bus]:
    """What a card for `slot` is most likely: the fastest that it takes."""
    return max(slot or USUAL_SLOT, key=lambda taken: _ceiling(taken[1]))


def _ceiling(bus: Bus) -> float:
    return CEILING_MB_S[bus]


def _outline(choice: str) -> tuple[float, float]:
    width_mm, height_mm = SIZE_MM[chosen(choice)[0]]
    return width_mm * PX_OF_MM, height_mm * PX_OF_MM
