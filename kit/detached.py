"""Items of the kit that are shown before they are saved, or without ever being saved."""

from collections.abc import Iterator, Mapping
from itertools import count
from typing import Any, TypeVar

from kit.document import PARTS, Tree, build, points_back, usual_document
from kit.models import KitItem

_Item = TypeVar("_Item", bound=KitItem)


def detached(item: _Item, document: Mapping[str, Any]) -> _Item:
    """`item` with all its parts in memory, as if they had been fetched; nothing is saved.

    Keys are negative, so that none is that of a saved row. Raises BadDocument.
    """
    _attach(build(item, usual_document(type(item)) | dict(document)), count(-1, -1))
    return item


def _attach(tree: Tree, keys: Iterator[int]) -> None:
    row = tree.row
    row.pk = next(keys)
    # What Django's prefetch_related fills, and what related managers answer from.
    row._prefetched_objects_cache = {}
    for part in PARTS.get(type(row), ()):
        trees = tree.parts.get(part, [])
        for inner in trees:
            setattr(inner.row, points_back(type(row), part), row)
            _attach(inner, keys)
        rows = getattr(row, part).all()
        rows._result_cache = [inner.row for inner in trees]
        row._prefetched_objects_cache[part] = rows
