"""What the screens of the kit share: whose an item is, and what is said after a change."""

from typing import TypeVar

from django.contrib import messages
from django.contrib.auth.base_user import AbstractBaseUser
from django.core.exceptions import PermissionDenied
from django.http import Http404, HttpRequest
from django.urls import reverse

from kit.models import KitItem, Revision

_Item = TypeVar("_Item", bound=KitItem)


def signed_in(request: HttpRequest) -> AbstractBaseUser:
    """The visitor of a view that asks for an account."""
    if not isinstance(request.user, AbstractBaseUser):
        raise PermissionDenied("This needs an account.")
    return request.user


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


def say(request: HttpRequest, sentence: str, revision: Revision | None = None) -> None:
    """Puts `sentence` on the next page, with a button that undoes `revision`."""
    undo = reverse("undo", args=[revision.pk]) if revision else ""
    messages.success(request, sentence, extra_tags=undo)
