"""The sample kit: a readable file of invented bodies and cards, loaded whole or not at all."""

import tomllib
from pathlib import Path
from typing import Any

from django.core.exceptions import ValidationError
from django.db import models, transaction

from kit.models import (
    AcceptedForm,
    Body,
    Card,
    FrameRate,
    RecordedFile,
    RecordingFormat,
    ShutterMode,
    Slot,
    SlotArrangement,
)

SAMPLE_FILE = Path(__file__).parent / "sample" / "kit.toml"

# Lists inside an entry of the file: the key, the rows it makes and the field that points back.
PARTS: dict[str, tuple[type[models.Model], str]] = {
    "shutter_modes": (ShutterMode, "body"),
    "frame_rates": (FrameRate, "mode"),
    "slots": (Slot, "body"),
    "arrangements": (SlotArrangement, "body"),
    "accepts": (AcceptedForm, "slot"),
    "formats": (RecordingFormat, "body"),
    "files": (RecordedFile, "format"),
}
NUMBERED = {ShutterMode, FrameRate, Slot, SlotArrangement, RecordingFormat, RecordedFile}


class BadKit(ValueError):
    """A kit file with an entry that the models refuse; says which entry and why."""


@transaction.atomic
def load(path: Path = SAMPLE_FILE) -> tuple[int, int]:
    """Replaces the kit by the one in `path`; returns how many bodies and cards it has.

    Raises :class:`BadKit` and leaves everything as it was when an entry is refused.
    """
    kit = tomllib.loads(path.read_text(encoding="utf-8"))
    Body.objects.all().delete()
    Card.objects.all().delete()
    for entry in kit["bodies"]:
        _add(Body, entry, entry["slug"])
    for entry in kit["cards"]:
        _add(Card, entry, entry["slug"])
    return len(kit["bodies"]), len(kit["cards"])


def _add(model: type[models.Model], entry: dict[str, Any], where: str, **parent: Any) -> None:
    own = {key: value for key, value in entry.items() if key not in PARTS}
    row = model(**own, **parent)
    try:
        row.full_clean()
    except ValidationError as error:
        raise BadKit(f"{where}: {'; '.join(error.messages)}") from error
    row.save()
    for key in entry.keys() & PARTS.keys():
        part, points_back = PARTS[key]
        for number, inner in enumerate(entry[key], start=1):
            place = {"number": number} if part in NUMBERED else {}
            _add(part, inner, f"{where}, {key} {number}", **{points_back: row}, **place)
