"""The forms of the kit: they clean what is typed; `kit.edit` saves it."""

from collections.abc import Mapping
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import UploadedFile
from django.http import QueryDict

from engine.cards.standards import Form
from engine.quantities import MB_IN_GB
from kit.form_fields import QuantityField, TakesField, WholeField, form_field
from kit.kit_file import MOST_BYTES, TOO_LARGE
from kit.models import Card, CardLogEntry, KitItem, Reader, Source
from kit.models.reader import ReadForm
from kit.nested_forms import RowForm, part_formset


class KitForm(RowForm):
    """A form of an item of the kit; `version` is that of the item when the form was opened.

    `changed` is the item as another tab has made it since, where that keeps the form from saving.
    """

    version = WholeField(widget=forms.HiddenInput, required=False)
    changed: KitItem | None = None

    def document(self) -> dict[str, Any]:
        document = super().document()
        document.pop("version", None)
        return document

    @property
    def version_seen(self) -> int | None:
        """The version of the item that the form was opened on."""
        version: int | None = self.cleaned_data.get("version")
        return version

    def offer_over(self, item: KitItem) -> None:
        """Keeps the entries, to be saved over what another tab has made of the item since."""
        self.changed = item
        self.data = dict(self.data.items()) | {"version": item.version}

    def tell(self, faults: Mapping[str, str]) -> None:
        """Adds the faults of a document that was refused, each at its field."""
        for place, fault in faults.items():
            self.tell_at(place, fault)


class CardForm(KitForm):
    """A card, as its face says and as it was measured."""

    sustained_source = forms.ChoiceField(
        label="That speed was",
        choices=[
            (value, "measured in one body" if value == Source.MEASURED_HERE else label)
            for value, label in [("", "---------"), *Source.choices]
        ],
    )

    class Meta:
        model = Card
        formfield_callback = form_field
        fields = [
            "marks", "maker", "name", "label", "form", "bus", "capacity_gb", "adapter",
            "printed_read_mb_s", "printed_write_mb_s", "sustained_write_mb_s",
            "sustained_source", "measured_in", "cache_gb", "cache_write_mb_s",
            "slow_below_free_gb", "slow_factor", "state", "remarks",
        ]  # fmt: skip
        labels = {
            "marks": "Text on its label",
            "label": "Which of several",
            "capacity_gb": "Capacity, GB",
            "printed_read_mb_s": "Reading as printed, MB/s",
            "printed_write_mb_s": "Writing as printed, MB/s",
            "sustained_write_mb_s": "Sustained write, MB/s",
            "measured_in": "In which body",
            "cache_gb": "First GB at another speed",
            "cache_write_mb_s": "Speed of these, MB/s",
            "slow_below_free_gb": "Slows down below, GB free",
            "slow_factor": "to this share of its speed",
            "adapter": "Came with an adapter",
        }
        help_texts = dict.fromkeys(
            ("marks", "capacity_gb", "cache_gb", "slow_below_free_gb", "adapter"), ""
        ) | {
            "label": "A, B or a number, if you have more of them",
            "slow_factor": "1 is all of it",
            "measured_in": "as it is called under Bodies; in every other one it counts as measured "
            "elsewhere",
        }

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.fields["measured_in"].widget.attrs["list"] = "bodies"

    def corrections(self, posted: QueryDict) -> dict[str, Any]:
        """What was typed into `posted` in place of what this form shows, its text left aside."""
        return {
            name: value
            for name, field in self.fields.items()
            if name != "marks"
            and (value := field.widget.value_from_datadict(posted, {}, name)) != self._shown(name)
        }

    def _shown(self, name: str) -> Any:
        value = self[name].value()
        if isinstance(self.fields[name], forms.BooleanField):
            return bool(value)
        return "" if value is None else str(value)


class TakenForm(RowForm):
    """A form of card, and its bus, that a slot or a reader takes; or nothing."""

    takes = TakesField(label="Takes")
    asked_by = {"form": "takes", "bus": "takes"}

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        if "form" in self.initial:
            self.initial["takes"] = {name: self.initial[name] for name in ("form", "bus")}

    @property
    def is_there(self) -> bool:
        return bool(self.cleaned_data.get("takes"))

    def document(self) -> dict[str, Any]:
        document = super().document()
        taken: dict[str, Any] = document.pop("takes")
        return taken | document


class TakenByReaderForm(TakenForm):
    """What a reader takes."""

    class Meta:
        model = ReadForm
        fields = ["takes"]


class ReaderForm(KitForm):
    """A reader, and the forms that it takes."""

    part_formsets = {
        "accepted_forms": part_formset(
            TakenByReaderForm, most=len(Form), at_first=3, can_delete=False
        )
    }
    required_parts = {"accepted_forms": "Say what it takes."}

    class Meta:
        model = Reader
        formfield_callback = form_field
        fields = [
            "maker", "name", "port", "most_mb_s", "most_source", "matches_maker", "remarks",
        ]  # fmt: skip
        labels = {
            "port": "Connects by",
            "most_mb_s": "Never reads faster than, MB/s",
            "matches_maker": "Made for the cards of",
        }
        help_texts = {
            "matches_maker": "whose cards it reads faster than their bus allows elsewhere"
        }


class CopyForm(forms.Form):
    """How many frames are to be copied; none means a full card."""

    frames = WholeField(
        required=False,
        min_value=1,
        max_value=10_000_000,
        widget=forms.TextInput(attrs={"inputmode": "numeric", "size": 6, "class": "typed"}),
    )
    frame_mb = QuantityField(unit="MB", required=False, min_value=0.001, max_value=100_000)

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.fields["frame_mb"].widget.attrs |= {"size": 5, "class": "typed"}

    def size_gb(self, capacity_gb: float) -> float:
        """GB to copy, which is never more than the card holds."""
        frames, frame_mb = (self.cleaned_data.get(name) for name in ("frames", "frame_mb"))
        return (
            min(frames * frame_mb / MB_IN_GB, capacity_gb) if frames and frame_mb else capacity_gb
        )


class FileForm(forms.Form):
    """A file with a kit."""

    file = forms.FileField(
        label="A kit of Ondata's (JSON), or a table of cards (CSV)",
        widget=forms.FileInput(attrs={"accept": ".json,.csv"}),
    )

    def clean_file(self) -> UploadedFile:
        """The file, refused by its size before it is read."""
        file: UploadedFile = self.cleaned_data["file"]
        if (file.size or 0) > MOST_BYTES:
            raise ValidationError(TOO_LARGE)
        return file


class LogForm(forms.ModelForm):
    """One line of a card's log."""

    class Meta:
        model = CardLogEntry
        formfield_callback = form_field
        fields = ["on", "event", "words"]
        labels = {"on": "Date", "words": "In words"}
