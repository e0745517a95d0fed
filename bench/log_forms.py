"""The forms of the log: what is shown of it, and what comes in."""

from collections.abc import Iterable
from functools import cached_property
from operator import itemgetter
from typing import Any
from urllib.parse import parse_qsl

from django import forms

from bench.models import WORDS_OF_METHOD, Run, RunQuerySet
from kit.models import Body, Card, Visitor
from setups import keys

LARGEST_FILE_BYTES = 5_000_000


class LogFilter(forms.Form):
    """The choices of the log's address; what makes no sense is passed over."""

    body = forms.ChoiceField(required=False)
    card = forms.ChoiceField(required=False)
    method = forms.ChoiceField(required=False, label="Measured")
    words = forms.CharField(required=False, max_length=60, label="Words in the notes")

    def __init__(self, *args: Any, visitor: Visitor) -> None:
        super().__init__(*args)
        self.runs = runs = Run.objects.made_by(visitor)
        self.bodies = list(Body.objects.filter(runs__in=runs).distinct())
        slugs = {slug for setup in runs.values_list("setup", flat=True) for slug in _cards(setup)}
        cards = Card.objects.visible_to(visitor).filter(slug__in=slugs)
        names = {slug: slug for slug in slugs} | {card.slug: str(card) for card in cards}
        choices = {
            "body": [(one.slug, str(one)) for one in self.bodies],
            "card": sorted(names.items(), key=itemgetter(1)),
            "method": list(WORDS_OF_METHOD.items()),
        }
        for name, found in choices.items():
            self.fields[name].choices = [("", "all"), *found]  # type: ignore[attr-defined]

    @property
    def is_used(self) -> bool:
        """Whether something is left aside."""
        return self.is_valid() and any(self.cleaned_data.values())

    @cached_property
    def found(self) -> RunQuerySet:
        """The runs that are shown."""
        self.full_clean()
        told, runs = self.cleaned_data, self.runs
        if body := told.get("body"):
            runs = runs.filter(body__slug=body)
        if card := told.get("card"):
            runs = runs.on_card(card)
        if method := told.get("method"):
            runs = runs.filter(method=method)
        if words := told.get("words"):
            runs = runs.filter(notes__icontains=words)
        return runs


class RunsForm(forms.Form):
    """A table or a file of runs, and what holds where it says nothing."""

    body = forms.ChoiceField(label="Of the body, where a line names none")
    method = forms.ChoiceField(
        label="Measured",
        choices=[("typed", "by somebody else"), ("claim", "by the maker"), ("tap", "by me")],
    )
    table = forms.CharField(
        label="Lines",
        required=False,
        widget=forms.Textarea(attrs={"rows": 8}),
        max_length=2_000_000,
    )
    file = forms.FileField(label="or an exported file, CSV or JSON", required=False)

    def __init__(self, *args: Any, visitor: Visitor) -> None:
        super().__init__(*args)
        bodies = Body.objects.offered_to(visitor).current().ready_to_shoot()
        choices = [(one.slug, str(one)) for one in bodies]
        self.fields["body"].choices = choices  # type: ignore[attr-defined]

    def clean(self) -> dict[str, Any]:
        """The text of either."""
        cleaned = super().clean() or {}
        if file := cleaned.get("file"):
            if file.size > LARGEST_FILE_BYTES:
                raise forms.ValidationError("The file has more than 5 MB.")
            cleaned["text"] = file.read().decode("utf-8", "replace")
        else:
            cleaned["text"] = cleaned.get("table", "")
        return cleaned

    def tell(self, sentences: Iterable[str]) -> None:
        """Tells what is wrong; the text of a file stands in the field, to be corrected there."""
        for sentence in sentences:
            self.add_error(None, sentence)
        self.data = {**self.data.dict(), "table": self.cleaned_data["text"]}  # type: ignore[attr-defined]


def _cards(setup: str) -> list[str]:
    return [value for key, value in parse_qsl(setup) if key in keys.CARDS]
