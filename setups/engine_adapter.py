"""The one place where rows of the kit become values of the engine."""

import math
from dataclasses import replace
from typing import cast

from engine import File, Scenario
from engine import Slot as EngineSlot
from engine.burst.file_size import DETAIL_OF_SCENE, size_factor, size_spread
from engine.burst.scenario import FRAME_RATE_FPS, Arrangement, Coupling
from engine.cards.standards import (
    CEILING_MB_S,
    Bus,
    EffectiveWrite,
    effective_write,
)
from engine.figures.uncertainty import (
    MEASURED_HERE,
    OF_SOURCE,
    LogNormal,
    LogUniform,
    Source,
    Uncertainty,
)
from engine.quantities import MB_IN_GB
from engine.selection.candidates import Camera, ShootingMode, SlotUse
from engine.selection.candidates import Side as ChoiceSide
from engine.uncertainty.sources import SlotSources, Sources
from kit.engine_adapter import card_alone
from kit.models import Body, Card, RecordedFile, RecordingFormat, Slot, SlotArrangement
from kit.models.body import (
    MEMORY,
    figure_of_cap,
    figure_of_file,
    figure_of_held,
    figure_of_processor,
    figure_of_rate,
)
from setups.setup import Setup, Side


def write_speed(side: Side) -> EffectiveWrite:
    """What card and slot of `side`, which must have a card, reach together."""
    if side.write_mb_s is not None:
        return EffectiveWrite(side.write_mb_s, "typed")
    card, slot = side.fitted, side.slot
    bus = _bus(side)
    return effective_write(card.sustained_write_mb_s, slot.cap_mb_s, bus, bus)


def most_mb_s(slot: Slot) -> float | None:
    """The most that `slot` passes with any card that fits; None when nobody knows its cap."""
    if slot.cap_mb_s is None:
        return None
    buses = [CEILING_MB_S[Bus(taken.bus)] for taken in slot.accepted_forms.all()]
    return min(slot.cap_mb_s, max(buses, default=math.inf))


