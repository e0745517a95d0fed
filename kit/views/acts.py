"""What can be done with any item: duplicate, archive, bring back, undo."""

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from kit import edit
from kit.document import KINDS, BadDocument
from kit.models import Body, Card, KitItem, Reader, Revision
from kit.views.shared import keeper, mine, say, visible

PAGE_OF: dict[type[KitItem], str] = {Body: "body", Card: "card", Reader: "reader"}
LIST_OF: dict[type[KitItem], str] = {Body: "bodies", Card: "cards", Reader: "readers"}


@require_POST
def duplicate(request: HttpRequest, kind: str, slug: str) -> HttpResponse:
    """A copy in the visitor's kit, opened for changing: the same body, newer firmware."""
    original = visible(_model(kind), request, slug)
    revision = edit.duplicate(original, keeper(request))
    say(request, f"{revision.words}: change here what is different.", revision)
    return redirect(f"{PAGE_OF[type(original)]}-edit", slug=revision.changed.slug)


@login_required
@require_POST
def archive(request: HttpRequest, kind: str, slug: str) -> HttpResponse:
    """Out of every choice, and to be brought back at any time."""
    item = mine(_model(kind), request, slug)
    revision = edit.archive(item)
    say(request, f"{revision.words}. Nothing that refers to it is lost.", revision)
    return redirect(LIST_OF[type(item)])


@login_required
@require_POST
def bring_back(request: HttpRequest, kind: str, slug: str) -> HttpResponse:
    """Among the choices again."""
    item = mine(_model(kind), request, slug)
    revision = edit.bring_back(item)
    say(request, f"{revision.words}.", revision)
    return redirect(item_page(item))


@login_required
@require_POST
def undo(request: HttpRequest, pk: int) -> HttpResponse:
    """The item as it was before one of the visitor's changes."""
    revision = get_object_or_404(Revision, owner=request.user, pk=pk)
    model = revision.model
    try:
        undone = edit.undo(revision)
    except edit.ChangedMeanwhile as error:
        say(request, f"This can't be undone any more: {error}.")
        return redirect(item_page(error.item) if error.item else LIST_OF[model])
    except BadDocument as error:
        say(request, f"This can't be undone any more: {' '.join(error.faults.values())}")
        return redirect(item_page(revision.changed))
    if undone is None:
        say(request, f"Undone: {revision.words}.")
        return redirect(LIST_OF[model])
    say(request, f"{undone.words}.", undone)
    return redirect(item_page(undone.changed))


def item_page(item: KitItem) -> str:
    """The address of an item's page."""
    return reverse(PAGE_OF[type(item)], args=[item.slug])


def _model(kind: str) -> type[KitItem]:
    if kind not in KINDS:
        raise Http404("There is no such kind of thing.")
    return KINDS[kind]
