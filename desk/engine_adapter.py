"""The one place where rows of the kit become values of the engine."""

from dataclasses import replace
from typing import cast

from desk.setup import Setup, Side
from engine import File, Scenario
from engine import Slot as EngineSlot
from engine.candidates import Camera, Way
from engine.candidates import Side as ChoiceSide
from engine.confidence import Source, Sources
from engine.scenario import Arrangement, Coupling
from engine.scene import DETAIL_OF_SCENE, size_factor
from engine.standards import Bus, EffectiveWrite, effective_write
from engine.units import MB_IN_GB
from kit.models import Body, Card, RecordedFile, RecordingFormat, Slot


def write_speed(side: Side) -> EffectiveWrite:
    """What card and slot of `side`, which must have a card, reach together."""
    if side.write_mb_s is not None:
        return EffectiveWrite(side.write_mb_s, "typed")
    return _effective(side.fitted, side.slot, side.fitted.sustained_write_mb_s)


def cached_mb_s(side: Side) -> float | None:
    """What card and slot reach together while the card's cache takes it; None without one."""
    speed_mb_s = side.fitted.cache_write_mb_s
    if speed_mb_s is None or side.write_mb_s is not None:
        return None
    return _effective(side.fitted, side.slot, speed_mb_s).mb_s


def slot_limit_mb_s(side: Side) -> float | None:
    """The most that the slot passes with any card of that form; None when nobody knows."""
    if side.slot.cap_mb_s is None or side.write_mb_s is not None:
        return None
    return _effective(side.fitted, side.slot, float("inf")).mb_s


def scenario_of(setup: Setup) -> Scenario:
    """The hold that `setup`, which must be complete, describes.

    Raises InvalidScenario when the kit's figures contradict each other, as where memory can't
    hold one frame.
    """
    recording, arrangement = setup.recording, setup.arrangement
    return Scenario(
        frame_rate_fps=setup.rate.fps,
        hold_s=setup.hold_s,
        memory_mb=setup.body.memory_mb,
        held_mb=recording.held_mb,
        process_fps=recording.process_fps,
        files=_files(setup),
        slots=tuple(_slot(side) for side in setup.sides),
        arrangement=cast("Arrangement", arrangement.kind if arrangement else "single"),
        coupling=cast("Coupling", arrangement.coupling if arrangement else "parallel"),
        resume_free_frames=setup.body.resume_free_frames,
    )


def sources_of(setup: Setup) -> Sources:
    """Where the numbers of `setup`, which must be complete, came from."""
    largest = _largest_file(setup.recording)
    return Sources(
        file_size=cast("Source", largest.source),
        write=tuple(_write_source(side) for side in setup.sides),
        memory=cast("Source", setup.body.memory_source),
        encoder=_encoder_source(setup.recording),
        frame_to_frame=largest.spread_mb / largest.file_mb,
    )


def way_of(setup: Setup) -> Way:
    """Format and frame rate of `setup`, over its scene; its cards are left aside."""
    recording, largest = setup.recording, _largest_file(setup.recording)
    return Way(
        name=f"{recording.slug} at {setup.rate.fps:g}",
        frame_rate_fps=setup.rate.fps,
        files=_files(setup),
        held_mb=recording.held_mb,
        process_fps=recording.process_fps,
        file_source=cast("Source", largest.source),
        encoder_source=_encoder_source(recording),
        frame_to_frame=largest.spread_mb / largest.file_mb,
    )


def camera_of(body: Body) -> Camera:
    """The body of a choice; with one slot all goes to that."""
    arrangements = tuple(
        (cast("Arrangement", one.kind), cast("Coupling", one.coupling))
        for one in body.arrangements.all()
    )
    return Camera(
        memory_mb=body.memory_mb,
        arrangements=arrangements or (("single", "parallel"),),
        memory_source=cast("Source", body.memory_source),
        resume_free_frames=body.resume_free_frames,
        locks_playback=body.locks_playback,
    )


def choice_side(side: Side) -> ChoiceSide:
    """A card in a slot as `engine.choose` weighs it."""
    return ChoiceSide(
        slot=_slot(side),
        source=_write_source(side),
        own_pace=write_speed(side).set_by == "card",
    )


def _files(setup: Setup) -> tuple[File, ...]:
    recording = setup.recording
    iso_step = _or_typed(recording.iso_step, setup.iso_percent)
    detail_step = _or_typed(recording.detail_step, setup.detail_percent)
    factor = size_factor(setup.iso, DETAIL_OF_SCENE[setup.scene], iso_step, detail_step)
    return tuple(File(name=file.name, mb=file.file_mb * factor) for file in recording.files.all())


def _largest_file(recording: RecordingFormat) -> RecordedFile:
    return max(recording.files.all(), key=lambda file: file.file_mb)


def _encoder_source(recording: RecordingFormat) -> Source:
    return cast("Source", recording.process_source or "measured_here")


def _or_typed(step: float, percent: float | None) -> float:
    return step if percent is None else percent / 100


def _write_source(side: Side) -> Source | float:
    set_by = write_speed(side).set_by
    if set_by == "typed":
        return "measured_here"
    if set_by == "slot":
        return cast("Source", side.slot.cap_source)
    if set_by == "bus":
        return "printed"
    spread = side.fitted.sustained_spread
    return cast("Source", side.fitted.sustained_source) if spread is None else spread


def _slot(side: Side) -> EngineSlot:
    card = side.fitted
    slot = EngineSlot(
        write_mb_s=write_speed(side).mb_s,
        overhead_s=side.slot.overhead_s,
        free_mb=side.room_gb * MB_IN_GB,
        slow_below_free_mb=card.slow_below_free_gb * MB_IN_GB,
        slow_factor=card.slow_factor,
        slot_limit_mb_s=slot_limit_mb_s(side),
    )
    cached = cached_mb_s(side)
    if cached is None:
        return slot
    return replace(slot, cache_mb=card.cache_gb * MB_IN_GB, cache_write_mb_s=cached)


def _effective(card: Card, slot: Slot, card_mb_s: float) -> EffectiveWrite:
    (slot_bus,) = (t.bus for t in slot.accepted_forms.all() if t.form == card.form_taken)
    return effective_write(card_mb_s, slot.cap_mb_s, Bus(card.bus), Bus(slot_bus))
