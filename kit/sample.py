"""The sample kit: a readable file of invented things, loaded whole or not at all."""

import tomllib
from pathlib import Path

from django.db import transaction

from kit.document import KINDS, BadDocument, write

SAMPLE_FILE = Path(__file__).parent / "sample" / "kit.toml"


class BadKit(ValueError):
    """A kit file with an entry that the models refuse; says which entry and why."""


@transaction.atomic
def load(path: Path = SAMPLE_FILE) -> dict[str, int]:
    """Replaces the sample kit by the one in `path`; returns how many items of each kind it has.

    What accounts own stays. Raises :class:`BadKit` and leaves everything as it was when an entry
    is refused.
    """
    kit = tomllib.loads(path.read_text(encoding="utf-8"))
    for kind, model in KINDS.items():
        model.objects.filter(owner=None).delete()
        for entry in kit[kind]:
            try:
                write(model(), entry)
            except BadDocument as error:
                raise BadKit(f"{entry['slug']}: {error}") from error
    return {kind: len(kit[kind]) for kind in KINDS}
