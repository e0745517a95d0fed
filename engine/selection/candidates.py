"""What is chosen from: a body, its shooting modes, and the cards that go into its slots."""

from dataclasses import dataclass, field, replace
from typing import NamedTuple

from engine.burst.arrangement import Arrangement
from engine.burst.scenario import Coupling, File, LoadedSlot, Scenario
from engine.figures.figure import Figure
from engine.figures.uncertainty import EXACT, Uncertainty
from engine.uncertainty.sources import SlotSources, Sources

AS_ALONE = Figure(1.0, EXACT)


@dataclass(frozen=True, kw_only=True)
class CandidateSide:
    """A card in one slot of the body, which alone is written to, and how sure that is.

    `pace_of_two` is its pace where two slots are written to at once. One that `is_tested` was
    measured in this body.
    """

    slot: LoadedSlot
    sources: SlotSources
    pace_of_two: Figure = AS_ALONE
    is_tested: bool = True

    def arranged(self, arrangement: Arrangement) -> "CandidateSide":
        """The same as it is written to."""
        if not arrangement.writes_both:
            return self
        return replace(
            self,
            slot=replace(self.slot, pace=self.pace_of_two.value),
            sources=replace(self.sources, pace=self.pace_of_two.uncertainty),
        )


@dataclass(frozen=True, kw_only=True)
class Candidate:
    """A card to choose: `sides` has what it comes to in each slot of the body, None: no fit.

    `key` tells it from all other cards, those of the same kind too. `price_cents` is what one more
    of it costs, in hundredths of the currency of the budget, None: not known; one that is `owned`
    costs nothing. `copy_mb_s` is how fast the best reader copies it, None: no reader takes it.
    """

    key: str
    sides: tuple[CandidateSide | None, ...]
    price_cents: int | None = None
    owned: bool = False
    copy_mb_s: float | None = None


@dataclass(frozen=True, kw_only=True)
class ShootingMode:
    """A way to shoot: a recording format at a frame rate, and how sure its figures are."""

    name: str
    frame_rate_fps: float
    files: tuple[File, ...]
    held_mb: float = 0.0
    process_fps: float | None = None
    rate_source: Uncertainty = EXACT
    held_source: Uncertainty = EXACT
    file_source: Uncertainty = EXACT
    encoder_source: Uncertainty = EXACT
    file_to_file: float = 0.0


class SlotUse(NamedTuple):
    """What a body can write where, how its slots share the work, and whether anybody knows that."""

    arrangement: Arrangement
    coupling: Coupling
    knows_coupling: bool = True


@dataclass(frozen=True, kw_only=True)
class Camera:
    """A body: its memory, and what it can write where."""

    memory_mb: float
    uses: tuple[SlotUse, ...] = (SlotUse(Arrangement.SINGLE, "parallel"),)
    memory_source: Uncertainty = EXACT
    room_source: Uncertainty = EXACT
    resume_free_frames: int = 1
    locks_playback: bool = True

    def uses_for(self, mode: ShootingMode) -> list[tuple[int, SlotUse]]:
        """Those that `mode` can be written in, with their numbers: split needs two files."""
        return [
            (number, use)
            for number, use in enumerate(self.uses)
            if use.arrangement.needs_files <= len(mode.files)
        ]


@dataclass(frozen=True)
class Option:
    """One thing to do: shoot `mode` with these cards, arranged so."""

    mode: ShootingMode
    use: SlotUse
    cards: tuple[Candidate, ...]
    camera: Camera = field(repr=False)

    def scenario(self, hold_s: float) -> Scenario:
        """A hold of `hold_s`; raises InvalidScenario where memory can't hold a frame."""
        return Scenario(
            frame_rate_fps=self.mode.frame_rate_fps,
            hold_s=hold_s,
            memory_mb=self.camera.memory_mb,
            held_mb=self.mode.held_mb,
            process_fps=self.mode.process_fps,
            files=self.mode.files,
            slots=tuple(side.slot for side in self.sides),
            arrangement=self.use.arrangement,
            coupling=self.use.coupling,
            resume_free_frames=self.camera.resume_free_frames,
        )

    @property
    def sides(self) -> list[CandidateSide]:
        """Its cards, each in its slot as it is written to; ValueError where one doesn't fit."""
        sides = [card.sides[number] for number, card in enumerate(self.cards)]
        fitted = [side for side in sides if side is not None]
        if len(fitted) != len(sides):
            raise ValueError("a card of this option fits no such slot")
        return [side.arranged(self.use.arrangement) for side in fitted]

    @property
    def sources(self) -> Sources:
        """How sure its numbers are."""
        return Sources(
            slots=tuple(side.sources for side in self.sides),
            frame_rate_fps=self.mode.rate_source,
            held_mb=self.mode.held_source,
            files=self.mode.file_source,
            file_to_file=self.mode.file_to_file,
            memory_mb=self.camera.memory_source,
            room=self.camera.room_source,
            process_fps=self.mode.encoder_source,
            knows_coupling=self.use.knows_coupling,
        )
