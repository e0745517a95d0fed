"""Fields of the kit's forms: numbers with units, shares in per cent, sources, lists of lines."""

from typing import Any, ClassVar

from django import forms
from django.db import models

from engine.cards.standards import BUSES_OF_FORM, Bus, Form, kind_on_bus
from engine.typed_numbers import NotANumber, as_typed, quantity_in
from kit.models import Source
from kit.numbers import unit_of

MOST_WHOLE = 2**31 - 1  # of PostgreSQL's type integer


def sentences_of(form: forms.BaseForm) -> list[str]:
    """All that is wrong with what was typed."""
    return [str(sentence) for faults in form.errors.values() for sentence in faults]


class WholeField(forms.IntegerField):
    """A whole number that a column of the database holds, whatever else a form checks."""

    default_error_messages: ClassVar = {"max_value": "This is %(limit_value)s at most."}

    def __init__(self, **options: Any) -> None:
        super().__init__(**{"max_value": MOST_WHOLE, **options})


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


class ShareField(QuantityField):
    """A share of 1 that is shown and typed in per cent."""

    def __init__(self, **options: Any) -> None:
        super().__init__(unit="%", **options)

    def to_python(self, value: Any) -> float | None:  # type: ignore[override]
        per_cent = super().to_python(value)
        return None if per_cent is None else per_cent / 100

    def prepare_value(self, value: Any) -> Any:
        return as_typed(round(100 * value, 10)) if isinstance(value, float) else value

    def has_changed(self, initial: Any, data: Any) -> bool:
        # The share may have more digits than are shown.
        shown = self.to_python(self.prepare_value(initial))
        return super().has_changed(shown, data)


class TestedCardsField(forms.CharField):
    """Cards on a maker's list, one a line: maker, comma, name."""

    widget = forms.Textarea(attrs={"rows": 4})

    def prepare_value(self, value: Any) -> Any:
        if not isinstance(value, list):
            return value
        return "\n".join(f"{one['maker']}, {one['name']}" for one in value)

    def to_python(self, value: Any) -> Any:
        lines = (line for line in str(super().to_python(value)).splitlines() if line.strip())
        parts = (line.partition("," if "," in line else " ") for line in lines)
        return [{"maker": maker.strip(), "name": name.strip()} for maker, _, name in parts]

    def has_changed(self, initial: Any, data: Any) -> bool:
        shown: str = self.prepare_value(initial or [])
        return shown.splitlines() != str(data or "").splitlines()


def choice_of(form: str, bus: str) -> str:
    """A form on a bus as the value of one choice."""
    return f"{form}|{bus}"


def chosen(choice: str) -> tuple[Form, Bus]:
    """The form and bus of such a choice."""
    form, bus = choice.split("|")
    return Form(form), Bus(bus)


class TakesField(forms.ChoiceField):
    """A form on a bus as one choice; its value is the document of both, or None for neither."""

    def __init__(self, **options: Any) -> None:
        buses_of_forms = [
            (form.value, [(choice_of(form, bus), kind_on_bus(form, bus)) for bus in buses])
            for form, buses in BUSES_OF_FORM.items()
        ]
        super().__init__(choices=[("", "nothing"), *buses_of_forms], required=False, **options)

    def prepare_value(self, value: Any) -> Any:
        return choice_of(**value) if isinstance(value, dict) else value

    def clean(self, value: Any) -> Any:
        choice = super().clean(value)
        if not choice:
            return None
        form, bus = chosen(choice)
        return {"form": form.value, "bus": bus.value}

    def has_changed(self, initial: Any, data: Any) -> bool:
        return super().has_changed(self.prepare_value(initial), data)


def form_field(field: "models.Field[Any, Any]", **options: Any) -> forms.Field | None:
    """The field of a form for `field` of a model, as Meta.formfield_callback wants it."""
    if isinstance(field, models.FloatField):
        return QuantityField(
            unit=unit_of(field.name),
            required=not (field.null or field.has_default()),
            label=options.get("label"),
            help_text=options.get("help_text", ""),
        )
    if field.choices == Source.choices:
        return _source_field(field, options.get("label", "Source"))
    if isinstance(field, models.DateField):
        options["widget"] = forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    if isinstance(field, models.IntegerField):
        options["form_class"] = WholeField
    if isinstance(field, models.TextField):
        options["widget"] = forms.Textarea(attrs={"rows": 3})
    return field.formfield(**options)


def _source_field(field: "models.Field[Any, Any]", label: str) -> forms.ChoiceField:
    """Of a number that may be unknown its source is empty; any other is estimated at first."""
    if field.blank:
        return forms.ChoiceField(
            choices=[("", "unknown"), *Source.choices], required=False, label=label
        )
    return forms.ChoiceField(choices=Source.choices, initial=Source.ESTIMATED, label=label)