def scenario_of(setup: Setup) -> Scenario:
    """The hold that `setup`, which must be complete, describes.

    Raises InvalidScenario when the kit's figures contradict each other, as where memory can't
    hold one frame.
    """
    recording, arrangement = setup.recording, setup.arrangement
    return Scenario(
        frame_rate_fps=_frame_rate(setup)[0],
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
    """How sure the numbers of `setup`, which must be complete, are."""
    recording, arrangement = setup.recording, setup.arrangement
    return Sources(
        slots=tuple(_slot_sources(side) for side in setup.sides),
        frame_rate_fps=_frame_rate(setup)[1],
        held_mb=_held_source(setup),
        files=_file_source(setup),
        file_to_file=_file_to_file(recording),
        memory_mb=_memory_source(setup.body),
        process_fps=_encoder_source(setup),
        knows_coupling=_knows_coupling(arrangement),
    )


def shooting_mode_of(setup: Setup) -> ShootingMode:
    """Format and frame rate of `setup`, over its scene; its cards are left aside."""
    recording = setup.recording
    fps, rate_source = _frame_rate(setup)
    return ShootingMode(
        name=f"{recording.slug} at {setup.rate.fps:g}",
        frame_rate_fps=fps,
        files=_files(setup),
        held_mb=recording.held_mb,
        process_fps=recording.process_fps,
        rate_source=rate_source,
        held_source=_held_source(setup),
        file_source=_file_source(setup),
        encoder_source=_encoder_source(setup),
        file_to_file=_file_to_file(recording),
    )


def camera_of(body: Body) -> Camera:
    """The body of a choice; with one slot all goes to that."""
    uses = tuple(
        SlotUse(
            cast("Arrangement", one.kind),
            cast("Coupling", one.coupling),
            _knows_coupling(one),
        )
        for one in body.arrangements.all()
    )
    return Camera(
        memory_mb=body.memory_mb,
        uses=uses or (SlotUse("single", "parallel"),),
        memory_source=_memory_source(body),
        resume_free_frames=body.resume_free_frames,
        locks_playback=body.locks_playback,
    )


def choice_side(side: Side) -> ChoiceSide:
    """A card in a slot as `engine.selection.choice` evaluates it."""
    return ChoiceSide(slot=_slot(side), sources=_slot_sources(side))


def _files(setup: Setup) -> tuple[File, ...]:
    most_mb = _uncompressed_mb(setup.body)
    return tuple(
        File(name=file.name, mb=_file_mb(setup, file, most_mb))
        for file in setup.recording.files.all()
    )


def _file_mb(setup: Setup, file: RecordedFile, most_mb: float) -> float:
    """The size of one file over the scene; a compressed RAW never exceeds an uncompressed one."""
    iso_step, detail_step = _steps(setup)
    factor = size_factor(
        setup.iso, DETAIL_OF_SCENE[setup.scene], iso_step, detail_step, smoothed=_smoothed(file)
    )
    size_mb = file.file_mb * factor
    return min(size_mb, max(most_mb, file.file_mb)) if file.name == "raw" else size_mb


def _uncompressed_mb(body: Body) -> float:
    """The largest RAW of `body` whose size follows neither ISO nor scene; infinite without one."""
    sizes = [
        file.file_mb
        for recording in body.formats.all()
        for file in recording.files.all()
        if file.name == "raw" and not recording.iso_step and not recording.detail_step
    ]
    return max(sizes, default=math.inf)


def _steps(setup: Setup) -> tuple[float, float]:
    """What a stop of ISO and a step of detail add to a file, as typed or as the format has it."""
    recording = setup.recording
    return (
        _or_typed(recording.iso_step, setup.iso_percent),
        _or_typed(recording.detail_step, setup.detail_percent),
    )


def _smoothed(file: RecordedFile) -> bool:
    """Whether noise is reduced before the file is compressed."""
    return file.name != "raw"


def _largest_file(recording: RecordingFormat) -> RecordedFile:
    return max(recording.files.all(), key=lambda file: file.file_mb)


def _file_source(setup: Setup) -> Uncertainty:
    """How sure the mean file size is: where it is from, and the rule of ISO and scene."""
    largest = _largest_file(setup.recording)
    of_rule = size_spread(
        setup.iso, DETAIL_OF_SCENE[setup.scene], *_steps(setup), smoothed=_smoothed(largest)
    )
    figure = figure_of_file(setup.recording.slug, largest.name)
    of_size = _sure(setup.body, figure, largest.file_mb, largest.source)
    return LogNormal.product(of_size, LogNormal(of_rule)) if of_rule else of_size


def _memory_source(body: Body) -> Uncertainty:
    return _sure(body, MEMORY, body.memory_mb, body.memory_source)


def _frame_rate(setup: Setup) -> tuple[float, Uncertainty]:
    """Frames a second, and how sure they are: as runs have shown, not as the camera is set to."""
    rate = setup.rate
    sure = _sure(setup.body, figure_of_rate(rate.fps), rate.fps, rate.source)
    return min(rate.fps * sure.middle, FRAME_RATE_FPS.highest), sure.around_middle


def _held_source(setup: Setup) -> Uncertainty:
    recording = setup.recording
    figure = figure_of_held(recording.slug)
    return _sure(setup.body, figure, recording.held_mb, recording.held_source)


def _cap_source(slot: Slot) -> Uncertainty:
    if slot.cap_mb_s is None:
        return MEASURED_HERE
    record = slot.body.record_of(figure_of_cap(slot.number), slot.cap_mb_s, slot.cap_source)
    if record is None:
        return OF_SOURCE[cast("Source", slot.cap_source)]
    sure = record.uncertainty
    return LogUniform.of_spread(sure.spread) if isinstance(sure, LogNormal) else sure


def _sure(body: Body, figure: str, value: float | None, source: str) -> Uncertainty:
    """How sure a figure is: by its source, or by the estimate or the runs that it comes from."""
    record = body.record_of(figure, value, source)
    return record.uncertainty if record else OF_SOURCE[cast("Source", source)]


def _knows_coupling(arrangement: SlotArrangement | None) -> bool:
    return arrangement is None or arrangement.source != "estimated"


def _file_to_file(recording: RecordingFormat) -> float:
    largest = _largest_file(recording)
    return largest.spread_mb / largest.file_mb


def _encoder_source(setup: Setup) -> Uncertainty:
    recording = setup.recording
    if recording.process_fps is None:
        return MEASURED_HERE
    figure = figure_of_processor(recording.slug)
    return _sure(setup.body, figure, recording.process_fps, recording.process_source)


def _or_typed(step: float, percent: float | None) -> float:
    return step if percent is None else percent / 100


def _slot_sources(side: Side) -> SlotSources:
    card, slot = side.fitted, side.slot
    source = cast("Source", card.source_in(slot.body).value)
    return SlotSources(
        write_mb_s=MEASURED_HERE if side.write_mb_s is not None else _write_source(card, source),
        slot_limit_mb_s=_cap_source(slot),
        overhead_s=OF_SOURCE[cast("Source", slot.overhead_source)],
        cache_mb=OF_SOURCE[source],
    )


def _write_source(card: Card, source: Source) -> Uncertainty:
    """How sure the sustained write is; what was learnt in one body is less sure in another."""
    if learnt := card.learnt:
        if source == "measured_here":
            return learnt.together or LogUniform.of_spread(learnt.spread)
        return LogUniform.of_spread(math.hypot(learnt.spread, OF_SOURCE[source].spread))
    if card.sustained_spread is not None:
        return LogUniform.of_spread(card.sustained_spread)
    return OF_SOURCE[source]


def _slot(side: Side) -> EngineSlot:
    """What card and slot do together; a typed speed is that of both."""
    card, slot = card_alone(side.fitted), side.slot
    together = replace(card, overhead_s=slot.overhead_s, free_mb=side.room_gb * MB_IN_GB)
    if side.write_mb_s is not None:
        return replace(together, write_mb_s=side.write_mb_s, cache_mb=0.0, cache_write_mb_s=None)
    return replace(together, slot_limit_mb_s=slot.cap_mb_s, bus_mb_s=CEILING_MB_S[_bus(side)])


def _bus(side: Side) -> Bus:
    """The bus that card and slot agree on; raises ValueError where the card doesn't go in."""
    bus = side.fit.bus
    if bus is None:
        raise ValueError(f"{side.slot} takes no {side.fitted.form}")
    return bus
