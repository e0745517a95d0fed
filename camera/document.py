"""A body of the kit from an estimate: the document that is shown and saved."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from django.utils.text import slugify

from camera.answers_form import USUAL_SLOT, usual_card
from engine.cards.standards import Bus, Form
from engine.estimates.body import BodyEstimate, FormatEstimate
from engine.estimates.file_sizes import FILES_OF_FORMAT
from engine.estimates.write_speed import typical_write
from engine.figures.figure import Figure
from engine.figures.key import FigureKey, FigureKind
from kit.figure_places import row_of
from kit.models import CardState, Source
from kit.models.body import MEMORY

NAMELESS = ("Unnamed", "camera")
DIGITS = 3
TYPICAL_GB = 256
LONGEST_NAME = 40
LONGEST_WHY = 300


def names_of(called: str) -> tuple[str, str]:
    """The maker, the first word, and the name of what a body is called."""
    maker, _, name = called.strip().partition(" ")
    if not maker:
        return NAMELESS
    return (maker[:LONGEST_NAME], (name.strip() or maker)[:LONGEST_NAME])


def body_document(
    called: str,
    rates: Mapping[str, float],
    slots: Sequence[Sequence[tuple[Form, Bus]]],
    estimate: BodyEstimate,
) -> dict[str, Any]:
    """A body as `kit.document.write` takes it, with how each of its figures was estimated."""
    maker, name = names_of(called)
    taken = slots or [USUAL_SLOT]
    return {
        "maker": maker,
        "name": name,
        "memory_mb": _rounded(estimate.memory),
        "memory_source": Source.ESTIMATED.value,
        "shutter_modes": [
            {"name": shutter, "frame_rates": [{"fps": fps, "source": Source.PRINTED.value}]}
            for shutter, fps in rates.items()
        ],
        "slots": [
            {
                "cap_mb_s": _rounded(cap),
                "cap_source": Source.ESTIMATED.value,
                "accepted_forms": [
                    {"form": form.value, "bus": bus.value} for form, bus in accepted
                ],
            }
            for accepted, cap in zip(taken, estimate.slots, strict=True)
        ],
        "formats": [_format(one) for one in estimate.formats],
        "estimates": [
            row_of(key) | _widths(one) | {"why": _why(one)} for key, one in _figures(estimate)
        ],
    }


def typical_card(slot: Sequence[tuple[Form, Bus]]) -> dict[str, Any]:
    """A card made for the fastest of what `slot` takes, of which nothing else is known."""
    form, bus = usual_card(slot)
    speed = typical_write(bus)
    return {
        "maker": "Typical",
        "name": f"{form} {bus} card",
        "form": form.value,
        "bus": bus.value,
        "capacity_gb": TYPICAL_GB,
        "sustained_write_mb_s": round(speed.middle_mb_s),
        "sustained_source": Source.ESTIMATED.value,
        "state": CardState.WANTED.value,
        "remarks": f"Stands for your own. {speed.why} Add yours by its label.",
    }


def _figures(estimate: BodyEstimate) -> Iterator[tuple[FigureKey, Figure]]:
    yield MEMORY, estimate.memory
    for number, cap in enumerate(estimate.slots, start=1):
        yield FigureKey(FigureKind.SLOT, str(number)), cap
    for one in estimate.formats:
        slug = slugify(one.kind)
        yield FigureKey(FigureKind.HELD, slug), one.held
        for rule, size in zip(FILES_OF_FORMAT[one.kind], one.files, strict=True):
            yield FigureKey(FigureKind.FILES, slug, rule.name), size


def _format(one: FormatEstimate) -> dict[str, Any]:
    rules = FILES_OF_FORMAT[one.kind]
    return {
        "slug": slugify(one.kind),
        "name": one.kind.value,
        "held_mb": _rounded(one.held),
        "held_source": Source.ESTIMATED.value,
        "iso_step": rules[0].iso_step,
        "detail_step": rules[0].detail_step,
        "files": [
            {
                "name": rule.name,
                "file_mb": _rounded(size),
                "spread_mb": _rounded(size) * rule.variation,
                "source": Source.ESTIMATED.value,
            }
            for rule, size in zip(rules, one.files, strict=True)
        ],
    }


def _rounded(estimate: Figure) -> float:
    """Its value in no more digits than make sense."""
    return float(f"{estimate.value:.{DIGITS}g}")


def _widths(estimate: Figure) -> dict[str, float]:
    """How far off it may be, as its row has it."""
    numbers = estimate.uncertainty.skewed_numbers
    if numbers is None:
        raise TypeError(f"an estimate is normal on either side: {estimate}")
    below, above, _, tail = numbers
    return {"below": below, "above": above, "tail": tail}


def _why(estimate: Figure) -> str:
    return f"{estimate.why[:1].upper()}{estimate.why[1:]}."[:LONGEST_WHY]
