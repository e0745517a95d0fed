"""The forms of an outing."""

from django import forms

from kit.form_fields import form_field
from outings.models import Outing


class OutingForm(forms.ModelForm):
    """Its name and notes."""

    class Meta:
        model = Outing
        fields = ["name", "notes"]
        formfield_callback = form_field
        labels = {"name": "Name", "notes": "Notes"}
