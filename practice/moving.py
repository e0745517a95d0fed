"""Sessions go along from a guest to an account, where bodies and cards may be called otherwise."""

from collections.abc import Sequence
from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser
from django.dispatch import receiver

from accounts.guests import moved_in, no_room
from kit.models import Body, Card, KitItem
from practice.models import PracticeSession
from setups import keys


@receiver(moved_in)
def move_sessions(
    guest: AbstractBaseUser,
    account: AbstractBaseUser,
    became: Sequence[tuple[KitItem, KitItem]],
    **_: Any,
) -> None:
    """Raises Refused where the account has no room for them; then nothing moves."""
    sessions = list(PracticeSession.objects.filter(owner=guest.pk))
    if words := PracticeSession.objects.made_by(account).no_room_words(len(sessions)):
        raise no_room(words)
    bodies = {before.slug: now.slug for before, now in became if isinstance(now, Body)}
    cards = {before.slug: now.slug for before, now in became if isinstance(now, Card)}
    for session in sessions:
        session.setup = keys.renamed(session.setup, bodies, cards)
    PracticeSession.objects.bulk_update(sessions, ["setup"])
