"""The one place where rows of the kit become values of the engine."""

from desk.address import Setup
from engine import File, Scenario
from engine import Slot as EngineSlot
from engine.standards import Bus, EffectiveWrite, Form, effective_write, slot_form
from kit.models import Card, Slot

MB_IN_GB = 1_000


def write_speed(card: Card, slot: Slot) -> EffectiveWrite:
    """What `card` and `slot`, which must take its form, reach together."""
    taken_as = slot_form(Form(card.form))
    (slot_bus,) = (taken.bus for taken in slot.accepted_forms.all() if taken.form == taken_as)
    return effective_write(card.sustained_write_mb_s, slot.cap_mb_s, Bus(card.bus), Bus(slot_bus))


def scenario_of(setup: Setup, card: Card) -> Scenario:
    """The hold that `setup` describes, writing to `card`.

    Raises InvalidScenario when the kit's figures contradict each other, as where memory can't
    hold one frame.
    """
    recording, slot = setup.recording, setup.slot
    return Scenario(
        frame_rate_fps=setup.rate.fps,
        hold_s=setup.hold_s,
        memory_mb=setup.body.memory_mb,
        held_mb=recording.held_mb,
        process_fps=recording.process_fps,
        files=tuple(File(name=file.name, mb=file.file_mb) for file in recording.files.all()),
        slots=(
            EngineSlot(
                write_mb_s=write_speed(card, slot).mb_s,
                overhead_s=slot.overhead_s,
                free_mb=setup.room_gb * MB_IN_GB,
            ),
        ),
        resume_free_frames=setup.body.resume_free_frames,
    )
