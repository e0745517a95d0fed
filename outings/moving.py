"""Outings go along from a guest to an account, where bodies and cards may be called otherwise."""

from collections.abc import Sequence
from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser
from django.dispatch import receiver

from accounts.guests import moved_in, no_room
from kit.models import Body, Card, KitItem
from outings.models import MOMENTS, FieldNote, Outing, OutingDay, OutingPlan
from outings.plans.cards import renamed
from setups import keys


@receiver(moved_in)
def move_outings(
    guest: AbstractBaseUser,
    account: AbstractBaseUser,
    became: Sequence[tuple[KitItem, KitItem]],
    **_: Any,
) -> None:
    """Raises Refused where the account has no room for them; then nothing moves."""
    outings = Outing.objects.filter(owner=guest.pk)
    days = OutingDay.objects.filter(outing__in=outings).defer(*MOMENTS)
    frames = sum(day.frames for day in days)
    if words := Outing.objects.made_by(account).no_room_words(frames, outings.count()):
        raise no_room(words)
    bodies = {before.slug: now.slug for before, now in became if isinstance(now, Body)}
    cards = {before.slug: now.slug for before, now in became if isinstance(now, Card)}
    for day in days:
        day.setup = keys.renamed(day.setup, bodies, cards)
        day.save(update_fields=["setup"])
    for plan in OutingPlan.objects.filter(outing__in=outings):
        plan.setup = keys.renamed(plan.setup, bodies, cards)
        plan.cards = renamed(plan.cards, cards)
        plan.save(update_fields=["setup", "cards"])
    noted = list(FieldNote.objects.filter(outing__in=outings, card__in=cards))
    for note in noted:
        note.card = cards[note.card]
    FieldNote.objects.bulk_update(noted, ["card"])
