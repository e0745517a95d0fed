"""The forms of the kit: they clean what is typed; `kit.edit` saves it."""

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import UploadedFile
from django.db import models
from django.http import QueryDict

from engine.cards.standards import BUSES_OF_FORM, Form
from engine.quantities import MB_IN_GB
from engine.typed_numbers import NotANumber, as_typed, quantity_in
from kit.card_reading import spread_of
from kit.kit_file import MOST_BYTES, TOO_LARGE
from kit.models import Card, CardLogEntry, KitItem, Reader, Source
from kit.numbers import unit_of


def take_of(form: str, bus: str) -> str:
    """A form on a bus, as one choice."""
    return f"{form}|{bus}"


def taken_by(choice: str) -> dict[str, str]:
    """The form and bus of a choice."""
    form, bus = choice.split("|")
    return {"form": form, "bus": bus}


TAKES = [
    ("", "nothing"),
    *(
        (form.value, [(take_of(form, bus), f"{form} on {bus}") for bus in buses])
        for form, buses in BUSES_OF_FORM.items()
    ),
]


class TakesFields:
    """The fields `takes1`, `takes2` and so on of a form, one more than something takes already.

    They come after the fields named `first`. `beside` are fields that come with each of them, by
    the beginning of their names.
    """

    def __init__(
        self,
        form: forms.BaseForm,
        at_first: int,
        first: Sequence[str] = (),
        beside: Mapping[str, Callable[[], forms.Field]] = MappingProxyType({}),
    ) -> None:
        prefix = f"{form.prefix}-" if form.prefix else ""
        keys = [*form.initial, *(key.removeprefix(prefix) for key in form.data)]
        taken = [int(key[5:]) for key in keys if re.fullmatch(r"takes\d{1,2}", key)]
        last = max(taken, default=0) + (not form.is_bound)
        self.numbers = range(1, min(max(at_first, last), len(Form)) + 1)
        fields: dict[str, forms.Field] = {}
        for number in self.numbers:
            label = "Takes" if number == 1 else "Also takes"
            fields[f"takes{number}"] = forms.ChoiceField(choices=TAKES, required=False, label=label)
            for name, kind in beside.items():
                fields[f"{name}{number}"] = kind()
        form.fields |= fields
        form.order_fields([*first, *fields])
        self.form = form

    def chosen(self) -> Iterator[tuple[int, dict[str, str]]]:
        """The number of each field in which something is chosen, and its form and bus."""
        for number in self.numbers:
            if choice := self.form.cleaned_data.get(f"takes{number}"):
                yield number, taken_by(choice)


def takes_initial(accepted: Iterable[Mapping[str, str]]) -> dict[str, str]:
    """What the fields show of forms and buses."""
    pairs = enumerate(accepted, start=1)
    return {f"takes{number}": take_of(one["form"], one["bus"]) for number, one in pairs}


class QuantityField(forms.FloatField):
    """A number with a decimal comma or point; its unit may stand behind it."""

    def __init__(self, *, unit: str, **options: Any) -> None:
        widget = forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"})
        super().__init__(**options | {"widget": widget})
        self.unit = unit

    def to_python(self, value: Any) -> float | None:  # type: ignore[override]
        if value in self.empty_values:
            return None
        try:
            return super().to_python(quantity_in(str(value), self.unit))
        except NotANumber as error:
            raise forms.ValidationError(str(error)) from error

    def prepare_value(self, value: Any) -> Any:
        return as_typed(value) if isinstance(value, float) else value


def form_field(field: "models.Field[Any, Any]", **options: Any) -> forms.Field | None:
    """The field of a form for `field` of a model, as Meta.formfield_callback wants it."""
    if isinstance(field, models.FloatField):
        return QuantityField(
            unit=unit_of(field.name),
            required=not (field.null or field.has_default()),
            label=options.get("label"),
            help_text=options.get("help_text", ""),
        )
    if isinstance(field, models.DateField):
        options["widget"] = forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    if isinstance(field, models.TextField):
        options["widget"] = forms.Textarea(attrs={"rows": 3})
    return field.formfield(**options)


class KitForm(forms.ModelForm):
    """A form of an item of the kit; `version` is that of the item when the form was opened.

    `changed` is the item as another tab has made it since, where that keeps the form from saving.
    """

    version = forms.IntegerField(widget=forms.HiddenInput, required=False)
    changed: KitItem | None = None

    def document(self) -> dict[str, Any]:
        """The cleaned values, as `kit.document.write` takes them; left empty means as usual."""
        never_null = {field.name for field in self._meta.model._meta.fields if not field.null}
        return {
            name: value
            for name, value in self.cleaned_data.items()
            if name != "version" and not (value is None and name in never_null)
        }

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
            self.add_error(place if place in self.fields else None, fault)


ESTIMATED_FROM = {"marks", "sustained_write_mb_s", "sustained_source"}


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

    def document(self) -> dict[str, Any]:
        document = super().document()
        if self.instance.pk and ESTIMATED_FROM.isdisjoint(self.changed_data):
            return document
        return document | {"sustained_spread": spread_of(document)}

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


class ReaderForm(KitForm):
    """A reader, and the forms that it takes."""

    class Meta:
        model = Reader
        formfield_callback = form_field
        fields = [
            "maker", "name", "port", "most_mb_s", "most_source", "matches_maker", "remarks",
        ]  # fmt: skip
        labels = {
            "port": "Connects by",
            "most_mb_s": "Never reads faster than, MB/s",
            "most_source": "Source",
            "matches_maker": "Made for the cards of",
        }
        help_texts = {
            "matches_maker": "whose cards it reads faster than their bus allows elsewhere"
        }

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        if self.instance.pk:
            accepted = self.instance.accepted_forms.values("form", "bus")
            self.initial.update(takes_initial(accepted))
        self.takes = TakesFields(self, at_first=3, first=("maker", "name"))

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        took_nothing = self.instance.pk and "takes1" not in self.initial
        if not any(self.takes.chosen()) and not took_nothing:
            self.add_error("takes1", "Say what it takes.")
        return cleaned

    def document(self) -> dict[str, Any]:
        document = super().document()
        own = {key: value for key, value in document.items() if not key.startswith("takes")}
        return own | {"accepted_forms": [taken for _, taken in self.takes.chosen()]}


class CopyForm(forms.Form):
    """How many frames are to be copied; none means a full card."""

    frames = forms.IntegerField(
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
        label="A kit of Ondata's, as JSON, as a zip of tables, or one table (cards.csv)",
        widget=forms.FileInput(attrs={"accept": ".json,.zip,.csv"}),
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
