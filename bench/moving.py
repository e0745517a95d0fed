"""Runs go along when their body moves: into a copy, or from a guest to an account.

A body or card that was tested can't be removed.
"""

from collections.abc import Mapping, Sequence
from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser
from django.db import transaction
from django.dispatch import receiver

from accounts.guests import moved_in, no_room
from bench.models import Run, readings_of
from kit import edit
from kit.document import BadDocument
from kit.models import Body, Card, KitItem, Revision
from setups import keys


def copy_with_runs(body: Body, owner: AbstractBaseUser) -> Revision:
    """A copy of a body of the sample kit, and of the cards of its runs, which go along with it."""
    with transaction.atomic():
        readings = readings_of(Run.objects.made_by(owner).filter(body=body), owner)
        revision = edit.duplicate(body, owner)
        slugs: dict[str, str] = {}
        for run, reading in readings:
            if reading is None:
                continue
            for card in (side.fitted for side in reading.setup.sides):
                if card.is_sample and card.slug not in slugs:
                    slugs[card.slug] = edit.duplicate(card, owner).changed.slug
            _move(run, revision.changed, slugs)
        return revision


@receiver(moved_in)
def move_runs(
    guest: AbstractBaseUser,
    account: AbstractBaseUser,
    became: Sequence[tuple[KitItem, KitItem]],
    **_: Any,
) -> None:
    """The runs of a guest are of what the account has of their bodies and cards.

    Raises Refused where the account has no room for them; then nothing moves.
    """
    moving = Run.objects.filter(owner_id=guest.pk).with_moments()
    strokes = sum(len(run.strokes_s) for run in moving)
    if words := Run.objects.made_by(account).no_room_words(len(moving), strokes):
        raise no_room(words)
    bodies = {before.pk: now for before, now in became if isinstance(now, Body)}
    slugs = {before.slug: now.slug for before, now in became if isinstance(now, Card)}
    for run in moving.select_related("body"):
        _move(run, bodies.get(run.body_id, run.body), slugs)


@receiver(edit.removing)
def keep_what_was_tested(item: KitItem, **_: Any) -> None:
    """Refuses to have a body or card removed that runs are of."""
    runs = Run.objects.filter(owner_id=item.owner_id)
    if isinstance(item, Body):
        runs = runs.filter(body=item)
    elif isinstance(item, Card):
        runs = runs.on_card(item.slug)
    else:
        return
    if runs.exists():
        raise BadDocument({"all": f"Runs on the Bench are of the {item}: archive it instead."})


def _move(run: Run, body: KitItem, slugs: Mapping[str, str]) -> None:
    """Makes it a run of `body`, with cards that are called by other `slugs` now."""
    bodies = {run.address[keys.BODY]: body.slug}
    run.setup, run.body_id = keys.renamed(run.setup, bodies, slugs), body.pk
    run.save(update_fields=["setup", "body"])
