"""Notes from the field: read as a phone or a form sends them, and kept, each once."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from django import forms
from django.db import transaction
from django.utils.timezone import localtime

from engine.measurement.capture_times import day_of, seconds_of
from kit.card_log import add_line
from kit.form_fields import WholeField, form_field, sentences_of
from kit.models import Card, CardEvent, CardLogEntry
from outings.models import MANY_NOTES, MOST_NOTES, SLOT_NUMBERS, FieldNote, FieldNoteKind, Outing
from pages.boundary import read_json
from pages.refusals import Refused

MOST_AT_ONCE = 200
LONGEST_LINE = 200  # characters of a card's log


class FieldNoteForm(forms.ModelForm):  # type: ignore[type-arg]
    """One note; without a moment it is of now, without a script of the time that is typed."""

    key = forms.UUIDField(required=False)
    at_s = forms.FloatField(required=False)
    at = forms.TimeField(required=False)
    slot = WholeField(required=False, min_value=min(SLOT_NUMBERS), max_value=max(SLOT_NUMBERS))

    class Meta:
        model = FieldNote
        formfield_callback = form_field
        fields = ["key", "kind", "at_s", "slot", "card", "words"]

    def clean_key(self) -> UUID:
        """A new one, where a form without script sends none."""
        return self.cleaned_data["key"] or uuid4()

    def clean_at_s(self) -> float:
        """The moment, by the clock of the phone."""
        told: float | None = self.cleaned_data["at_s"]
        return _seconds(localtime().replace(tzinfo=None)) if told is None else told

    def clean_slot(self) -> int:
        """The first, where none is told."""
        return self.cleaned_data["slot"] or 1

    def clean(self) -> dict[str, Any]:
        """With the time that was typed."""
        told = super().clean() or {}
        if told.get("at"):
            told["at_s"] = _seconds(datetime.combine(localtime().date(), told["at"]))
        return told


@dataclass
class Kept:
    """What came of notes, by their keys: those that are kept, and why others are not.

    `said` tells what else came of them.
    """

    keys: list[str] = field(default_factory=list)
    refused: dict[str, list[str]] = field(default_factory=dict)
    said: list[str] = field(default_factory=list)


def read_notes(text: str) -> list[dict[str, str]]:
    """The notes that a phone sends, as JSON. Raises Refused."""
    if text.count("{") > MOST_AT_ONCE:
        raise Refused([f"{MOST_AT_ONCE} notes are the most at a time."])
    sent = read_json(text)
    if not isinstance(sent, list) or not all(isinstance(one, dict) for one in sent):
        raise Refused(["These are no notes."])
    return [{str(name): _as_text(value) for name, value in one.items()} for one in sent]


def keep_notes(outing: Outing, sent: Sequence[Mapping[str, Any]]) -> Kept:
    """Keeps notes of an outing; one whose key is there already is kept as it was.

    A card that failed has a line in its log for it, if it is one's own.
    """
    kept = Kept()
    with transaction.atomic():
        Outing.objects.select_for_update(no_key=True).get(pk=outing.pk)
        known = {str(key) for key in outing.field_notes.values_list("key", flat=True)}
        for one in sent:
            form = FieldNoteForm(one)
            key = str(form["key"].value() or "")
            if not form.is_valid():
                kept.refused[key] = sentences_of(form)
                continue
            is_new = str(form.cleaned_data["key"]) not in known
            if is_new and len(known) >= MOST_NOTES:
                kept.refused[key] = [MANY_NOTES]
                continue
            if is_new:
                form.instance.outing = outing
                kept.said += _log_failure(form.save())
                known.add(str(form.cleaned_data["key"]))
            kept.keys.append(key)
    return kept


def tell_card(note: FieldNote, slug: str) -> list[str]:
    """The card of a note that named none, told afterwards; what else came of that."""
    with transaction.atomic():
        untold = FieldNote.objects.select_for_update(no_key=True).filter(pk=note.pk, card="")
        if not untold.exists():
            raise Refused(["The card of this note has been told already."])
        note.card = slug
        note.save(update_fields=["card"])
        return _log_failure(note)


def _log_failure(note: FieldNote) -> list[str]:
    """A line in the log of a card that failed, if it is one's own; what came of it, in words."""
    if note.kind != FieldNoteKind.FAILURE:
        return []
    card = Card.objects.owned_by(note.outing.owner).filter(slug=note.card).first()
    if card is None:
        return []
    words = f"{note.outing}: {note.words}" if note.words else str(note.outing)
    entry = CardLogEntry(on=day_of(note.at_s), event=CardEvent.FAILURE, words=words[:LONGEST_LINE])
    try:
        return [f"{add_line(card, entry).words}."]
    except Refused as error:
        return [str(error)]


def _seconds(moment: datetime) -> float:
    return seconds_of(moment, "")


def _as_text(value: Any) -> str:
    return value if isinstance(value, str) else json.dumps(value)
