"""The form of a body, with forms for its shutters, slots, arrangements and formats in it."""

from collections.abc import Mapping
from typing import Any

from django import forms
from django.utils.text import slugify

from engine.burst.scenario import ARRANGEMENTS, MOST_FILES, MOST_SLOTS
from engine.cards.standards import Form
from engine.estimates.memory import Frame
from kit.document import MOST_IN_LIST, MOST_OF_PART
from kit.form_fields import QuantityField, ShareField, TestedCardsField, form_field
from kit.forms import KitForm, TakenForm
from kit.models import Body, RecordingFormat, ShutterMode, Slot
from kit.models.body import (
    WORDS_OF_ARRANGEMENT,
    WORDS_OF_COUPLING,
    AcceptedForm,
    FrameRate,
    RecordedFile,
    SlotArrangement,
)
from kit.nested_forms import RowForm, part_formset


class FrameRateForm(RowForm):
    """A frame rate in one shutter mode."""

    class Meta:
        model = FrameRate
        formfield_callback = form_field
        fields = ["fps", "source"]
        labels = {"fps": "Frame rate, fps"}


class ShutterModeForm(RowForm):
    """A shutter mode and its frame rates."""

    part_formsets = {"frame_rates": part_formset(FrameRateForm, most=MOST_OF_PART["frame_rates"])}
    required_parts = {"frame_rates": "Give a frame rate."}

    class Meta:
        model = ShutterMode
        formfield_callback = form_field
        fields = ["name", "lens_limit"]
        labels = {"name": "Shutter", "lens_limit": "Lenses that slow it"}


class TakenBySlotForm(TakenForm):
    """What a slot takes, and from which firmware on."""

    class Meta:
        model = AcceptedForm
        formfield_callback = form_field
        fields = ["takes", "from_firmware"]
        labels = {"from_firmware": "From firmware"}


class SlotForm(RowForm):
    """A slot and what it takes; one that takes nothing any more is not there any more."""

    part_formsets = {
        "accepted_forms": part_formset(
            TakenBySlotForm, most=len(Form), at_first=2, can_delete=False
        )
    }

    class Meta:
        model = Slot
        formfield_callback = form_field
        fields = ["cap_mb_s", "cap_source", "overhead_s", "overhead_source"]
        labels = {
            "cap_mb_s": "Highest measured, MB/s",
            "overhead_s": "Pause before each frame, s",
        }

    @property
    def is_there(self) -> bool:
        took_nothing = self.initial.get("accepted_forms") == []
        return took_nothing or bool(self.parts["accepted_forms"].kept)


class ArrangementForm(RowForm):
    """How the two slots share the work in one arrangement; without that it is not offered."""

    coupling = forms.ChoiceField(
        choices=[("", "not offered"), *WORDS_OF_COUPLING.items()], required=False, label="Slots"
    )

    class Meta:
        model = SlotArrangement
        formfield_callback = form_field
        fields = ["kind", "coupling", "source"]
        widgets = {"kind": forms.HiddenInput}

    @property
    def is_there(self) -> bool:
        return bool(self.cleaned_data.get("coupling"))

    @property
    def words(self) -> str:
        """What is written where."""
        return WORDS_OF_ARRANGEMENT[self.initial["kind"]]


class RecordedFileForm(RowForm):
    """A file that a format writes a frame."""

    class Meta:
        model = RecordedFile
        formfield_callback = form_field
        fields = ["name", "file_mb", "spread_mb", "source"]
        labels = {"name": "File", "file_mb": "Mean size, MB", "spread_mb": "Varies by, MB"}
        help_texts = {"file_mb": "", "spread_mb": ""}

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.fields["spread_mb"].required = False
        self.fields["name"].widget.attrs["list"] = "file-names"

    def document(self) -> dict[str, Any]:
        return {"spread_mb": 0} | super().document()


