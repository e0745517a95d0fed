"""The form of a need: the fields of Choose's sentence, cleaned into a `Need` of the engine."""

from collections.abc import Mapping
from typing import Any

from django import forms

from engine.cards.standards import Form
from engine.formats import exact
from engine.selection.requirements import InvalidNeed, Need
from kit.form_fields import QuantityField
from prices.amounts import CENTS
from prices.money import USUAL_CURRENCY
from setups.setup import HOLD_S

USUAL_SURE = 80.0  # per cent of bursts
OWN = "own"
LONGEST_QUOTED = 30
MOST = 1e12  # nobody needs more of anything
_DECIMALS = {"s": 3, "min": 2, "GB": 3, "%": 1}  # further ones change no answer


class NumberField(QuantityField):
    """A number that may be left empty: not asked for."""

    def __init__(self, unit: str, label: str, *, whole: bool = False) -> None:
        super().__init__(unit=unit, label=label, required=False)
        self.whole = whole

    def to_python(self, value: Any) -> float | None:  # type: ignore[override]
        number = super().to_python(value)
        if number is None:
            return None
        if abs(number) < MOST and (not self.whole or number == int(number)):
            return round(number, _DECIMALS.get(self.unit, 2))
        kind = "a whole number" if self.whole else "a number"
        raise forms.ValidationError(f"“{value[:LONGEST_QUOTED]}” is not {kind} of {self.unit}.")


class ChoiceOrUsual(forms.ChoiceField):
    """One of some choices; what is none of them counts as the first."""

    def __init__(self, *choices: str) -> None:
        super().__init__(choices=[(choice, choice) for choice in choices], required=False)
        self.usual = choices[0]

    def clean(self, value: Any) -> str:
        return value if self.valid_value(value) else self.usual


class NeedForm(forms.Form):
    """What a job asks for; the names of its fields are keys of the address of Choose."""

    lasts = NumberField("s", "The action")
    every = NumberField("s", "How often it comes")
    minutes = NumberField("min", "How long it goes on")
    full = NumberField("s", "Full speed")
    frames = NumberField("frames", "The frames", whole=True)
    within = NumberField("s", "Their time")
    picture = NumberField("s", "The picture")
    which = ChoiceOrUsual("first", "last")
    light = NumberField("s", "The light")
    day = NumberField("frames", "A day", whole=True)
    free = NumberField("GB", "Room on the cards")
    copied = NumberField("min", "Copying")
    budget = NumberField("", "The budget")
    copies = ChoiceOrUsual("1", "2")
    money = forms.CharField(required=False)
    sure = NumberField("%", "How sure")
    form = ChoiceOrUsual("", *Form)
    least = NumberField("GB", "The least capacity")
    among = ChoiceOrUsual("", OWN)
    plain = ChoiceOrUsual("", "1")

    NEED_FIELD_OF = {
        "lasts": "lasts_s", "every": "every_s", "minutes": "goes_on_min", "full": "full_rate_s",
        "frames": "frames", "within": "frames_in_s", "picture": "picture_s", "light": "light_out_s",
        "day": "frames_a_day", "free": "free_gb", "copied": "copied_min", "budget": "budget_cents",
        "copies": "copies", "sure": "sure",
    }  # fmt: skip

    def __init__(self, data: Mapping[str, str]) -> None:
        super().__init__(data)
        self.fields["budget"].unit = data["money"]  # type: ignore[attr-defined]
        self.need: Need | None = None

    @property
    def faults(self) -> dict[str, str]:
        """What is wrong, by field, in sentences."""
        return {key: " ".join(map(str, errors)) for key, errors in self.errors.items()}

    def clean(self) -> dict[str, Any]:
        """Builds the need; what contradicts itself is told at its fields."""
        cleaned: dict[str, Any] = super().clean() or {}
        if not self.data["lasts"]:
            self.add_error("lasts", "Say how long the action lasts, in seconds.")
        elif (lasts := cleaned.get("lasts")) is not None and HOLD_S.fault(lasts):
            said = f"The action lasts {HOLD_S.lowest:g} to {HOLD_S.highest:g} s."
            self.add_error("lasts", said)
        try:
            need = Need(**self._asked(cleaned))
        except InvalidNeed as error:
            self._tell(error)
        else:
            self.need = None if self.errors else need
        return cleaned

    def _asked(self, cleaned: Mapping[str, Any]) -> dict[str, Any]:
        """The fields of the need; of what is wrong elsewhere the rest is told all the same."""
        asked = {
            field: cleaned[key]
            for key, field in self.NEED_FIELD_OF.items()
            if cleaned.get(key) is not None
        }
        for whole in ("frames", "frames_a_day", "copies"):
            if whole in asked:
                asked[whole] = int(asked[whole])
        if "budget_cents" in asked:
            asked["budget_cents"] = round(asked["budget_cents"] * CENTS)
        asked["sure"] = (cleaned.get("sure") or USUAL_SURE) / 100
        return {"lasts_s": HOLD_S.highest} | asked | {"picture": cleaned["which"]}

    def _tell(self, error: InvalidNeed) -> None:
        key_of = {field: key for key, field in self.NEED_FIELD_OF.items()}
        for field, fault in error.faults.items():
            key = key_of[field]
            if key in self.errors or (key == "every" and "lasts" in self.errors):
                continue  # told already, or held against a length that nobody gave
            self.add_error(key, f"{self.fields[key].label} {fault}.")


def data_of(need: Need) -> dict[str, str]:
    """What stands in the fields for `need`."""
    shown = {
        key: "" if (value := getattr(need, field)) is None else exact(value)
        for key, field in NeedForm.NEED_FIELD_OF.items()
    }
    return shown | {
        "budget": "" if need.budget_cents is None else exact(need.budget_cents / CENTS),
        "which": need.picture,
        "sure": exact(100 * need.sure),
    }


USUAL_DATA = dict.fromkeys(NeedForm.base_fields, "") | {
    "which": "first",
    "copies": "1",
    "money": USUAL_CURRENCY,
    "sure": exact(USUAL_SURE),
}
# What most needs leave open, and is folded away; what the sentence itself asks is not.
RARE_FIELDS = ("copies", "frames", "within", "which", "picture", "light", "free",
               "copied", "sure", "among", "form", "least", "plain")  # fmt: skip
