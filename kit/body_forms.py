"""The form of a body: its own fields, and a row for each rate, slot, arrangement and format.

The rows are flat, as a photographer lists them; `document` nests them as the kit keeps them.
"""

import re
from collections.abc import Iterator, Mapping
from typing import Any

from django import forms
from django.http import QueryDict
from django.utils.text import slugify

from engine.burst.scenario import ARRANGEMENTS, MOST_FILES, MOST_SLOTS
from kit.forms import KitForm, QuantityField, TakesFields, form_field, takes_initial
from kit.models import Body, KitItem, Source
from kit.models.body import WORDS_OF_ARRANGEMENT, WORDS_OF_COUPLING

BLANK_ROWS = 2
MOST_ROWS = 600
SOURCES = [("", "unknown"), *Source.choices]


class OwnForm(KitForm):
    """The fields of the body itself.

    Memory may be given in frames of a format, as makers print it.
    """

    memory_frames = QuantityField(unit="frames", required=False, label="or buffer in frames")
    tested_cards = forms.CharField(
        required=False,
        widget=forms.Textarea(attrs={"rows": 4}),
        label="The maker's list of tested cards",
        help_text="One a line: maker, comma, name",
    )

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
            "memory_source": "Source",
            "resume_free_frames": "When full, resumes after so many frames are free",
            "resume_source": "Source",
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

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.fields["memory_mb"].required = False

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        given = "memory_mb" in self.errors or cleaned.get("memory_mb") is not None
        if not given and not cleaned.get("memory_frames"):
            self.add_error("memory_mb", "Give the buffer in MB, or in frames of the first format.")
        return cleaned

    def clean_tested_cards(self) -> list[dict[str, str]]:
        text = self.cleaned_data["tested_cards"]
        lines = [line for line in text.splitlines() if line.strip()]
        if lines == self.initial.get("tested_cards", "").splitlines():
            return list(self.initial["tested"])
        parts = (line.partition("," if "," in line else " ") for line in lines)
        return [{"maker": maker.strip(), "name": name.strip()} for maker, _, name in parts]


class RateForm(forms.Form):
    """A frame rate in one shutter mode."""

    shutter = forms.CharField(max_length=40, label="Shutter")
    fps = QuantityField(unit="fps", label="Frame rate, fps")
    source = forms.ChoiceField(choices=Source.choices, label="Source", initial=Source.ESTIMATED)
    lens_limit = forms.CharField(max_length=200, required=False, label="Lenses that slow it")

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        # A shutter mode that came without rates, from a file, stays one.
        self.fields["fps"].required = not self.initial.get("without_rates")


class FirmwareField(forms.CharField):
    """The firmware from which something holds; empty: any."""

    def __init__(self) -> None:
        super().__init__(max_length=20, required=False, label="from firmware")


class SlotForm(forms.Form):
    """A slot and what it takes; one that takes nothing any more is not there any more."""

    cap_mb_s = QuantityField(unit="MB/s", required=False, label="Highest measured, MB/s")
    cap_source = forms.ChoiceField(choices=SOURCES, required=False, label="Source")
    overhead_s = QuantityField(unit="s", required=False, label="Pause before each frame, s")
    overhead_source = forms.ChoiceField(
        choices=Source.choices, required=False, label="Source", initial=Source.ESTIMATED
    )

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.takes = TakesFields(self, at_first=2, beside={"from": FirmwareField})

    @property
    def accepted(self) -> list[dict[str, str]]:
        """The forms that it takes, each with the firmware from which it does."""
        return [
            taken | {"from_firmware": self.cleaned_data[f"from{number}"]}
            for number, taken in self.takes.chosen()
        ]

    @property
    def is_there(self) -> bool:
        """Whether the body has this slot."""
        took_nothing = self.initial.get("accepted_forms") == []
        return bool(self.accepted) or took_nothing


class ArrangementForm(forms.Form):
    """How the two slots share the work in one arrangement."""

    coupling = forms.ChoiceField(
        choices=[("", "not offered"), *WORDS_OF_COUPLING.items()],
        required=False,
        label="Slots",
    )
    source = forms.ChoiceField(
        choices=Source.choices, required=False, label="Source", initial=Source.ESTIMATED
    )

    @property
    def words(self) -> str:
        """What is written where."""
        return WORDS_OF_ARRANGEMENT[str(self.prefix)]


