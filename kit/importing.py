"""A kit from a file: first what saving it would do, row by row; then all of it or nothing."""

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser
from django.db import IntegrityError, transaction
from django.db.models import F

from engine.typed_numbers import as_typed
from kit.document import (
    KINDS,
    BadDocument,
    build,
    document_of,
    own_fields,
    place_in_words,
    save_parts,
    with_parts,
)
from kit.earlier_documents import brought_up_to_date
from kit.edit import RESERVED_SLUG, slug_for
from kit.kit_file import Entry
from kit.models import ImportState, KitItem, PendingImport, Revision
from kit.models.shared import LONGEST_SLUG
from kit.numbers import words_of

CHUNK = 1_000  # rows checked in one go, which takes about a second
LONGEST_WHY = 1_000


class Action(StrEnum):
    """What saving an entry would do."""

    ADD = "add"
    CHANGE = "change"
    SAME = "same"
    SKIP = "skip"


DONE_WORDS = {
    Action.ADD: "added",
    Action.CHANGE: "changed",
    Action.SKIP: "skipped",
    Action.SAME: "left as they are",
}
CHANGED_MEANWHILE = "Your kit has changed since the file was checked: it is checked again."


class OutOfDate(Exception):
    """The kit has changed since the file was checked against it."""


@dataclass(frozen=True)
class Planned:
    """What saving one entry would do, to which item, and why."""

    action: Action
    name: str
    why: str
    version: int | None = None

    def values(self) -> list[Any]:
        """As a pending import keeps it."""
        return [self.action, self.name, self.why, self.version]


def receive(owner: AbstractBaseUser, file_name: str, entries: Sequence[Entry]) -> PendingImport:
    """Keeps the entries of a file until they are checked; an earlier file is forgotten."""
    for entry in entries:
        slug = str(entry.document.get("slug") or "")[:LONGEST_SLUG]
        entry.document["slug"] = slug or slug_for(KINDS[entry.kind], entry.document)
    PendingImport.objects.filter(owner_id=owner.pk).delete()
    return PendingImport.objects.create(
        owner_id=owner.pk,
        file_name=file_name[:100],
        entries=[
            [entry.kind, entry.place, brought_up_to_date(KINDS[entry.kind], entry.document)]
            for entry in entries
        ],
        entry_count=len(entries),
        row_count=sum(_rows_in(entry.document) for entry in entries),
    )


def is_long(pending: PendingImport) -> bool:
    """Whether to check or to save it takes longer than a request may."""
    return pending.row_count > CHUNK


class Check:
    """The entries of a file held against the kit, some thousand rows after the other."""

    def __init__(self, pending: PendingImport) -> None:
        self.pending = pending
        self.entries = [Entry(*values) for values in pending.entries]
        self.in_file = Counter((entry.kind, entry.document["slug"]) for entry in self.entries)
        self.in_file.update((entry.kind, _names(entry)) for entry in self.entries)

    def next(self) -> bool:
        """Checks the next entries and keeps what came of it; False: the file is gone."""
        pending = self.pending
        chunk = list(_first_rows(self.entries[len(pending.plan) :]))
        checker = _Checker(pending.owner, self.in_file, chunk)
        pending.plan += [checker.planned(entry).values() for entry in chunk]
        pending.checked_count = len(pending.plan)
        kept = PendingImport.objects.filter(pk=pending.pk)
        return bool(kept.update(plan=pending.plan, checked_count=pending.checked_count))


def check_next(pending: PendingImport) -> bool:
    """Checks the next entries of a file, all of a short one; False: it is gone."""
    return Check(pending).next()


def _first_rows(entries: Iterable[Entry]) -> Iterator[Entry]:
    """The first of `entries`, one at least, that have CHUNK rows together."""
    left = CHUNK
    for entry in entries:
        yield entry
        left -= _rows_in(entry.document)
        if left <= 0:
            return


def _rows_in(document: Any) -> int:
    """A row, and all that belong to it."""
    parts = document.values() if isinstance(document, dict) else ()
    return 1 + sum(_rows_in(row) for part in parts if isinstance(part, list) for row in part)


def ask_to_save(pk: int) -> bool:
    """Marks a checked file as one to be saved; False where it is not there to be saved."""
    checked = PendingImport.objects.filter(pk=pk, state=ImportState.RECEIVED)
    checked = checked.filter(checked_count=F("entry_count"))
    return bool(checked.update(state=ImportState.SAVING, words=""))


def forget(pk: int) -> bool:
    """Drops a file; False where it is being saved, or is saved."""
    unsaved = (ImportState.RECEIVED, ImportState.FAILED)
    dropped, _ = PendingImport.objects.filter(pk=pk, state__in=unsaved).delete()
    return bool(dropped)


def save(pk: int) -> None:
    """Saves what was planned, all of it or nothing, and notes what came of it.

    Where the kit is no longer as it was when the file was checked, it is to be checked again. Does
    nothing where nobody has asked for it, or it is saved.
    """
    try:
        with transaction.atomic():
            waiting = PendingImport.objects.select_for_update(no_key=True, of=("self",))
            pending = waiting.filter(pk=pk, state=ImportState.SAVING).first()
            if pending is None:
                return
            counts = _save_all(pending)
            done = ", ".join(f"{counts[action]} {words}" for action, words in DONE_WORDS.items())
            pending.state, pending.words = ImportState.SAVED, f"{pending.file_name}: {done}."
            pending.entries, pending.plan = [], []
            pending.save()
    except OutOfDate:
        PendingImport.objects.filter(pk=pk).update(
            state=ImportState.RECEIVED, plan=[], checked_count=0, words=CHANGED_MEANWHILE
        )


