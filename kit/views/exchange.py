"""The whole kit as a file, and a file into the kit."""

from collections import Counter

from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from kit import importing
from kit.document import KINDS, document_of, with_parts
from kit.forms import FileForm
from kit.importing import DONE_WORDS, Action
from kit.kit_file import BadFile, Documents, as_card_table, as_json, read_kit
from kit.models import ImportState, PendingImport
from kit.tasks import continue_import
from kit.views.shared import account_required, say, signed_in
from pages import background
from pages.downloads import as_file
from pages.render import render_page_or_part

ROWS_ON_A_PAGE = 200
WRITERS = {
    "json": (as_json, "application/json", "ondata-kit.json"),
    "csv": (as_card_table, "text/csv; charset=utf-8", "ondata-cards.csv"),
}


@login_required
@require_safe
def exchange(request: HttpRequest) -> HttpResponse:
    """Where a kit goes out and comes in."""
    waiting = PendingImport.objects.filter(owner_id=request.user.pk)
    waiting = waiting.exclude(state=ImportState.SAVED)
    pending = waiting.defer("entries", "plan").first()
    return render(request, "kit/exchange.html", {"form": FileForm(), "pending": pending})


@login_required
@require_safe
def export(request: HttpRequest, form: str) -> StreamingHttpResponse:
    """All that the visitor owns, archived things included."""
    if form not in WRITERS:
        raise Http404("A kit is written as JSON, its cards as CSV.")
    writer, kind, name = WRITERS[form]
    return as_file(StreamingHttpResponse(writer(_own_documents(request)), content_type=kind), name)


def _own_documents(request: HttpRequest) -> Documents:
    return {
        kind: map(document_of, with_parts(model.objects.owned_by(request.user)).iterator(1_000))
        for kind, model in KINDS.items()
    }


@account_required
@require_POST
def receive(request: HttpRequest) -> HttpResponse:
    """A file, read and kept until it has been checked; nothing of it is saved."""
    form = FileForm(request.POST, request.FILES)
    saving = PendingImport.objects.filter(owner_id=request.user.pk, state=ImportState.SAVING)
    if one := saving.only("file_name").first():
        say(request, f"{one.file_name} is being saved; send the other file when that is done.")
        return redirect("import", pk=one.pk)
    if form.is_valid():
        file = form.cleaned_data["file"]
        try:
            entries = read_kit(file.name, file.read())
        except BadFile as error:
            form.add_error("file", str(error))
        else:
            pending = importing.receive(signed_in(request), file.name, entries)
            continue_import(pending)
            return redirect("import", pk=pending.pk)
    return render(request, "kit/exchange.html", {"form": form}, status=422)


@account_required
@require_safe
def preview(request: HttpRequest, pk: int) -> HttpResponse:
    """What saving the file would do, row by row; before, how far it is; after, what came of it."""
    owned = PendingImport.objects.defer("entries", "plan")
    pending = get_object_or_404(owned, owner=request.user, pk=pk)
    page, part = "kit/import.html", "kit/_import.html"
    if pending.is_worked_on:
        continue_import(pending)
        pending.refresh_from_db(fields=["state", "checked_count", "words"])
    if pending.is_worked_on or pending.state in (ImportState.SAVED, ImportState.FAILED):
        context = {"pending": pending, "nobody_works": not background.has_worker()}
        return render_page_or_part(request, page, part, context)
    rows = [
        (kind, place, Action(action), name, why)
        for (kind, place, _), (action, name, why, _) in zip(
            pending.entries, pending.plan, strict=True
        )
    ]
    counts = Counter(action for _, _, action, _, _ in rows)
    context = {
        "pending": pending,
        "counts": [(words, counts[action]) for action, words in DONE_WORDS.items()],
        "saves": counts[Action.ADD] + counts[Action.CHANGE],
        "page": Paginator(
            sorted(rows, key=lambda row: list(DONE_WORDS).index(row[2])), ROWS_ON_A_PAGE
        ).get_page(request.GET.get("page")),
    }
    return render_page_or_part(request, page, part, context)


@account_required
@require_POST
def save(request: HttpRequest, pk: int) -> HttpResponse:
    """All that was planned, or nothing."""
    pending = get_object_or_404(PendingImport, owner=request.user, pk=pk)
    if importing.ask_to_save(pk):
        pending.state = ImportState.SAVING
        continue_import(pending)
    return redirect("import", pk=pk)


@account_required
@require_POST
def forget(request: HttpRequest, pk: int) -> HttpResponse:
    """Drops the file; the kit stays as it is."""
    pending = get_object_or_404(PendingImport.objects.only("pk"), owner=request.user, pk=pk)
    if not importing.forget(pending.pk):
        return redirect("import", pk=pk)
    say(request, "Nothing of the file was saved.")
    return redirect("exchange")