class FormatForm(forms.Form):
    """A recording format and the one or two files that it writes."""

    name = forms.CharField(max_length=40, label="Format")
    slug = forms.SlugField(required=False, widget=forms.HiddenInput)
    file1_name = forms.CharField(max_length=20, label="File", initial="raw", required=False)
    file1_mb = QuantityField(unit="MB", label="Mean size, MB", required=False)
    file1_spread = QuantityField(unit="MB", label="Varies by, MB", required=False)
    file1_source = forms.ChoiceField(
        choices=Source.choices, required=False, label="Source", initial=Source.ESTIMATED
    )
    file2_name = forms.CharField(max_length=20, required=False, label="Second file")
    file2_mb = QuantityField(unit="MB", required=False, label="Mean size, MB")
    file2_spread = QuantityField(unit="MB", required=False, label="Varies by, MB")
    file2_source = forms.ChoiceField(
        choices=Source.choices, required=False, label="Source", initial=Source.ESTIMATED
    )
    held_mb = QuantityField(unit="MB", required=False, label="Held until processed, MB")
    held_source = forms.ChoiceField(
        choices=Source.choices, required=False, label="Source", initial=Source.ESTIMATED
    )
    process_fps = QuantityField(unit="fps", required=False, label="Processor, fps")
    process_source = forms.ChoiceField(choices=SOURCES, required=False, label="Source")
    iso_percent = QuantityField(unit="%", required=False, label="Grows a stop of ISO, %")
    detail_percent = QuantityField(unit="%", required=False, label="Grows with detail, %")

    def clean_file1_mb(self) -> float | None:
        mb: float | None = self.cleaned_data["file1_mb"]
        if mb is None and self.initial.get("files") != []:  # one without files came from a file
            raise forms.ValidationError("Give the mean size of its file.")
        return mb


RateRows = forms.formset_factory(
    RateForm, extra=BLANK_ROWS, can_delete=True, max_num=MOST_ROWS, absolute_max=MOST_ROWS
)
FormatRows = forms.formset_factory(
    FormatForm, extra=BLANK_ROWS, can_delete=True, max_num=MOST_ROWS, absolute_max=MOST_ROWS
)

FILES = range(1, MOST_FILES + 1)
_Row = forms.BaseForm


class BodyForms:
    """All the forms of one body, as they were sent (`data`) or as `document` fills them."""

    def __init__(self, data: QueryDict | None, document: Mapping[str, Any], version: int) -> None:
        self.own = OwnForm(data, initial=_own_initial(document) | {"version": version})
        self.rates = RateRows(data, prefix="rates", initial=list(_rate_rows(document)))
        self.formats = FormatRows(data, prefix="formats", initial=list(_format_rows(document)))
        slots = document.get("slots", [])
        self.slots = [
            SlotForm(
                data, prefix=f"slot{i + 1}", initial=_slot_row(slots[i]) if i < len(slots) else None
            )
            for i in range(MOST_SLOTS)
        ]
        # In the body's own order, the usual one first; then those that it does not offer.
        offered = {one["kind"]: one for one in document.get("arrangements", [])}
        self.arrangements = {
            kind: ArrangementForm(data, prefix=kind, initial=offered.get(kind))
            for kind in [*offered, *(kind for kind in ARRANGEMENTS if kind not in offered)]
        }
        self._places: dict[str, _Row] = {}

    @property
    def version_seen(self) -> int | None:
        """The version of the body that the forms were opened on."""
        return self.own.version_seen

    @property
    def changed(self) -> KitItem | None:
        """The body as another tab has made it since."""
        return self.own.changed

    def offer_over(self, item: KitItem) -> None:
        """Keeps the entries, to be saved over what another tab has made of the body since."""
        self.own.offer_over(item)

    def is_valid(self) -> bool:
        """Whether every form is; each tells its own faults."""
        rows = [self.rates.is_valid(), self.formats.is_valid()]
        every: list[_Row] = [self.own, *self.slots, *self.arrangements.values()]
        valid = all(rows + [form.is_valid() for form in every])
        if valid and self.slots[1].is_there and not self.slots[0].is_there:
            self.slots[0].add_error("takes1", "Say what slot 1 takes before slot 2.")
            return False
        return valid

    def document(self) -> dict[str, Any]:
        """The body as the kit keeps it; for valid forms."""
        own = self.own.document()
        frames = own.pop("memory_frames")
        formats = list(self._formats())
        if frames and formats:
            files_mb = sum(file["file_mb"] for file in formats[0]["files"])
            own["memory_mb"] = frames * max(formats[0].get("held_mb") or 0, files_mb)
        return own | {
            "shutter_modes": list(self._shutter_modes()),
            "slots": list(self._slots()),
            "arrangements": list(self._arrangements()),
            "formats": formats,
        }

    def tell(self, faults: Mapping[str, str]) -> None:
        """Puts each fault of a document that was refused at the row that it is about."""
        for place, fault in faults.items():
            row = place
            while row and row not in self._places:
                row = row.rpartition(".")[0]
            form = self._places.get(row, self.own)
            inner = place[len(row) :].lstrip(".") if row else place
            form.add_error(_field_of(form, inner), fault)

    def _shutter_modes(self) -> Iterator[dict[str, Any]]:
        by_shutter: dict[str, list[_Row]] = {}
        for row in _kept(self.rates):
            by_shutter.setdefault(row.cleaned_data["shutter"], []).append(row)
        for mode, (name, rows) in enumerate(by_shutter.items(), start=1):
            rates = [row for row in rows if row.cleaned_data["fps"] is not None]
            for number, row in enumerate(rates, start=1):
                self._places[f"shutter_modes[{mode}].frame_rates[{number}]"] = row
            limits = (row.cleaned_data["lens_limit"] for row in rows)
            yield {
                "name": name,
                "lens_limit": next((limit for limit in limits if limit), ""),
                "frame_rates": [_only(row.cleaned_data, "fps", "source") for row in rates],
            }

    def _slots(self) -> Iterator[dict[str, Any]]:
        taken = [form for form in self.slots if form.is_there]
        for number, form in enumerate(taken, start=1):
            self._places[f"slots[{number}]"] = form
            values = _only(form.cleaned_data, "cap_mb_s", "cap_source")
            if form.cleaned_data["overhead_s"] is not None:
                values |= _only(form.cleaned_data, "overhead_s", "overhead_source")
            yield values | {"accepted_forms": form.accepted}

    def _arrangements(self) -> Iterator[dict[str, Any]]:
        offered = ((k, f) for k, f in self.arrangements.items() if f.cleaned_data["coupling"])
        for number, (kind, form) in enumerate(offered, start=1):
            self._places[f"arrangements[{number}]"] = form
            yield {"kind": kind} | _only(form.cleaned_data, "coupling", "source")

    def _formats(self) -> Iterator[dict[str, Any]]:
        for number, form in enumerate(_kept(self.formats), start=1):
            self._places[f"formats[{number}]"] = form
            cleaned = form.cleaned_data
            values = _only(cleaned, "name", "held_source", "process_fps", "process_source") | {
                "slug": cleaned["slug"] or slugify(cleaned["name"]),
                "held_mb": cleaned["held_mb"] or 0,
                "iso_step": _step(form, "iso"),
                "detail_step": _step(form, "detail"),
            }
            yield values | {
                "files": [
                    {
                        "name": cleaned[f"file{i}_name"] or f"file {i}",
                        "file_mb": cleaned[f"file{i}_mb"],
                        "spread_mb": cleaned[f"file{i}_spread"] or 0,
                        "source": cleaned[f"file{i}_source"],
                    }
                    for i in FILES
                    if cleaned[f"file{i}_mb"] is not None
                ]
            }


