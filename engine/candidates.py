"""What is chosen from: a body, the ways to shoot with it, and the cards that go into its slots."""

from dataclasses import dataclass, field

from engine.confidence import Source, Sources
from engine.scenario import Arrangement, Coupling, File, Scenario, Slot


@dataclass(frozen=True, kw_only=True)
class Side:
    """A card in one slot of the body: what they reach together, and where that is known from.

    `own_pace` tells that the card sets the pace and not the slot: cards err each in its own way,
    a slot errs the same with every card.
    """

    slot: Slot
    source: Source | float
    own_pace: bool = True


@dataclass(frozen=True, kw_only=True)
class Candidate:
    """A card to choose: `sides` has what it comes to in each slot of the body, None: no fit.

    `price_cents` is what one more of it costs, in hundredths of the currency of the budget, None:
    not known; one that is `owned` costs nothing. `copy_mb_s` is how fast the best reader copies it,
    None: no reader takes it.
    """

    name: str
    sides: tuple[Side | None, ...]
    price_cents: int | None = None
    owned: bool = False
    copy_mb_s: float | None = None


@dataclass(frozen=True, kw_only=True)
class Way:
    """A way to shoot: a recording format at a frame rate, and how sure its figures are."""

    name: str
    frame_rate_fps: float
    files: tuple[File, ...]
    held_mb: float = 0.0
    process_fps: float | None = None
    file_source: Source | float = "measured_here"
    encoder_source: Source | float = "measured_here"
    frame_to_frame: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Camera:
    """A body: its memory, and what it can write where, each arrangement with its coupling."""

    memory_mb: float
    arrangements: tuple[tuple[Arrangement, Coupling], ...] = (("single", "parallel"),)
    memory_source: Source | float = "measured_here"
    resume_free_frames: int = 1
    locks_playback: bool = True

    def arrangements_of(self, way: Way) -> list[tuple[Arrangement, Coupling]]:
        """Those that `way` can be written in: split needs two files."""
        return [one for one in self.arrangements if one[0] != "split" or len(way.files) > 1]


@dataclass(frozen=True)
class Option:
    """One thing to do: shoot `way` with these cards, arranged so; the scenario of a hold of it."""

    way: Way
    arrangement: Arrangement
    coupling: Coupling
    cards: tuple[Candidate, ...]
    camera: Camera = field(repr=False)

    def scenario(self, hold_s: float) -> Scenario:
        """A hold of `hold_s`; raises InvalidScenario where memory can't hold a frame."""
        return Scenario(
            frame_rate_fps=self.way.frame_rate_fps,
            hold_s=hold_s,
            memory_mb=self.camera.memory_mb,
            held_mb=self.way.held_mb,
            process_fps=self.way.process_fps,
            files=self.way.files,
            slots=tuple(side.slot for side in self.sides),
            arrangement=self.arrangement,
            coupling=self.coupling,
            resume_free_frames=self.camera.resume_free_frames,
        )

    @property
    def sides(self) -> list[Side]:
        """Its cards, each in its slot; raises ValueError where one doesn't fit."""
        sides = [card.sides[number] for number, card in enumerate(self.cards)]
        fitted = [side for side in sides if side is not None]
        if len(fitted) != len(sides):
            raise ValueError("a card of this option fits no such slot")
        return fitted

    @property
    def sources(self) -> Sources:
        """Where its numbers came from."""
        return Sources(
            file_size=self.way.file_source,
            write=tuple(side.source for side in self.sides),
            memory=self.camera.memory_source,
            encoder=self.way.encoder_source,
            frame_to_frame=self.way.frame_to_frame,
        )
