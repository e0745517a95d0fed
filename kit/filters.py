"""Which cards a list shows."""

from typing import Any

from django import forms
from django.db.models import Q
from django.http import QueryDict

from kit.models import Card, CardState, Visitor
from kit.models.shared import FORM_CHOICES, sample_is_shown

MINE, SAMPLE, ARCHIVED = "mine", "sample", "archived"


class CardFilter(forms.Form):
    """The choices above the list of cards; a choice that makes no sense is not applied."""

    whose = forms.ChoiceField(
        choices=[
            ("", "yours and the sample kit's"),
            (MINE, "yours"),
            (SAMPLE, "the sample kit's"),
            (ARCHIVED, "archived ones"),
        ],
        required=False,
        label="Cards",
    )
    form = forms.ChoiceField(choices=[("", "of any form"), *FORM_CHOICES], required=False)
    state = forms.ChoiceField(choices=[("", "in any state"), *CardState.choices], required=False)
    named = forms.CharField(max_length=80, required=False, label="Named")

    def __init__(self, data: QueryDict, *, visitor: Visitor) -> None:
        super().__init__(data)
        self.visitor = visitor
        if not sample_is_shown(visitor):
            self.fields["whose"].choices = [("", "yours"), (ARCHIVED, "archived ones")]  # type: ignore[attr-defined]
        self.is_valid()

    def cards(self) -> Any:
        """The cards that the choices leave."""
        chosen = self.cleaned_data
        cards = Card.objects.offered_to(self.visitor).filter(of_class=False)
        whose = chosen.get("whose")
        cards = cards.archived() if whose == ARCHIVED else cards.current()
        if whose in (MINE, ARCHIVED):
            cards = cards.owned_by(self.visitor)
        elif whose == SAMPLE:
            cards = cards.of_sample_kit()
        for field in ("form", "state"):
            if chosen.get(field):
                cards = cards.filter(**{field: chosen[field]})
        for word in chosen.get("named", "").split():
            said = Q(maker__icontains=word) | Q(name__icontains=word) | Q(label__icontains=word)
            cards = cards.filter(said | Q(marks__icontains=word))
        return cards
