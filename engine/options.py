"""Very many options measured against a need, as arrays."""

from collections.abc import Sequence
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from engine.candidates import Camera, Candidate, Option, Way
from engine.need import Goal, Need

Number = NDArray[np.integer]
Share = NDArray[np.float32]

DRAWS = 100  # of every option; those worth keeping are drawn as often as one prediction is
NEAR = 0.06  # a share so close to what is asked for is drawn as often at once
PAIRS_AT_ONCE = 40_000  # of one block
SLOW_PAIRS_AT_ONCE = 2_000  # where each pair has to be shot
NONE = -1  # no second card; a price that nobody knows
GOALS = list(Goal)


@dataclass(frozen=True, eq=False)
class Options:
    """Many options at once, one a place in each array.

    `way`, `use`, `first`, `second` say which: numbers of ways, of the camera's uses of its slots,
    and of candidates; `sets` is how many cards of each are swapped in turn. `price_cents` is what
    has to be bought. `chance` has a column a goal, the share of draws that meet it; not a number
    where that was not asked, or not drawn as an earlier goal is missed for sure. `missed` is the
    number of the first goal missed, or NONE. `frames`, `full_speed`, `clear_ns`, `ready_ns` (the
    picture that is waited for, or else the light out), `counted`, `day_frames` and `copy_s` are
    those of the worst burst and of a day with everything as it is most likely to be; `no_wall` is
    the share of draws without a wall. `margin` is how far the option exceeds the need, as a share
    of it, where it does so least.
    """

    way: Number
    use: Number
    first: Number
    second: Number
    sets: Number
    price_cents: Number
    chance: NDArray[np.float64]
    missed: Number
    frames: Number
    counted: Number
    full_speed: Number
    clear_ns: Number
    ready_ns: Number
    day_frames: Number
    copy_s: Share
    no_wall: Share
    margin: Share

    def __len__(self) -> int:
        return len(self.way)

    @classmethod
    def nothing(cls) -> Self:
        """No options at all."""
        empty: dict[str, Any] = {field.name: np.empty(0, np.int8) for field in fields(cls)}
        return cls(**empty | {"chance": np.empty((0, len(GOALS)), np.int8)})

    @classmethod
    def joined(cls, parts: Sequence[Self]) -> Self:
        """All of `parts`, at least one, in their order."""
        return cls(
            **{
                field.name: np.concatenate([getattr(part, field.name) for part in parts])
                for field in fields(cls)
            }
        )

    def at(self, places: NDArray[np.integer] | NDArray[np.bool_]) -> Self:
        """Those at `places`."""
        return type(self)(
            **{field.name: getattr(self, field.name)[places] for field in fields(self)}
        )

    def which(self, place: int) -> tuple[int, int, int, int]:
        """The numbers of the one at `place`."""
        numbers = (self.way, self.use, self.first, self.second)
        way, use, first, second = (int(of[place]) for of in numbers)
        return way, use, first, second

    @property
    def passes(self) -> NDArray[np.bool_]:
        """Which of them meet the need."""
        return np.asarray(self.missed == NONE)

    @property
    def order(self) -> Number:
        """Their places, the cheapest first, then the widest margin; unknown prices come last."""
        unknown = self.price_cents == NONE
        return np.lexsort(
            (self.second, self.first, self.clear_ns, -self.margin, self.price_cents, unknown)
        )


@dataclass(frozen=True)
class Block:
    """One way, with some of the first cards: what is evaluated at once, in every arrangement."""

    way: int
    firsts: tuple[int, ...]
    seconds: tuple[int, ...]


@dataclass(frozen=True)
class Evaluation:
    """A choice to be made: what from, and what for."""

    camera: Camera
    ways: tuple[Way, ...]
    candidates: tuple[Candidate, ...]
    need: Need
    draws: int = DRAWS

    @cached_property
    def blocks(self) -> list[Block]:
        """All that there is to evaluate, in pieces of well under a second each."""
        firsts, seconds = self._in_slot(0), self._in_slot(1)
        in_turn = any(
            use.coupling == "serial" or use.source == "estimated" for use in self.camera.uses
        )
        each_is_shot = in_turn and self.camera.resume_free_frames > 1
        most = SLOW_PAIRS_AT_ONCE if each_is_shot else PAIRS_AT_ONCE
        step = max(1, most // max(1, len(seconds)))
        return [
            Block(way, firsts[start : start + step], seconds)
            for way in range(len(self.ways))
            for start in range(0, len(firsts), step)
        ]

    def _in_slot(self, slot: int) -> tuple[int, ...]:
        return tuple(
            number
            for number, card in enumerate(self.candidates)
            if slot < len(card.sides) and card.sides[slot] is not None
        )

    def option(self, way: int, use: int, first: int, second: int) -> Option:
        """The option of these numbers, as `Options` has them."""
        cards = tuple(self.candidates[number] for number in (first, second) if number != NONE)
        return Option(self.ways[way], self.camera.uses[use], cards, self.camera)
