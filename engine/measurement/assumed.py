"""A body before anything was measured: what is assumed of it, and how sure that is.

Whatever nobody told is estimated, by the starting points of docs/model.md.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from engine.burst import scenario as limits
from engine.burst.arrangement import Arrangement
from engine.burst.scenario import Coupling, File, InvalidScenario, Scenario
from engine.estimates.encoder import unknown_encoder
from engine.estimates.file_sizes import MEGAPIXELS, file_sizes, held_size, kinds_of, pixels
from engine.estimates.in_common import files_in_common, held_in_common
from engine.estimates.memory import Frame, usual_memory
from engine.estimates.side import AssumedCard, AssumedSlot, together
from engine.estimates.write_speed import unknown_card
from engine.figures.figure import Figure
from engine.figures.key import OF_CARD, Factor, FigureKey, FigureKind
from engine.figures.uncertainty import (
    EXACT,
    PRINTED,
    SPREAD,
    LogNormal,
    Uncertainty,
)
from engine.quantities import quantity
from engine.uncertainty.model_error import OF_BUFFER
from engine.uncertainty.sources import (
    COUPLING,
    ENCODER,
    FILES,
    FRAME_RATE,
    HELD,
    MEMORY,
    ROOM,
    InCommon,
    Sources,
)

UNKNOWN_HELD, UNKNOWN_HELD_RATIO = LogNormal(0.2), 1.3  # of the files
MAKERS_CARD = "the maker's card"
FILE_TO_FILE = 0.1  # spread of the sizes of files in one burst, where nobody says


@dataclass(frozen=True, kw_only=True)
class AssumedFormat:
    """A recording format; what is None is to be estimated. With `never_waits` no encoder limits."""

    name: str
    files: tuple[File, ...] = ()
    files_uncertainty: Uncertainty = PRINTED
    file_to_file: float = quantity(SPREAD, default=FILE_TO_FILE)
    held_mb: Figure | None = quantity(limits.HELD_MB, default=None)
    process_fps: Figure | None = quantity(limits.PROCESS_FPS, default=None)
    never_waits: bool = False


@dataclass(frozen=True, kw_only=True)
class AssumedBody:
    """Everything that runs and questions name.

    `rates` has the usual one first; `couplings` are those that somebody knows.
    """

    rates: Mapping[float, Uncertainty]
    formats: Mapping[str, AssumedFormat]
    slots: Sequence[AssumedSlot]
    cards: Mapping[str, AssumedCard]
    memory_mb: Figure | None = quantity(limits.MEMORY_MB, default=None)
    megapixels: float | None = quantity(MEGAPIXELS, default=None)
    resume_free_frames: int = quantity(limits.RESUME_FREE_FRAMES, default=1)
    couplings: Mapping[str, Coupling] = field(default_factory=dict)

    @property
    def usual_fps(self) -> float:
        """The rate that is listed first: by how many others are listed nothing is scaled."""
        return next(iter(self.rates))


@dataclass(frozen=True)
class AssumedSetup:
    """A set-up as `Run` and the sweep of predictions take it."""

    scenario: Scenario
    sources: Sources
    figures: dict[Factor, FigureKey]


def setup_of(
    body: AssumedBody,
    *,
    format_name: str,
    frame_rate_fps: float,
    card_names: Sequence[str],
    arrangement: Arrangement = Arrangement.SINGLE,
    hold_s: float,
) -> AssumedSetup:
    """A set-up by the names of its parts; without a card it is one like the maker's.

    Raises :class:`InvalidScenario` with a sentence for each name that the body doesn't have.
    """
    _refuse_unknown(body, format_name, frame_rate_fps, card_names, arrangement)
    recording = body.formats[format_name]
    files, held = _files_of(body, recording), _held_of(body, recording)
    encoder = _encoder_of(body, recording)
    memory = body.memory_mb or _usual_memory(body)
    names = list(card_names) or [MAKERS_CARD]
    cards = [body.cards.get(name, AssumedCard(name=name)) for name in names]
    sides = [
        together(slot, card, arrangement) for slot, card in zip(body.slots, cards, strict=False)
    ]
    scenario = Scenario(
        frame_rate_fps=frame_rate_fps, hold_s=hold_s, memory_mb=memory.value, files=files[0],
        held_mb=held.value, process_fps=encoder.value if encoder else None,
        slots=tuple(slot for slot, _ in sides), arrangement=arrangement,
        coupling=body.couplings.get(arrangement, "parallel"),
        resume_free_frames=body.resume_free_frames,
    )  # fmt: skip
    sources = Sources(
        slots=tuple(of_slot for _, of_slot in sides), frame_rate_fps=body.rates[frame_rate_fps],
        held_mb=held.uncertainty, files=files[1], file_to_file=recording.file_to_file,
        memory_mb=memory.uncertainty, room=OF_BUFFER,
        process_fps=encoder.uncertainty if encoder else EXACT,
        knows_coupling=arrangement in body.couplings,
        in_common=(*_files_in_common(body, recording), *_held_in_common(body, recording)),
    )  # fmt: skip
    cards_of_slots = list(enumerate(names, 1))
    figures = figures_of(format_name, frame_rate_fps, cards_of_slots, arrangement)
    return AssumedSetup(scenario, sources, figures)


def figures_of(
    format_name: str,
    frame_rate_fps: float,
    cards: Sequence[tuple[int, str]],
    arrangement: Arrangement,
    *,
    covered: bool = False,
) -> dict[Factor, FigureKey]:
    """Which figure each factor of a set-up is; `cards` by the slots that they are in.

    Files behind a covered lens have a size of their own.
    """
    files = FigureKind.COVERED_FILES if covered else FigureKind.FILES
    setup = " ".join((format_name, arrangement, *(card for _, card in cards)))
    figures = {
        MEMORY: FigureKey(FigureKind.MEMORY),
        ROOM: FigureKey(FigureKind.ROOM, f"{format_name} {arrangement}"),
        HELD: FigureKey(FigureKind.HELD, format_name),
        FILES: FigureKey(files, format_name),
        ENCODER: FigureKey(FigureKind.ENCODER, format_name),
        FRAME_RATE: FigureKey.of_frame_rate(frame_rate_fps),
    }
    if arrangement.writes_both:
        figures[COUPLING] = FigureKey(FigureKind.COUPLING, arrangement)
    for place, (slot, card) in enumerate(cards, 1):
        figures |= _of_card(place, card)
        for kind in (FigureKind.SLOT, FigureKind.OVERHEAD, FigureKind.SHARE):
            figures[Factor(kind, place)] = FigureKey(kind, str(slot))
        figures[Factor(FigureKind.PACE, place)] = FigureKey(FigureKind.PACE, f"{setup} {slot}")
    return figures


def _of_card(place: int, card: str) -> dict[Factor, FigureKey]:
    return {Factor(kind, place): FigureKey(kind, card) for kind in OF_CARD}


def with_unknown_cards(setup: AssumedSetup) -> AssumedSetup:
    """A set-up as a maker tests it: with cards of which nothing but the bus is known."""
    scenario, sources, figures = setup.scenario, setup.sources, dict(setup.figures)
    slots, of_slots = [], []
    for place, (slot, of_slot) in enumerate(zip(scenario.slots, sources.slots, strict=True), 1):
        makers = unknown_card(slot.bus_mb_s or slot.slot_limit_mb_s or slot.write_mb_s)
        plain = replace(slot, write_mb_s=makers.value, cache_mb=0.0, cache_write_mb_s=None)
        slots.append(plain)
        of_slots.append(replace(of_slot, write_mb_s=makers.uncertainty, cache_mb=EXACT))
        figures |= _of_card(place, MAKERS_CARD)
    return AssumedSetup(
        replace(scenario, slots=tuple(slots)), replace(sources, slots=tuple(of_slots)), figures
    )


def _refuse_unknown(
    body: AssumedBody,
    format_name: str,
    frame_rate_fps: float,
    card_names: Sequence[str],
    arrangement: Arrangement,
) -> None:
    faults = {}
    if format_name not in body.formats:
        faults["format"] = f"must be a format of the body, got “{format_name}”"
    if frame_rate_fps not in body.rates:
        faults["fps"] = f"must be a frame rate of the body, got {frame_rate_fps:g}"
    if unknown := [name for name in card_names if name not in body.cards]:
        faults["cards"] = f"must be among the cards, got “{unknown[0]}”"
    wanted = arrangement.slots_used
    if len(card_names) > len(body.slots):
        faults["cards"] = f"must be no more than the slots, {len(body.slots)}"
    elif card_names and len(card_names) < wanted:
        faults["cards"] = f"must be two for {arrangement}"
    if faults:
        raise InvalidScenario(faults)


def _estimated_sizes(body: AssumedBody, recording: AssumedFormat) -> list[Figure]:
    return [
        size
        for kind in kinds_of(recording.name)
        for size in file_sizes(kind, pixels(body.megapixels, None), None)
    ]


def _files_of(body: AssumedBody, recording: AssumedFormat) -> tuple[tuple[File, ...], Uncertainty]:
    if recording.files:
        return recording.files, recording.files_uncertainty
    sizes = _estimated_sizes(body, recording)
    files = tuple(File(name=f"file {n}", mb=size.value) for n, size in enumerate(sizes, 1))
    total_mb = sum(size.value for size in sizes)
    shares = (LogNormal(size.uncertainty.spread * size.value / total_mb) for size in sizes)
    return files, LogNormal.product(*shares)


def _files_in_common(body: AssumedBody, recording: AssumedFormat) -> Iterator[InCommon]:
    if not recording.files:
        yield from files_in_common(_estimated_sizes(body, recording))


def _held_in_common(body: AssumedBody, recording: AssumedFormat) -> Iterator[InCommon]:
    if body.megapixels and not recording.held_mb:
        yield from held_in_common(_held_of(body, recording))


def _held_of(body: AssumedBody, recording: AssumedFormat) -> Figure:
    if recording.held_mb:
        return recording.held_mb
    files_mb = sum(file.mb for file in _files_of(body, recording)[0])
    if body.megapixels:
        return held_size(kinds_of(recording.name), files_mb, pixels(body.megapixels, None))
    return Figure(files_mb * UNKNOWN_HELD_RATIO, UNKNOWN_HELD)


def _encoder_of(body: AssumedBody, recording: AssumedFormat) -> Figure | None:
    if recording.never_waits:
        return None
    return recording.process_fps or unknown_encoder(body.usual_fps)


def _usual_memory(body: AssumedBody) -> Figure:
    first = next(iter(body.formats.values()))
    files_mb = sum(file.mb for file in _files_of(body, first)[0])
    return usual_memory(Frame(files_mb, _held_of(body, first).value), body.usual_fps)
