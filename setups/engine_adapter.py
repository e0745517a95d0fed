"""The one place where rows of the kit become values of the engine."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import cast

from engine import File, LoadedSlot, Scenario
from engine.burst.arrangement import Arrangement
from engine.burst.file_size import DETAIL_OF_SCENE, size_factor, size_spread
from engine.burst.scenario import FRAME_RATE_FPS, Coupling
from engine.cards.standards import CEILING_MB_S, Bus, EffectiveWrite
from engine.estimates.encoder import unknown_encoder
from engine.estimates.in_common import files_in_common, held_in_common
from engine.figures.figure import Figure
from engine.figures.key import Factor, FigureKey
from engine.figures.uncertainty import MEASURED_HERE, LogNormal, Uncertainty
from engine.measurement.assumed import figures_of
from engine.quantities import MB_IN_GB
from engine.selection.candidates import Camera, CandidateSide, ShootingMode, SlotUse
from engine.uncertainty.model_error import OF_BUFFER, pace
from engine.uncertainty.sources import InCommon, SlotSources, Sources
from kit.engine_adapter import assumed_card, loaded_slot
from kit.models import Body, RecordedFile, RecordingFormat, Slot, Source
from kit.models.body import MEMORY
from setups.setup import Setup, Side

# What those of one format and rate have in common.
OF_FORMAT = ("_figures", "_frame_rate", "_held", "processor", "_files", "_files_uncertainty")

_Loaded = tuple[LoadedSlot, SlotSources]


def write_speed(side: Side) -> EffectiveWrite:
    """What card and slot of `side`, which must have a card, reach together."""
    if side.write_mb_s is not None:
        return EffectiveWrite(side.write_mb_s, "typed")
    if side.fit.usable is None:
        raise ValueError(f"{side.slot} takes no {side.fitted.form}")
    return side.fit.usable


def most_mb_s(slot: Slot) -> float | None:
    """The most that `slot` passes with any card that fits; None when nobody knows its cap."""
    if slot.limit is None:
        return None
    buses = [CEILING_MB_S[Bus(taken.bus)] for taken in slot.accepted_forms.all()]
    return min(slot.limit.value, max(buses, default=math.inf))


def figure_keys_of(setup: Setup, *, covered: bool = False) -> dict[Factor, FigureKey]:
    """Which figure of its body or cards each number of `setup`, which must be complete, is."""
    cards = [(side.slot.number, side.fitted.slug) for side in setup.sides]
    return figures_of(setup.recording.slug, setup.rate.fps, cards, setup.arranged, covered=covered)


def scenario_of(setup: Setup) -> Scenario:
    """The hold that `setup`, which must be complete, describes.

    Raises InvalidScenario when the kit's figures contradict each other, as where memory can't
    hold one frame.
    """
    return SetupFigures(setup).scenario


def sources_of(setup: Setup) -> Sources:
    """How sure the numbers of `setup`, which must be complete, are."""
    return SetupFigures(setup).sources


class FiguresInCommon:
    """Figures of many set-ups of one body, as they are read.

    What several have in common, a format or a card in its slot, is worked out once.
    """

    def __init__(self) -> None:
        self._of_format: dict[tuple[object, ...], SetupFigures] = {}
        self._of_side: dict[tuple[int, Arrangement], tuple[Side, _Loaded]] = {}

    def of(self, setup: Setup) -> "SetupFigures":
        """Those of one set-up; raises ValueError where a slot has no card."""
        figures = SetupFigures(setup)
        over = setup.scene, setup.iso, setup.iso_percent, setup.detail_percent
        asked = setup.recording.pk, setup.rate.fps, *over
        alike = self._of_format.setdefault(asked, figures)
        vars(figures).update({name: getattr(alike, name) for name in OF_FORMAT})
        vars(figures)["_sides"] = [self._loaded(figures, side) for side in setup.sides]
        return figures

    def _loaded(self, figures: "SetupFigures", side: Side) -> _Loaded:
        asked = id(side), figures.setup.arranged
        if asked not in self._of_side:
            self._of_side[asked] = side, figures.loaded(side)  # the side is kept with its identity
        return self._of_side[asked][1]


@dataclass(frozen=True)
class SetupFigures:
    """The figures of a set-up: with what runs have taught, or as they were assumed before."""

    setup: Setup
    with_learnt: bool = True

    @property
    def scenario(self) -> Scenario:
        """The hold; raises as `scenario_of` does."""
        setup = self.setup
        return Scenario(
            frame_rate_fps=self._frame_rate.value,
            hold_s=setup.hold_s,
            memory_mb=self._figures[MEMORY].value,
            held_mb=self._held.value,
            process_fps=self.processor.value,
            files=self._files,
            slots=tuple(slot for slot, _ in self._sides),
            arrangement=setup.arranged,
            coupling=self._coupling[0],
            resume_free_frames=setup.body.resume_free_frames,
        )

    @property
    def sources(self) -> Sources:
        """How sure its numbers are."""
        return Sources(
            slots=tuple(of_slot for _, of_slot in self._sides),
            frame_rate_fps=self._frame_rate.uncertainty,
            held_mb=self._held.uncertainty,
            files=self._files_uncertainty,
            file_to_file=_file_to_file(self.setup.recording),
            memory_mb=self._figures[MEMORY].uncertainty,
            process_fps=self.processor.uncertainty,
            room=OF_BUFFER,
            knows_coupling=self._coupling[1],
            in_common=() if self.with_learnt else tuple(self._in_common()),
        )

    def _in_common(self) -> Iterator[InCommon]:
        """What estimates have in common with those of other formats of the body.

        What runs have taught of several formats belongs together already.
        """
        recording = self.setup.recording
        files = recording.all_files
        if all(file.source == Source.ESTIMATED for file in files):
            yield from files_in_common([self._figures[file.key] for file in files])
        if recording.held_source == Source.ESTIMATED:
            yield from held_in_common(self._held)

    @property
    def mode(self) -> ShootingMode:
        """Format and frame rate over its scene; its cards are left aside."""
        recording = self.setup.recording
        return ShootingMode(
            name=f"{recording.slug} at {self.setup.rate.fps:g}",
            frame_rate_fps=self._frame_rate.value,
            files=self._files,
            held_mb=self._held.value,
            process_fps=self.processor.value,
            rate_source=self._frame_rate.uncertainty,
            held_source=self._held.uncertainty,
            file_source=self._files_uncertainty,
            encoder_source=self.processor.uncertainty,
            file_to_file=_file_to_file(recording),
        )

    @cached_property
    def _sides(self) -> list[_Loaded]:
        """Each slot that it writes to with its card, and how sure their numbers are."""
        return list(map(self.loaded, self.setup.sides))

    def loaded(self, side: Side) -> _Loaded:
        """What card and slot of a side do together; a typed speed is that of both."""
        loaded, sources = loaded_slot(
            side.fitted, side.slot, bus_of(side), self.setup.arranged, with_learnt=self.with_learnt
        )
        loaded = replace(loaded, free_mb=side.room_gb * MB_IN_GB)
        if side.write_mb_s is None:
            return loaded, sources
        typed = LoadedSlot(
            write_mb_s=side.write_mb_s,
            overhead_s=loaded.overhead_s,
            free_mb=loaded.free_mb,
            slow_below_free_mb=loaded.slow_below_free_mb,
            slow_factor=loaded.slow_factor,
        )
        return typed, SlotSources(write_mb_s=MEASURED_HERE, overhead_s=sources.overhead_s)

    @cached_property
    def _figures(self) -> Mapping[FigureKey, Figure]:
        body = self.setup.body
        return body.figures if self.with_learnt else body.assumed

    @cached_property
    def _frame_rate(self) -> Figure:
        """Frames a second as runs have shown, not as the camera is set to."""
        set_to = self._figures[self.setup.rate.key]
        fps = min(set_to.middle, FRAME_RATE_FPS.highest)
        return Figure(fps, set_to.uncertainty.around_middle)

    @cached_property
    def _held(self) -> Figure:
        return self._figures[self.setup.recording.held_key]

    @cached_property
    def processor(self) -> Figure:
        """The frames a second that its processor finishes, estimated where nobody knows."""
        noted = self._figures.get(self.setup.recording.processor_key)
        return noted or unknown_encoder(self.setup.body.usual_fps)

    @property
    def _coupling(self) -> tuple[Coupling, bool]:
        """How the slots share the work, and whether anybody knows that."""
        arrangement = self.setup.arrangement
        if arrangement is None:
            return "parallel", True
        if not self.with_learnt:
            return cast("Coupling", arrangement.coupling), arrangement.is_noted
        return cast("Coupling", arrangement.learnt_coupling), arrangement.knows_coupling

    @cached_property
    def _files(self) -> tuple[File, ...]:
        return tuple(
            File(name=file.name, mb=self._file_mb(file)) for file in self.setup.recording.all_files
        )

    def _file_mb(self, file: RecordedFile) -> float:
        """The size over the scene; a compressed RAW never exceeds an uncompressed one."""
        setup, usual_mb = self.setup, self._figures[file.key].value
        factor = size_factor(
            setup.iso, DETAIL_OF_SCENE[setup.scene], *_steps(setup), smoothed=_smoothed(file)
        )
        size_mb = usual_mb * factor
        return min(size_mb, max(self._uncompressed_mb, usual_mb)) if file.name == "raw" else size_mb

    @cached_property
    def _uncompressed_mb(self) -> float:
        """The largest RAW whose size follows neither ISO nor scene; infinite without one."""
        sizes = [self._figures[key].value for key in self.setup.body.uncompressed_raw_keys]
        return max(sizes, default=math.inf)

    @cached_property
    def _files_uncertainty(self) -> Uncertainty:
        """How sure the mean file size is: where it is from, and the rule of ISO and scene."""
        setup, largest = self.setup, _largest_file(self.setup.recording)
        of_rule = size_spread(
            setup.iso, DETAIL_OF_SCENE[setup.scene], *_steps(setup), smoothed=_smoothed(largest)
        )
        of_size = self._figures[largest.key].uncertainty
        return LogNormal.product(of_size, LogNormal(of_rule)) if of_rule else of_size


def shooting_mode_of(setup: Setup) -> ShootingMode:
    """Format and frame rate of `setup`, over its scene; its cards are left aside."""
    return SetupFigures(setup).mode


def camera_of(body: Body) -> Camera:
    """The body of a choice; with one slot all goes to that."""
    uses = tuple(
        SlotUse(
            one.arrangement,
            cast("Coupling", one.learnt_coupling),
            one.knows_coupling,
        )
        for one in body.arrangements.all()
    )
    return Camera(
        memory_mb=body.memory.value,
        uses=uses or (SlotUse(Arrangement.SINGLE, "parallel"),),
        memory_source=body.memory.uncertainty,
        room_source=OF_BUFFER,
        resume_free_frames=body.resume_free_frames,
        locks_playback=body.locks_playback,
    )


def choice_side(side: Side) -> CandidateSide:
    """A card in a slot, alone, as `engine.selection.choice` evaluates it."""
    slot, sources = loaded_slot(side.fitted, side.slot, bus_of(side))
    return CandidateSide(
        slot=replace(slot, free_mb=side.room_gb * MB_IN_GB),
        sources=sources,
        pace_of_two=pace(Arrangement.MIRROR, is_tested=False),
        is_tested=assumed_card(side.fitted, side.slot.body).is_tested,
    )


def _steps(setup: Setup) -> tuple[float, float]:
    """What a stop of ISO and a step of detail add to a file, as typed or as the format has it."""
    recording = setup.recording
    return (
        _or_typed(recording.iso_step, setup.iso_percent),
        _or_typed(recording.detail_step, setup.detail_percent),
    )


def _or_typed(step: float, percent: float | None) -> float:
    return step if percent is None else percent / 100


def _smoothed(file: RecordedFile) -> bool:
    """Whether noise is reduced before the file is compressed."""
    return file.name != "raw"


def _largest_file(recording: RecordingFormat) -> RecordedFile:
    return max(recording.all_files, key=lambda file: file.file_mb)


def _file_to_file(recording: RecordingFormat) -> float:
    largest = _largest_file(recording)
    return largest.spread_mb / largest.file_mb


def bus_of(side: Side) -> Bus:
    """The bus that card and slot agree on; raises ValueError where the card doesn't go in."""
    bus = side.fit.bus
    if bus is None:
        raise ValueError(f"{side.slot} takes no {side.fitted.form}")
    return bus
