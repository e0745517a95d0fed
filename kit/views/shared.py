"""What the screens of the kit share: whose an item is, and what is said after a change."""

from collections.abc import Callable
from typing import Any, TypeVar

from django.contrib import messages
from django.contrib.auth.base_user import AbstractBaseUser
from django.contrib.auth.decorators import user_passes_test
from django.core.exceptions import PermissionDenied
from django.core.paginator import Page, Paginator
from django.http import Http404, HttpRequest, HttpResponse
from django.urls import reverse

from kit import edit
from kit.document import BadDocument, document_of
from kit.forms import KitForm
from kit.models import KitItem, Revision

_View = TypeVar("_View", bound=Callable[..., HttpResponse])
_Item = TypeVar("_Item", bound=KitItem)

ITEMS_ON_A_PAGE = 50


def has_account(user: Any) -> bool:
    """Whether the visitor can sign in elsewhere, as a guest can't."""
    return user.is_authenticated and user.most_items is None


def account_required(view: _View) -> _View:
    """Sends guests, and who has nothing yet, to sign in."""
    return user_passes_test(has_account)(view)


def signed_in(request: HttpRequest) -> AbstractBaseUser:
    """The visitor of a view that changes something: with an account, or a guest."""
    if not isinstance(request.user, AbstractBaseUser):
        raise PermissionDenied("This needs an account.")
    return request.user


def keeper(request: HttpRequest) -> AbstractBaseUser:
    """Whose kit a new item goes into: the visitor's, who becomes a guest without an account."""
    if request.user.is_authenticated:
        return signed_in(request)
    guest: AbstractBaseUser = request.begin_guest()  # type: ignore[attr-defined]
    return guest


def listed(model: type[_Item], request: HttpRequest, *parts: str) -> tuple[Page[_Item], bool]:
    """A page of a list, the visitor's own first, with `parts`, and whether it is their archive."""
    archived = request.GET.get("whose") == "archived"
    items = model.objects.offered_to(request.user).prefetch_related(*parts)
    shown = items.owned_by(request.user).archived() if archived else items.current()
    return Paginator(shown, ITEMS_ON_A_PAGE).get_page(request.GET.get("page")), archived


def visible(model: type[_Item], request: HttpRequest, slug: str) -> _Item:
    """The item of that name that the visitor may see, their own first; raises Http404."""
    item: _Item | None = model.objects.visible_to(request.user).filter(slug=slug).first()
    if item is None:
        raise Http404("There is no such item in your kit or in the sample kit.")
    return item


def mine(model: type[_Item], request: HttpRequest, slug: str) -> _Item:
    """The visitor's own item of that name; raises Http404 for everybody else's."""
    item: _Item | None = model.objects.owned_by(request.user).filter(slug=slug).first()
    if item is None:
        raise Http404("There is no such item in your kit.")
    return item


def say(
    request: HttpRequest, sentence: str, revision: Revision | None = None, *, undo: str = ""
) -> None:
    """Puts `sentence` on the next page; its button undoes `revision`, or posts to `undo`."""
    at = reverse("undo", args=[revision.pk]) if revision else undo
    messages.success(request, sentence, extra_tags=at)


def shown_in_form(item: KitItem) -> dict[str, Any]:
    """What a form of `item` shows at first: its document and its version."""
    return {**document_of(item), "version": item.version}


def keep_new(request: HttpRequest, model: type[KitItem], form: KitForm) -> KitItem | None:
    """The new item of `form`, said to be kept; None when it can't be, which the form tells."""
    if request.method != "POST" or not form.is_valid():
        return None
    try:
        revision = edit.add(model, keeper(request), form.document())
    except BadDocument as error:
        form.tell(error.faults)
        return None
    say(request, f"{revision.words}.", revision)
    return revision.changed


def keep_change(request: HttpRequest, item: KitItem, form: KitForm) -> bool:
    """Whether `form` was saved, and said to be; if it can't be, it tells why."""
    if request.method != "POST" or not form.is_valid():
        return False
    try:
        revision = edit.rewrite(item, form.document(), form.version_seen)
    except BadDocument as error:
        form.tell(error.faults)
        return False
    except edit.ChangedMeanwhile as error:
        form.offer_over(error.item or item)
        return False
    say(request, f"{revision.words}." if revision else f"{item} is as it was.", revision)
    return True