def _save_all(pending: PendingImport) -> Counter[Action]:
    planned = [
        (Entry(*entry), Planned(*plan))
        for entry, plan in zip(pending.entries, pending.plan, strict=True)
    ]
    try:
        for kind in KINDS:
            of_kind = [pair for pair in planned if pair[0].kind == kind]
            _add(pending.owner, kind, [e for e, p in of_kind if p.action == Action.ADD])
            _change(
                pending.owner, kind, [pair for pair in of_kind if pair[1].action == Action.CHANGE]
            )
    except (IntegrityError, BadDocument) as error:
        raise OutOfDate from error
    return Counter(Action(plan.action) for _, plan in planned)


class _Checker:
    """What a chunk of entries is held against, fetched in a fixed number of queries."""

    def __init__(
        self, owner: AbstractBaseUser, in_file: Counter[tuple[str, Any]], chunk: Sequence[Entry]
    ) -> None:
        self.owner, self.in_file = owner, in_file
        self.slug_of: dict[tuple[str, Any], str] = {}
        self.items: dict[tuple[str, str], KitItem] = {}
        for kind, model in KINDS.items():
            slugs = [entry.document["slug"] for entry in chunk if entry.kind == kind]
            own = model.objects.owned_by(owner)
            for *names, slug in own.values_list(*model.named_by, "slug") if slugs else ():
                self.slug_of[kind, tuple(names)] = slug
            for item in with_parts(own.filter(slug__in=slugs)) if slugs else ():
                self.items[kind, item.slug] = item

    def planned(self, entry: Entry) -> Planned:
        """What saving `entry` would do."""
        slug, names = entry.document["slug"], _names(entry)
        said = " ".join(str(name) for name in names if name) or "without a name"
        if slug == RESERVED_SLUG:
            return Planned(Action.SKIP, said, f"“{slug}” is an address of Ondata's own.")
        if self.in_file[entry.kind, slug] > 1 or self.in_file[entry.kind, names] > 1:
            return Planned(Action.SKIP, said, "The file lists it more than once.")
        if self.slug_of.get((entry.kind, names), slug) != slug:
            return Planned(
                Action.SKIP,
                said,
                f"You have one of that name, as “{self.slug_of[entry.kind, names]}”.",
            )
        item = self.items.get((entry.kind, slug)) or KINDS[entry.kind](owner_id=self.owner.pk)
        before = document_of(item) if item.pk else None
        try:
            after = build(item, entry.document).document()
        except BadDocument as error:
            faults = (_fault_in_words(place, fault) for place, fault in error.faults.items())
            return Planned(Action.SKIP, said, " ".join(faults)[:LONGEST_WHY])
        if before is None:
            return Planned(Action.ADD, str(item), "")
        changes = [_change_in_words(key, before[key], value) for key, value in after.items()
                   if before[key] != value]  # fmt: skip
        if not changes:
            return Planned(Action.SAME, str(item), "")
        return Planned(Action.CHANGE, str(item), "; ".join(changes), item.version)


def _names(entry: Entry) -> tuple[Any, ...]:
    return tuple(str(entry.document.get(name) or "") for name in KINDS[entry.kind].named_by)


def _fault_in_words(place: str, fault: str) -> str:
    """A fault with its place, which is not said twice: "Capacity must be ..." names its field."""
    parent, _, field = place_in_words(place).rpartition(", ")
    where = parent if fault.lower().startswith(field) else place_in_words(place)
    return f"{where.capitalize()}: {fault}" if where else fault


def _change_in_words(key: str, before: Any, after: Any) -> str:
    words = words_of(key).lower()
    if isinstance(after, list):
        return f"{words} ({len(before)} before, {len(after)} now)"
    return f"{words} from {_said(before)} to {_said(after)}"


def _said(value: Any) -> str:
    if value in (None, ""):
        return "nothing"
    return as_typed(value) if isinstance(value, float) else str(value)


def _add(owner: AbstractBaseUser, kind: str, entries: Sequence[Entry]) -> None:
    model = KINDS[kind]
    trees = [build(model(owner_id=owner.pk), entry.document) for entry in entries]
    model.objects.bulk_create([tree.row for tree in trees])
    save_parts(trees, replacing=False)
    Revision.objects.bulk_create(
        Revision(owner_id=owner.pk, item=tree.row, version=tree.row.version,
                 words=f"{tree.row} added from a file") for tree in trees
    )  # fmt: skip


def _change(owner: AbstractBaseUser, kind: str, pairs: Sequence[tuple[Entry, Planned]]) -> None:
    model = KINDS[kind]
    versions = {entry.document["slug"]: plan.version for entry, plan in pairs}
    documents = {entry.document["slug"]: entry.document for entry, _ in pairs}
    locked = model.objects.owned_by(owner).filter(slug__in=versions).select_for_update(no_key=True)
    items = list(with_parts(locked))
    if {item.slug: item.version for item in items} != versions:
        raise OutOfDate
    revisions, trees = [], []
    for item in items:
        before = document_of(item)
        trees.append(build(item, documents[item.slug]))
        item.version += 1
        revisions.append(
            Revision(
                owner_id=owner.pk,
                item=item,
                before=before,
                was_archived=item.archived_at is not None,
                version=item.version,
                words=f"{item} changed from a file",
            )
        )
    names = [field.name for field in own_fields(model)]
    # Many times faster than bulk_update, which writes a CASE for every field of every row.
    model.objects.bulk_create(  # type: ignore[misc]  # the abstract item has no id yet
        [tree.row for tree in trees],
        update_conflicts=True,
        update_fields=[*names, "version"],
        unique_fields=["id"],
    )
    save_parts(trees, replacing=True)
    Revision.objects.bulk_create(revisions)
