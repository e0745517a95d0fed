"""The forms of an outing."""

from datetime import date
from typing import Any

from django import forms
from django.contrib.auth.base_user import AbstractBaseUser
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import UploadedFile
from django.utils.dates import MONTHS

from kit.form_fields import form_field
from kit.versioned_form import VersionedForm
from outings.models import Outing, OutingDay
from outings.records.outing_file import MOST_BYTES, OutingRows, read_outings
from pages.refusals import Refused

JANUARY = 1


class OutingForm(VersionedForm):
    """Its name, its day and notes."""

    what = "The outing"

    class Meta:
        model = Outing
        fields = ["name", "on", "notes"]
        formfield_callback = form_field
        labels = {"name": "Name", "on": "On", "notes": "Notes"}

    def save(self, commit: bool = True) -> Outing:
        """It changed; whatever is saved with it is, too."""
        self.instance.version += 1
        outing: Outing = super().save(commit)
        return outing

    def keep_for(self, owner: AbstractBaseUser, *, frames: int, on: date | None = None) -> Outing:
        """A new outing of so many frames, saved, `on` a day where none is typed.

        Raises Refused where there is no room for it.
        """
        Outing.objects.made_by(owner).require_room(frames)
        self.instance.owner_id = owner.pk
        self.instance.on = self.instance.on or on
        self.instance.save()
        outing: Outing = self.instance
        return outing


class ClockForm(forms.ModelForm):
    """How far the clock of the camera was ahead of the phone's."""

    class Meta:
        model = OutingDay
        fields = ["ahead_min"]
        formfield_callback = form_field
        labels = {"ahead_min": "The camera's clock was ahead of the phone's by, minutes"}

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.fields["ahead_min"].widget.attrs |= {"class": "form-control", "size": 6}

    def clean_ahead_min(self) -> float:
        """They agree, where nothing is typed."""
        return self.cleaned_data["ahead_min"] or 0.0


class OutingsFileForm(forms.Form):
    """A file of outings, as they go out; cleaned, it is what is in it."""

    file = forms.FileField(
        label="Outings that went out as JSON", widget=forms.FileInput({"accept": ".json"})
    )

    def clean_file(self) -> list[OutingRows]:
        """What it holds."""
        file: UploadedFile = self.cleaned_data["file"]
        if (file.size or 0) > MOST_BYTES:
            raise ValidationError("The file is larger than 10 MB: send the outings in several.")
        try:
            return read_outings(file.read().decode())
        except UnicodeDecodeError:
            raise ValidationError("The file is no JSON in UTF-8.") from None
        except Refused as error:
            raise ValidationError(list(error.sentences)) from error


class SeasonForm(forms.Form):
    """The month in which seasons begin."""

    begins = forms.TypedChoiceField(
        label="Seasons begin in", choices=list(MONTHS.items()), coerce=int, required=False,
        initial=JANUARY, widget=forms.Select({"class": "form-select"}),
    )  # fmt: skip

    @property
    def begins_in(self) -> int:
        """January, where something else was asked for."""
        return (self.is_valid() and self.cleaned_data["begins"]) or JANUARY