class FormatForm(RowForm):
    """A recording format and the one or two files that it writes."""

    part_formsets = {"files": part_formset(RecordedFileForm, most=MOST_FILES)}
    required_parts = {"files": "Give the mean size of its file."}
    iso_step = ShareField(required=False, label="Grows a stop of ISO, %")
    detail_step = ShareField(required=False, label="Grows with detail, %")

    class Meta:
        model = RecordingFormat
        formfield_callback = form_field
        fields = [
            "name", "slug", "held_mb", "held_source", "process_fps", "process_source",
            "iso_step", "detail_step",
        ]  # fmt: skip
        widgets = {"slug": forms.HiddenInput}
        labels = {
            "name": "Format",
            "held_mb": "Held until processed, MB",
            "process_fps": "Processor, fps",
        }

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.fields["slug"].required = False

    def document(self) -> dict[str, Any]:
        document = super().document()
        return document | {"slug": document["slug"] or slugify(document["name"])}


class BodyForm(KitForm):
    """A body; its buffer may be given in frames of its first format, as makers print it."""

    memory_frames = QuantityField(unit="frames", required=False, label="or buffer in frames")
    tested_cards = TestedCardsField(
        required=False,
        label="The maker's list of tested cards",
        help_text="One a line: maker, comma, name",
    )
    part_formsets = {
        "shutter_modes": part_formset(ShutterModeForm, most=MOST_OF_PART["shutter_modes"]),
        "slots": part_formset(SlotForm, most=MOST_SLOTS, at_first=MOST_SLOTS, can_delete=False),
        "arrangements": part_formset(ArrangementForm, most=len(ARRANGEMENTS), can_delete=False),
        "formats": part_formset(FormatForm, most=MOST_IN_LIST),
    }

    class Meta:
        model = Body
        formfield_callback = form_field
        fields = [
            "maker", "name", "firmware", "newest_standard", "memory_mb", "memory_source",
            "resume_free_frames", "resume_source", "locks_playback", "locks_menus",
            "locks_drive_mode", "remarks",
        ]  # fmt: skip
        labels = {
            "newest_standard": "Takes SD cards up to",
            "memory_mb": "Buffer, MB",
            "resume_free_frames": "When full, resumes after so many frames are free",
            "locks_playback": "No playback while the light is on",
            "locks_menus": "No menus while the light is on",
            "locks_drive_mode": "No change of drive mode while the light is on",
        }
        help_texts = {
            "resume_free_frames": "frames: 1 goes on frame by frame, more pauses between runs",
            "locks_playback": "",
            "locks_menus": "",
            "locks_drive_mode": "",
        }

    def __init__(
        self, data: Any = None, *, initial: Mapping[str, Any] | None = None, **options: Any
    ) -> None:
        shown = dict(initial or {})
        # In the body's own order, the usual one first; then those that it does not offer.
        offered = shown.get("arrangements", [])
        others = set(ARRANGEMENTS) - {one["kind"] for one in offered}
        shown["arrangements"] = offered + [{"kind": k} for k in ARRANGEMENTS if k in others]
        super().__init__(data, initial=shown, **options)
        self.fields["memory_mb"].required = False

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        given = "memory_mb" in self.errors or cleaned.get("memory_mb") is not None
        if not given and not cleaned.get("memory_frames"):
            self.add_error("memory_mb", "Give the buffer in MB, or in frames of the first format.")
        return cleaned

    def is_valid(self) -> bool:
        if not super().is_valid():
            return False
        first, second = self.parts["slots"].forms
        if second.is_there and not first.is_there:
            first.add_error(None, "Say what slot 1 takes before slot 2.")
        return not first.errors

    def document(self) -> dict[str, Any]:
        document = super().document()
        frames, formats = document.pop("memory_frames"), document["formats"]
        if frames and formats:
            files_mb = sum(file["file_mb"] for file in formats[0]["files"])
            frame = Frame(files_mb, formats[0].get("held_mb", 0))
            document["memory_mb"] = frames * frame.mb
        return document