def _own_initial(document: Mapping[str, Any]) -> dict[str, Any]:
    tested = document.get("tested_cards", [])
    lines = "\n".join(f"{one['maker']}, {one['name']}" for one in tested)
    return {**document, "tested_cards": lines, "tested": tested}


def _rate_rows(document: Mapping[str, Any]) -> Iterator[dict[str, Any]]:
    for mode in document.get("shutter_modes", []):
        of_mode = {"shutter": mode["name"], "lens_limit": mode["lens_limit"]}
        for rate in mode["frame_rates"]:
            yield of_mode | rate
        if not mode["frame_rates"]:
            yield of_mode | {"without_rates": True}


def _slot_row(slot: Mapping[str, Any]) -> dict[str, Any]:
    accepted = slot["accepted_forms"]
    firmware = {f"from{i}": one["from_firmware"] for i, one in enumerate(accepted, start=1)}
    return {**slot, **takes_initial(accepted), **firmware}


def _format_rows(document: Mapping[str, Any]) -> Iterator[dict[str, Any]]:
    for one in document.get("formats", []):
        row = {
            **one,
            "iso_percent": round(100 * one["iso_step"], 10),
            "detail_percent": round(100 * one["detail_step"], 10),
        }
        for i, file in zip(FILES, one["files"], strict=False):
            row |= {
                f"file{i}_name": file["name"],
                f"file{i}_mb": file["file_mb"],
                f"file{i}_spread": file["spread_mb"],
                f"file{i}_source": file["source"],
            }
        yield row


def _step(form: _Row, name: str) -> float:
    """The growth as a share; to the last digit what it was, unless another one was typed."""
    key = f"{name}_percent"
    if f"{name}_step" in form.initial and key not in form.changed_data:
        kept: float = form.initial[f"{name}_step"]
        return kept
    return (form.cleaned_data[key] or 0) / 100


def _kept(rows: "forms.BaseFormSet[Any]") -> list[_Row]:
    return [
        form for form in rows.forms if form.cleaned_data and not form.cleaned_data.get("DELETE")
    ]


def _only(values: Mapping[str, Any], *names: str) -> dict[str, Any]:
    return {name: values[name] for name in names}


def _field_of(form: _Row, place: str) -> str | None:
    """The field of a flat row for a place in a nested document: files[2].file_mb is file2_mb."""
    if place in form.fields:
        return place
    flat = re.sub(r"^files\[(\d)\]\.(?:file_)?(\w+?)(?:_mb)?$", r"file\1_\2", place)
    candidates = (
        flat,
        f"{flat}_mb",
        re.sub(r"^accepted_forms\[(\d)\].*", r"takes\1", place),
        place.replace("_step", "_percent"),
    )
    return next((name for name in candidates if name in form.fields), None)
