"""The sample kit: a readable file of invented things, loaded whole or not at all."""

import tomllib
from pathlib import Path

from django.db import transaction
from django.utils import timezone

from kit import card_classes
from kit.document import KINDS, BadDocument, usual_document, write
from kit.models import Card

SAMPLE_FILE = Path(__file__).parent / "sample" / "kit.toml"


class BadKit(ValueError):
    """A kit file with an entry that the models refuse; says which entry and why."""


@transaction.atomic
def load(path: Path = SAMPLE_FILE) -> dict[str, int]:
    """Makes the sample kit the one in `path`; returns how many items of each kind it has.

    Items are changed by their slugs, so that links to them stay; those that are not in the file are
    archived. What accounts own stays. Raises :class:`BadKit` and leaves everything as it was when
    an entry is refused.
    """
    kit = tomllib.loads(path.read_text(encoding="utf-8"))
    for kind, model in KINDS.items():
        old = {item.slug: item for item in model.objects.of_sample_kit()}
        for entry in kit[kind]:
            item = old.pop(entry["slug"], None) or model()
            item.archived_at = None
            try:
                write(item, usual_document(model) | entry)
            except BadDocument as error:
                raise BadKit(f"{entry['slug']}: {error}") from error
        gone = [item.pk for item in old.values()]
        model.objects.filter(pk__in=gone).update(archived_at=timezone.now())
    load_classes()
    return {kind: len(kit[kind]) for kind in KINDS}


def load_classes() -> None:
    """Makes the cards that stand for a class what they are by today's estimates."""
    old = {card.slug: card for card in Card.objects.filter(of_class=True)}
    for document in card_classes.documents():
        card = old.pop(document["slug"], None) or Card(of_class=True)
        write(card, usual_document(Card) | document)
    Card.objects.filter(pk__in=[card.pk for card in old.values()]).update(
        archived_at=timezone.now()
    )
