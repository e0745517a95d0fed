"""What a pasted text proposes for a new card."""

from typing import Any

from engine.cards.label.parser import LabelReading
from engine.estimates.write_speed import estimate_write
from kit.models import Source

DIGITS_OF_ESTIMATE = 2


def proposal(reading: LabelReading) -> dict[str, Any]:
    """Values for the fields of a card, as far as the text gives any.

    What is no mark is taken for the maker, its first word, and the name.
    """
    face, estimate = reading.face, estimate_write(reading.face)
    maker, *name = [word for word in reading.unread if not word.isdigit()] or [""]
    if face.capacity_gb:
        name.append(f"{face.capacity_gb:.10g}")
    values: dict[str, Any] = {
        "maker": maker[:40],
        "name": " ".join(name)[:40],
        "form": face.form,
        "bus": face.least_bus,
        "capacity_gb": face.capacity_gb,
        "printed_read_mb_s": face.read_mb_s,
        "printed_write_mb_s": face.write_mb_s,
        "adapter": face.adapter,
    }
    if face.sustained_mb_s:
        values |= {
            "sustained_write_mb_s": face.sustained_mb_s,
            "sustained_source": Source.PRINTED,
        }
    elif estimate:
        values |= {
            "sustained_write_mb_s": float(f"{estimate.middle_mb_s:.{DIGITS_OF_ESTIMATE}g}"),
            "sustained_source": Source.ESTIMATED,
        }
    return {key: value for key, value in values.items() if value}
