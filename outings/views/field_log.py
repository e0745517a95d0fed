"""The log of an outing, tapped on the phone: bursts, swaps, notes, cards that fail."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from kit.form_fields import sentences_of
from kit.models import Card, Visitor
from kit.views.shared import say, signed_in
from outings.models import SLOT_NUMBERS, FieldNote, Outing, number_of_row
from outings.records.field_notes import FieldNoteForm, keep_notes, read_notes
from outings.records.field_notes import tell_card as tell
from outings.records.record import record_of
from pages.deleted import bring_back, deleted_rows, keep_deleted
from pages.limits import at_most
from pages.refusals import Refused
from pages.render import render_page_or_part
from setups.kit import Kit

PAGE, PART = "outings/field_log.html", "outings/_noted.html"


@dataclass(frozen=True)
class SlotToFill:
    """A slot, and the cards that may go into it."""

    number: int
    name: str
    cards: Sequence[Card]

    @classmethod
    def of(cls, outing: Outing, visitor: Visitor) -> "list[SlotToFill]":
        """Those that the set-up writes to; without one both, with all cards of the kit."""
        if reading := outing.reading(Kit.of(visitor)):
            sides = reading.setup.sides
            return [cls(one.slot.number, str(one.slot), one.cards) for one in sides]
        cards = list(Card.objects.offered_to(visitor).available())
        return [cls(number, f"slot {number}", cards) for number in SLOT_NUMBERS]


@require_safe
@at_most(3_600, per="user_or_ip", method="GET")
def field_log(request: HttpRequest, pk: int) -> HttpResponse:
    """The page of large buttons, kept for no network; for its script what has been noted."""
    return _shown(request, get_object_or_404(Outing.objects.made_by(request.user), pk=pk))


@require_POST
@at_most(3_600, per="user_or_ip")
def keep(request: HttpRequest, pk: int) -> HttpResponse:
    """Keeps a note that a form sends, or as many as a phone has been without network for."""
    outing = get_object_or_404(Outing.objects.made_by(signed_in(request)), pk=pk)
    if "notes" in request.POST:
        try:
            kept = keep_notes(outing, read_notes(request.POST["notes"]))
        except Refused as error:
            return JsonResponse({"said": error.sentences}, status=422)
        return JsonResponse({"kept": kept.keys, "refused": kept.refused, "said": kept.said})
    kept = keep_notes(outing, [request.POST])
    if kept.refused:
        return _shown(request, outing, FieldNoteForm(request.POST))
    for sentence in kept.said or ["It is noted."]:
        say(request, sentence)
    return redirect("outing-field", pk)


@require_POST
def delete(request: HttpRequest, pk: int) -> HttpResponse:
    """The end of a note, which can be brought back for a day."""
    note = get_object_or_404(_of(request), pk=pk)
    keep_deleted(note)
    note.delete()
    say(request, "The note is deleted.", undo=reverse("note-restore", args=[pk]))
    return redirect("outing-record", note.outing_id)


@require_POST
def restore(request: HttpRequest, pk: int) -> HttpResponse:
    """The note that was deleted is there again."""
    mine = Outing.objects.made_by(signed_in(request))
    rows = [one for one in deleted_rows(FieldNote, pk) if isinstance(one, FieldNote)]
    if not rows or not mine.filter(pk=rows[0].outing_id).exists():
        raise Refused(["The note can't be brought back any more."])
    bring_back(rows)
    return redirect("outing-record", rows[0].outing_id)


@require_POST
def tell_card(request: HttpRequest, pk: int) -> HttpResponse:
    """The card of a note that names none, told afterwards."""
    number = number_of_row(request.POST.get("note", ""))
    note = get_object_or_404(_of(request), outing=pk, pk=number)
    told = request.POST.get("card", "")
    if not Card.objects.visible_to(request.user).filter(slug=told).exists():
        raise Refused(["Choose the card that it was."])
    for sentence in tell(note, told) or ["The card is told."]:
        say(request, sentence)
    return redirect("outing-record", pk)


def _of(request: HttpRequest) -> QuerySet[FieldNote]:
    """The visitor's notes."""
    return FieldNote.objects.filter(outing__in=Outing.objects.made_by(signed_in(request)))


def _shown(request: HttpRequest, outing: Outing, form: FieldNoteForm | None = None) -> HttpResponse:
    record = record_of(outing, request.user)
    context = {
        "outing": outing, "record": record, "slots": SlotToFill.of(outing, request.user),
        "faults": sentences_of(form) if form else [], "typed": form,
        "is_kept_offline": form is None,
    }  # fmt: skip
    return render_page_or_part(request, PAGE, PART, context, status=422 if form else 200)
