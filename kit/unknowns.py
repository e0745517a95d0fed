"""Figures of a body that are missing or assumed, and the test that would measure each."""

from collections.abc import Iterator
from dataclasses import dataclass

from kit.models import Body, Source
from kit.models.body import MEMORY

MEASURED = (Source.MEASURED_HERE, Source.MEASURED_ELSEWHERE)
SHOOT_A_HUNDRED = (
    "Shoot a hundred frames of a usual scene and divide the size of the folder by them."
)


@dataclass(frozen=True)
class Unknown:
    """A figure that is missing or only assumed, and the test, from docs/model.md, that tells it."""

    what: str
    test: str


def unknowns(body: Body) -> Iterator[Unknown]:
    """What is missing or assumed, the most telling for a burst first."""
    if not any(mode.frame_rates.all() for mode in body.shutter_modes.all()):
        yield Unknown("No frame rate is noted.", "Type what its maker prints for each shutter.")
    without_files = list(body.formats.filter(files=None))
    if not body.formats.all() and not without_files:
        yield Unknown("No recording format is noted.", SHOOT_A_HUNDRED)
    for recording in without_files:
        yield Unknown(f"The size of the files of {recording.name} is not noted.", SHOOT_A_HUNDRED)
    if body.memory_source not in MEASURED and not body.is_learnt(MEMORY):
        yield Unknown(
            "Its buffer was not measured.",
            "Hold the button well past the wall for T seconds, count the frames F, and time the "
            "card light going out at E seconds: r = F / E, and the buffer holds F - r T frames.",
        )
    for slot in body.slots.all():
        if slot.limit is None:
            yield Unknown(
                f"The most that {slot} writes is not known.",
                "Test cards of different speed in it: a common rate is the body's, not the cards'.",
            )
        if any(taken.from_firmware for taken in slot.accepted_forms.all()) and not body.firmware:
            yield Unknown(
                f"What {slot} takes depends on the firmware, which is not noted.",
                "The camera's menu shows its version.",
            )
    if body.resume_source not in MEASURED:
        yield Unknown(
            "How it goes on once full is assumed.",
            "Listen past the wall: a steady stutter waits for one frame's room, pauses and short "
            "runs wait for more. Count the frames of a run.",
        )
    if body.formats.all() and not any(one.processor for one in body.formats.all()):
        yield Unknown(
            "Whether its processor ever limits is not known.",
            "Test two formats of different size past the wall: the same fps for both mean "
            "that the processor is the limit.",
        )
