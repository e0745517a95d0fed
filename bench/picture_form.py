"""The form by which a table of pictures is sent: as lines, or as a file of another program."""

from typing import Any

from django import forms

from engine.measurement.capture_times import Picture
from engine.measurement.picture_table import BadPictureTable, as_line, pictures_of, read_pictures
from kit.form_fields import sentences_of
from pages.boundary import NoJson, clean_text, read_json

LARGEST_FILE_BYTES = 10_000_000
LIST_OF_FILE = "pictures"  # in a replay file


class PicturesForm(forms.Form):
    """A table of pictures, or a file with one; cleaned, `pictures` has those that are in either."""

    table = forms.CharField(required=False, strip=False)
    file = forms.FileField(required=False)

    def clean_file(self) -> str:
        """The text of the file."""
        file = self.cleaned_data["file"]
        if not file:
            return ""
        if file.size > LARGEST_FILE_BYTES:
            raise forms.ValidationError(
                "The file has more than 10 MB: names, times, sizes and bodies are enough."
            )
        return clean_text(file.read().decode("utf-8-sig", "replace"))

    def clean(self) -> dict[str, Any]:
        """Both read; of a file, its lines stand in the field of the table from now on."""
        cleaned = super().clean() or {}
        text = cleaned.get("file") or cleaned.get("table", "")
        if self.errors:
            return cleaned
        try:
            cleaned["pictures"] = _pictures_in(text)
        except (BadPictureTable, NoJson) as error:
            self.add_error(None, list(error.sentences))
        else:
            if text is not cleaned.get("table"):
                lines = "".join(map(as_line, cleaned["pictures"]))
                self.data = {**self.data, "table": lines}
        return cleaned

    @property
    def lines(self) -> str:
        """The lines that stand in the field of the table."""
        return str(self.data.get("table", ""))

    @property
    def sentences(self) -> list[str]:
        """What is wrong."""
        return sentences_of(self)


def _pictures_in(text: str) -> list[Picture]:
    """Those of a table or of JSON. Raises :class:`BadPictureTable`, :class:`NoJson`."""
    if text.lstrip()[:1] not in ("[", "{"):
        return read_pictures(text)
    found = read_json(text)
    if isinstance(found, dict):
        found = found.get(LIST_OF_FILE)
    if not isinstance(found, list):
        raise BadPictureTable(["The JSON is no list of pictures."])
    return pictures_of(found)
