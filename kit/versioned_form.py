"""A form of a row that may have been changed in another tab since it was opened."""

from typing import Any

from django import forms

from kit.form_fields import WholeField


class VersionedForm(forms.ModelForm):  # type: ignore[type-arg]
    """Its row counts its changes in `version`; `what` is what the row is called."""

    what = ""
    version = WholeField(required=False, min_value=0, widget=forms.HiddenInput)

    def __init__(self, *args: Any, **options: Any) -> None:
        super().__init__(*args, **options)
        self.initial["version"] = self.instance.version

    def clean(self) -> dict[str, Any]:
        """Keeps the entries, to be saved over what another tab has made of the row since."""
        cleaned = super().clean() or {}
        if self.instance.pk and cleaned.get("version") not in (None, self.instance.version):
            self.data = dict(self.data.items()) | {"version": self.instance.version}
            raise forms.ValidationError(
                f"{self.what} has been changed in another tab since this page was loaded, so "
                "nothing was saved. Save again to have it as it stands here."
            )
        return cleaned
