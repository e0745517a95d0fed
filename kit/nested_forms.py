"""Forms of nested documents: a form for a row, with a formset for each list that belongs to it.

They take the place of Django's inline formsets, and like these get their fields from the models.
They save nothing: `kit.edit` saves an item and all its rows as one document, which can be undone.
"""

import re
from collections.abc import Iterator, Mapping
from typing import Any, ClassVar

from django import forms
from django.utils.functional import cached_property


class RowForm(forms.ModelForm):
    """A row of a document (`initial`), and the rows in its lists.

    `part_formsets` are the formsets of its lists by name, `required_parts` the sentences for lists
    that may not be left empty, and `asked_by` the fields that ask for a field of another name.
    """

    part_formsets: ClassVar[Mapping[str, "type[PartFormSet]"]] = {}
    required_parts: ClassVar[Mapping[str, str]] = {}
    asked_by: ClassVar[Mapping[str, str]] = {}

    @cached_property
    def parts(self) -> "dict[str, PartFormSet]":
        """The formset of each list that belongs to the row."""
        return {
            name: formset(
                self.data if self.is_bound else None,
                prefix=self.add_prefix(name),
                initial=self.initial.get(name) or [],
            )
            for name, formset in self.part_formsets.items()
        }

    def has_changed(self) -> bool:
        return super().has_changed() or any(part.has_changed() for part in self.parts.values())

    def is_valid(self) -> bool:
        valid = all([super().is_valid(), *(part.is_valid() for part in self.parts.values())])
        if not valid or not self.is_there:
            return valid
        for name, sentence in self.required_parts.items():
            came_without = self.initial.get(name) == []
            if not self.parts[name].kept and not came_without:
                self.add_error(None, sentence)
        return not self.errors

    @property
    def is_there(self) -> bool:
        """Whether the row is in the document: neither left blank nor removed."""
        return bool(self.cleaned_data) and not self.cleaned_data.get("DELETE")

    @property
    def has_faults(self) -> bool:
        """Whether something in the row, or in the rows that belong to it, is wrong."""
        return bool(self.errors) or any(part.has_faults for part in self.parts.values())

    def document(self) -> dict[str, Any]:
        """The row as `kit.document.write` takes it; a field left empty means as usual.

        A number that was left as it was shown keeps the digits that are not shown.
        """
        never_null = {field.name for field in self._meta.model._meta.fields if not field.null}
        own = {
            name: value if name in self.changed_data else self.initial.get(name, value)
            for name, value in self.cleaned_data.items()
            if name != "DELETE" and not (value is None and name in never_null)
        }
        return own | {name: part.documents() for name, part in self.parts.items()}

    def tell_at(self, place: str, fault: str) -> None:
        """Adds the fault of the document at `place`, as in "files[2].file_mb", to its field."""
        step = re.fullmatch(r"(\w+)\[(\d+)\]\.?(.*)", place)
        if step and step[1] in self.parts:
            self.parts[step[1]].kept[int(step[2]) - 1].tell_at(step[3], fault)
            return
        field = self.asked_by.get(place, place)
        self.add_error(field if field in self.fields else None, fault)


class PartFormSet(forms.BaseFormSet):
    """The rows of a list in a document, and blank ones to fill: one, or as many as `at_first`."""

    at_first: ClassVar[int]

    def __init__(self, data: Any = None, *, initial: list[dict[str, Any]], **options: Any) -> None:
        super().__init__(data, initial=initial, **options)
        self.extra = max(1, self.at_first - len(initial))

    @property
    def kept(self) -> list[RowForm]:
        """The forms of the rows that are in the document, once they are valid."""
        return [form for form in self.forms if form.is_there]

    @property
    def has_faults(self) -> bool:
        """Whether something in one of its rows is wrong."""
        rows: Iterator[RowForm] = iter(self.forms)
        return bool(self.non_form_errors()) or any(row.has_faults for row in rows)

    def documents(self) -> list[dict[str, Any]]:
        """The list as the document has it."""
        return [form.document() for form in self.kept]


def part_formset(
    form: type[RowForm], *, most: int, at_first: int = 1, can_delete: bool = True
) -> type[PartFormSet]:
    """The formset of a list of at most `most` rows that `form` shows."""
    kind: type[PartFormSet] = forms.formset_factory(  # type: ignore[assignment]
        form, PartFormSet, max_num=most, absolute_max=most, can_delete=can_delete
    )
    kind.at_first = at_first
    return kind
