"""What somebody does with a kit of their own; every change can be undone."""

from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from itertools import chain, count
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.base_user import AbstractBaseUser
from django.db import transaction
from django.dispatch import Signal
from django.utils import timezone
from django.utils.text import slugify

from kit.document import KINDS, BadDocument, document_of, write
from kit.earlier_documents import brought_up_to_date
from kit.figure_places import measured_elsewhere
from kit.models import KitItem, Revision
from kit.models.shared import LONGEST_SLUG
from pages.changes import Overtaken

RESERVED_SLUG = "new"  # the address of the form for a new one
UNDONE, DONE_AGAIN = "Undone: ", "Done again: "
LONGEST_WANTED_SLUG = 70  # which leaves room for a number behind it


# Sent before an `item` is removed; apps that keep something of it raise BadDocument.
removing = Signal()


class ChangedMeanwhile(Overtaken):
    """Somebody, in another tab perhaps, has changed the item since; `item` is what it is now.

    None: it is gone.
    """

    def __init__(self, item: KitItem | None) -> None:
        self.item = item
        super().__init__(f"{item or 'it'} has been changed since")


@contextmanager
def change(item: KitItem, words: str, *, version: int | None = None) -> Iterator[Revision]:
    """A change of `item` within the block, whole or not at all, kept so that it can be undone.

    Raises :class:`ChangedMeanwhile` when `version` is given and is no longer the item's.
    """
    with transaction.atomic():
        stored = type(item).objects.select_for_update(no_key=True).get(pk=item.pk)
        if version is not None and version != stored.version:
            raise ChangedMeanwhile(stored)
        revision = Revision(
            owner=stored.owner,
            item=stored,
            before=document_of(stored),
            was_archived=stored.archived_at is not None,
            version=stored.version + 1,
            words=words,
        )
        yield revision
        type(item).objects.filter(pk=item.pk).update(version=revision.version)
        revision.save()


@transaction.atomic
def rewrite(item: KitItem, document: Mapping[str, Any], version: int | None) -> Revision | None:
    """Gives `item` what `document` says; None where it says nothing new.

    Raises BadDocument and :class:`ChangedMeanwhile`.
    """
    with change(item, f"{item} changed", version=version) as revision:
        write(revision.changed, document)
    if document_of(type(item).objects.get(pk=item.pk)) == revision.before:
        transaction.set_rollback(True)
        return None
    return revision


@transaction.atomic
def rewrite_all(documents: Iterable[tuple[KitItem, Mapping[str, Any]]]) -> Revision | None:
    """Gives several items what their documents say, whole or not at all, to be undone together.

    None where nothing is new. Raises BadDocument.
    """
    tried = (rewrite(item, document, None) for item, document in documents)
    revisions = [one for one in tried if one is not None]
    first = next(iter(revisions), None)
    Revision.objects.filter(pk__in=[one.pk for one in revisions[1:]]).update(part_of=first)
    return first


@transaction.atomic
def add(model: type[KitItem], owner: AbstractBaseUser, document: Mapping[str, Any]) -> Revision:
    """Makes a new item of the owner's. Raises BadDocument."""
    lock(owner)
    _check_room(owner)
    item = model(owner_id=owner.pk)
    write(item, {**document, "slug": free_slug(model, owner, document)})
    return Revision.objects.create(
        owner_id=owner.pk, item=item, version=item.version, words=f"{item} added"
    )


def add_or_find(
    model: type[KitItem], owner: AbstractBaseUser, document: Mapping[str, Any]
) -> KitItem:
    """The owner's item that has all that `document` says, or a new one under a free name."""
    same = {name: value for name, value in document.items() if name != "remarks"}
    found: KitItem | None = model.objects.owned_by(owner).current().filter(**same).first()
    if found is not None:
        return found
    names = {name: document.get(name, "") for name in model.named_by}
    return add(model, owner, {**document, **_free_name(model(**names), owner)}).changed


def give(item: KitItem, owner: AbstractBaseUser) -> KitItem:
    """Makes `item` the owner's, under a name that no other of theirs has; twins are left out.

    Returns what the owner has of it now: it, or its twin.
    """
    model = type(item)
    twins = model.objects.owned_by(owner).filter(
        **{name: getattr(item, name) for name in item.named_by}
    )
    document = document_of(item)
    same = (twin for twin in twins if document_of(twin) == document | {"slug": twin.slug})
    found: KitItem | None = next(same, None)
    if found is not None:
        return found
    renamed = _free_name(item, owner)
    slug = free_slug(model, owner, document | renamed)
    model.objects.filter(pk=item.pk).update(owner=owner, slug=slug, **renamed)
    given: KitItem = model.objects.get(pk=item.pk)
    return given


