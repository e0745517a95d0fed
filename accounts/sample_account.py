"""The account that anybody may enter in the sample mode, with a small kit of its own."""

import tomllib
from pathlib import Path

from django.db import transaction
from django.dispatch import Signal

from accounts.models import User
from kit import edit
from kit.document import KINDS

# For apps that this one doesn't know, once the kit of the `user` is made.
made = Signal()
EMAIL = "sample@skerry-head.example"
KIT_FILE = Path(__file__).parent / "sample_account.toml"


@transaction.atomic
def ready() -> User:
    """The sample account; its kit is made, of copies of the sample kit, when it has none."""
    user, new = User.objects.get_or_create(email=EMAIL, defaults={"shows_sample": True})
    if new:
        user.set_unusable_password()
        user.save()
    if any(model.objects.owned_by(user).exists() for model in KINDS.values()):
        return user
    kit = tomllib.loads(KIT_FILE.read_text(encoding="utf-8"))
    for kind, model in KINDS.items():
        for entry in kit[kind]:
            original = model.objects.filter(owner=None).get(slug=entry.pop("copy"))
            edit.copy(original, user, **entry)
    made.send(User, user=user)
    return user
