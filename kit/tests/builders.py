"""Valid rows of the kit; a test names only what it is about."""

from itertools import count
from typing import Any

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
    Source,
)

_number = count(1)


def body(**changes: Any) -> Body:
    """An unsaved body."""
    number = next(_number)
    defaults = {
        "slug": f"body-{number}", "maker": "Varnholt", "name": f"V{number}",
        "memory_mb": 1200, "memory_source": Source.MEASURED_HERE,
    }  # fmt: skip
    return Body(**defaults | changes)


def card(**changes: Any) -> Card:
    """An unsaved CFexpress B card."""
    number = next(_number)
    defaults = {
        "slug": f"card-{number}", "maker": "Gravelock", "name": f"Tide {number}",
        "form": "CFexpress B", "bus": "PCIe 3 x2", "capacity_gb": 512,
        "sustained_write_mb_s": 230, "sustained_source": Source.MEASURED_ELSEWHERE,
    }  # fmt: skip
    return Card(**defaults | changes)


def shutter_mode(owner: Body, **changes: Any) -> ShutterMode:
    return ShutterMode(**{"body": owner, "number": 1, "name": "electronic"} | changes)


def frame_rate(mode: ShutterMode, **changes: Any) -> FrameRate:
    return FrameRate(**{"mode": mode, "number": 1, "fps": 20, "source": Source.PRINTED} | changes)


def slot(owner: Body, **changes: Any) -> Slot:
    return Slot(**{"body": owner, "number": 1} | changes)


def arrangement(owner: Body, **changes: Any) -> SlotArrangement:
    defaults = {
        "body": owner, "number": 1, "kind": "mirror", "coupling": "parallel",
        "source": Source.MEASURED_HERE,
    }  # fmt: skip
    return SlotArrangement(**defaults | changes)


def accepted_form(owner: Slot, **changes: Any) -> AcceptedForm:
    return AcceptedForm(**{"slot": owner, "form": "CFexpress B", "bus": "PCIe 3 x2"} | changes)


def recording_format(owner: Body, **changes: Any) -> RecordingFormat:
    defaults = {"body": owner, "number": 1, "slug": "raw", "name": "lossless RAW"}
    return RecordingFormat(**defaults | changes)


def recorded_file(owner: RecordingFormat, **changes: Any) -> RecordedFile:
    defaults = {
        "format": owner, "number": 1, "name": "raw", "file_mb": 50, "spread_mb": 4,
        "source": Source.MEASURED_HERE,
    }  # fmt: skip
    return RecordedFile(**defaults | changes)


def saved(row: Any) -> Any:
    row.save()
    return row


def ready_body(**changes: Any) -> Body:
    """A saved body with everything that a set-up chooses from."""
    ready = saved(body(**changes))
    saved(frame_rate(saved(shutter_mode(ready))))
    saved(accepted_form(saved(slot(ready))))
    saved(recorded_file(saved(recording_format(ready))))
    return ready