def lock(owner: AbstractBaseUser) -> None:
    """Waits until nobody else is adding to the owner's kit, until this transaction ends.

    What a new item may be called depends on what there is already. Keys are left unlocked here as
    everywhere: rows that point to the owner can be saved meanwhile, which would else end in
    deadlocks.
    """
    get_user_model().objects.select_for_update(no_key=True).get(pk=owner.pk)


def copy(item: KitItem, owner: AbstractBaseUser, **changes: Any) -> Revision:
    """A copy of `item`, of the sample kit or the owner's, with `changes` of its own fields.

    What was measured was measured in the original.
    """
    return add(type(item), owner, measured_elsewhere(document_of(item)) | changes)


@transaction.atomic
def duplicate(item: KitItem, owner: AbstractBaseUser) -> Revision:
    """A copy of `item` under a label, firmware or name that no other of the owner's has."""
    lock(owner)
    return copy(item, owner, **_free_name(item, owner))


def archive(item: KitItem) -> Revision:
    """Takes `item` out of every choice; nothing that refers to it is lost."""
    with change(item, f"{item} archived") as revision:
        type(item).objects.filter(pk=item.pk).update(archived_at=timezone.now())
    return revision


def bring_back(item: KitItem) -> Revision:
    """Puts an archived `item` among the choices again."""
    with change(item, f"{item} brought back") as revision:
        type(item).objects.filter(pk=item.pk).update(archived_at=None)
    return revision


@transaction.atomic
def undo(revision: Revision) -> Revision | None:
    """Puts the item back as it was before `revision`; None when the change had made it.

    Raises :class:`ChangedMeanwhile` when the item has changed since, and BadDocument when what it
    was is not allowed any more.
    """
    undone = _undo_one(revision)
    for part in revision.parts.all():
        if other := _undo_one(part):
            Revision.objects.filter(pk=other.pk).update(part_of=undone)
    return undone


def _undo_one(revision: Revision) -> Revision | None:
    model = revision.model
    item = model.objects.select_for_update(no_key=True).filter(pk=revision.item_pk).first()
    if item is None or item.version != revision.version:
        raise ChangedMeanwhile(item)
    if revision.before is None:
        removing.send(model, item=item)
        item.delete()
        return None
    with change(item, _undone_words(revision.words)) as undone:
        write(item, brought_up_to_date(model, revision.before))
        archived_at = timezone.now() if revision.was_archived else None
        model.objects.filter(pk=item.pk).update(archived_at=archived_at)
    return undone


def _undone_words(words: str) -> str:
    """What undoing is called: that of an undoing brings the change back."""
    if words.startswith(UNDONE):
        return DONE_AGAIN + words.removeprefix(UNDONE)
    return UNDONE + words.removeprefix(DONE_AGAIN)


def _free_name(item: KitItem, owner: AbstractBaseUser) -> dict[str, str]:
    """The label, firmware or name of `item`, changed where another of the owner's has it."""
    *same, apart = item.named_by
    own_kind = type(item).objects.owned_by(owner)
    own_kind = own_kind.filter(**{field: getattr(item, field) for field in same})
    taken = set(own_kind.values_list(apart, flat=True))
    longest = item._meta.get_field(apart).max_length  # type: ignore[union-attr]
    return {apart: _not_taken(getattr(item, apart), taken, " ", longest or LONGEST_SLUG)}


def _check_room(owner: AbstractBaseUser) -> None:
    """Raises BadDocument where the owner's kit is as large as it may get."""
    most = getattr(owner, "most_items", None)
    if most is None:
        return
    count = sum(model.objects.owned_by(owner).count() for model in KINDS.values())
    if count >= most:
        raise BadDocument({"all": f"Without an account a kit has {most} items at most: sign up."})


def free_slug(model: type[KitItem], owner: AbstractBaseUser, document: Mapping[str, Any]) -> str:
    """A place in addresses that no row visible to the owner has yet."""
    wanted = slug_for(model, document)
    alike = model.objects.visible_to(owner).filter(slug__startswith=wanted)
    taken = {RESERVED_SLUG, *alike.values_list("slug", flat=True)}
    return _not_taken(wanted, taken, "-", LONGEST_SLUG)


def slug_for(model: type[KitItem], document: Mapping[str, Any]) -> str:
    """The place in addresses that the names in `document` ask for."""
    words = " ".join(str(document.get(field) or "") for field in model.named_by)
    return slugify(words.replace(".", "-"))[:LONGEST_WANTED_SLUG] or "nameless"


def _not_taken(wanted: str, taken: set[str], between: str, longest: int) -> str:
    """`wanted`, or with a number behind it, in no more than `longest` characters."""
    ends = (f"{between}{number}" for number in count(2))
    numbered = (f"{wanted[: longest - len(end)]}{end}".strip() for end in ends)
    return next(words for words in chain([wanted], numbered) if words not in taken)
