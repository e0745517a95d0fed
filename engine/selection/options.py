"""Very many options measured against a need, as arrays."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from engine.burst.arrangement import Arrangement
from engine.burst.plan import SLOT, Records, slot_plan
from engine.burst.scenario import Scenario
from engine.selection.candidates import Camera, Candidate, CandidateSide, Option, ShootingMode
from engine.selection.goals import GOALS
from engine.selection.requirements import Need
from engine.uncertainty.intervals import draws_of

Whole = NDArray[np.int64]
Number = NDArray[np.integer]
Share = NDArray[np.float32]

DRAWS = 100  # of every option; those worth keeping are drawn as often as one prediction is
REDRAWN_WITHIN = 0.06  # of the share that is asked for: drawn as often as one prediction at once
MOST_AT_ONCE = 50_000  # entries of one block, for its arrays
SQUARE = 32  # cards, by as many second ones
PAIRS_PER_CARD = SQUARE // 2  # about, for each card that is simulated alone
SETTLED_BURSTS = 5  # after which a camera is steady whose cards always write alike
NONE = -1  # no second card; a price that nobody knows


@dataclass(frozen=True, eq=False)
class Options:
    """Many options at once, one a place in each array.

    `mode`, `use`, `first`, `second` say which: numbers of modes, of the camera's uses of its slots,
    and of candidates; `sets` is how many cards of each are swapped in turn. `price_cents` is what
    has to be bought. `chance` has a column a goal, the share of draws that meet it; not a number
    where that was not asked, or not drawn as an earlier goal is missed for sure. `missed` is the
    number of the first goal missed, or NONE. `frames`, `full_speed`, `clear_ns`, `ready_ns` (the
    picture that is waited for, or else the light out), `counted`, `day_frames` and `copy_s` are
    those of the worst burst and of a day at nominal values; `no_wall` is the share of draws without
    a wall. `margin` is how far the option exceeds the need, as a share of it, where it does so
    least.
    """

    mode: Number
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
        return len(self.mode)

    @classmethod
    def nothing(cls) -> Self:
        """No options at all."""
        empty: dict[str, Any] = {field.name: np.empty(0, np.int8) for field in fields(cls)}
        return cls(**empty | {"chance": np.empty((0, len(GOALS)), np.int8)})

    @classmethod
    def joined(cls, parts: Sequence[Self]) -> Self:
        """All of `parts`, at least one, by their numbers, whatever the order of the parts."""
        together = cls(
            **{
                field.name: np.concatenate([getattr(part, field.name) for part in parts])
                for field in fields(cls)
            }
        )
        numbers = (together.second, together.first, together.use, together.mode)
        return together.at(np.lexsort(numbers))

    def at(self, places: NDArray[np.integer] | NDArray[np.bool_]) -> Self:
        """Those at `places`."""
        return type(self)(
            **{field.name: getattr(self, field.name)[places] for field in fields(self)}
        )

    def which(self, place: int) -> tuple[int, int, int, int]:
        """The numbers of the one at `place`."""
        numbers = (self.mode, self.use, self.first, self.second)
        mode, use, first, second = (int(of[place]) for of in numbers)
        return mode, use, first, second

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
    """Some entries of one mode: what is evaluated at once, in every arrangement."""

    mode: int
    start: int
    stop: int


@dataclass(frozen=True)
class Evaluation:
    """A choice to be made: what from, and what for.

    Each mode has `entries`: every first card alone, and with every second one.
    """

    camera: Camera
    modes: tuple[ShootingMode, ...]
    candidates: tuple[Candidate, ...]
    need: Need
    draws: int = DRAWS

    def __getstate__(self) -> dict[str, Any]:
        return {field.name: getattr(self, field.name) for field in fields(self)}

    @property
    def entries(self) -> int:
        """How many entries each mode has."""
        return len(self._firsts) * (1 + len(self._seconds))

    @property
    def total(self) -> int:
        """All entries of all modes."""
        return len(self.modes) * self.entries

    def block(self, place: int, frames: int) -> Block:
        """The next entries from `place`, of all of them, that take about so many frames at most.

        One at least, whatever it takes, and all of one mode.
        """
        mode, start = divmod(place, self.entries)
        entries = slice(start, min(start + self._most_at_once, self.entries))
        alone, unsteady = self._numbers[entries, 1] == NONE, self._unsteady[entries]
        each = self.draws * len(self.camera.uses)
        steady = each * min(self.frames_of_bursts(mode), SETTLED_BURSTS * self._due(mode))
        shot = np.where(unsteady, each * self.frames_of_bursts(mode), steady)
        taken = np.cumsum(np.where(alone | unsteady, shot, shot // PAIRS_PER_CARD + 1))
        count = int(np.searchsorted(taken, frames, side="right"))
        return Block(mode, start, start + max(1, count))

    @cached_property
    def _most_at_once(self) -> int:
        """Entries of a block, at most: about as many in all blocks of a mode."""
        return -(-self.entries // max(-(-self.entries // MOST_AT_ONCE), 1))

    def _due(self, mode: int) -> int:
        return self.need.frames_due(self.modes[mode].frame_rate_fps)

    @cached_property
    def _unsteady(self) -> NDArray[np.bool_]:
        """Which entries may have to be simulated burst for burst, pair for pair."""
        most_mb = max(
            2 * self._due(number) * sum(file.mb for file in mode.files)
            for number, mode in enumerate(self.modes)
        )
        of_card = np.array([_is_unsteady(card, most_mb) for card in self.candidates] + [False])
        in_turn = any(
            use.coupling == "serial" or not use.knows_coupling for use in self.camera.uses
        )
        every_pair = in_turn and self.camera.resume_free_frames > 1
        pairs = self._numbers[:, 1] != NONE
        return np.asarray(of_card[self._numbers].any(axis=1) | (pairs & every_pair))

    def frames_of_bursts(self, mode: int) -> int:
        """Frames of all bursts that are simulated in one draw, at most."""
        presses_ns = self.need.presses_ns(self.modes[mode].frame_rate_fps)
        return self._due(mode) * len(presses_ns)

    @property
    def draws_to_compare(self) -> int:
        """How often options are drawn to be compared, those of all modes alike."""
        return min([self.draws, *map(self.draws_to_confirm, range(len(self.modes)))])

    def draws_to_confirm(self, mode: int) -> int:
        """How often an option of a mode is drawn that is kept."""
        return draws_of(self._due(mode))

    @property
    def frames_to_confirm(self) -> int:
        """Frames that are simulated, at most, to confirm one option that is kept."""
        modes = range(len(self.modes))
        return max(self.frames_of_bursts(mode) * self.draws_to_confirm(mode) for mode in modes)

    @property
    def frames_to_compare(self) -> int:
        """Frames that are simulated, at most, to compare one option with others."""
        return self.draws_to_compare * max(map(self.frames_of_bursts, range(len(self.modes))))

    def blocks(self, place: int, frames: int) -> Iterator[Block]:
        """All that follow, each of about so many frames at most."""
        while place < self.total:
            block = self.block(place, frames)
            yield block
            place += block.stop - block.start

    def numbers(self, block: Block) -> Whole:
        """The first and the second card of each entry; no second one: NONE."""
        return self._numbers[block.start : block.stop]

    @cached_property
    def _numbers(self) -> Whole:
        """Those of all entries, in squares: entries that follow each other share most cards."""
        seconds = (NONE, *self._seconds)
        first, second = np.meshgrid(self._firsts, seconds, indexing="ij")
        numbers = np.stack([first, second], axis=-1).astype(np.int64)
        down, across = len(self._firsts), len(seconds)
        squares = [
            numbers[row : row + SQUARE, column : column + SQUARE].reshape(-1, 2)
            for row in range(0, down, SQUARE)
            for column in range(0, across, SQUARE)
        ]
        return np.concatenate(squares)

    @cached_property
    def _firsts(self) -> tuple[int, ...]:
        return self._in_slot(0)

    @cached_property
    def _seconds(self) -> tuple[int, ...]:
        return self._in_slot(1)

    def _in_slot(self, slot: int) -> tuple[int, ...]:
        return tuple(
            number
            for number, card in enumerate(self.candidates)
            if slot < len(card.sides) and card.sides[slot] is not None
        )

    def sides(self, slot: int, kind: Arrangement) -> Sequence[CandidateSide | None]:
        """What each candidate comes to in `slot`, 0 or 1, as it is written to; None: no fit."""
        asked = slot, kind.writes_both
        if asked not in self._sides:
            fitted = [
                card.sides[slot] if slot < len(card.sides) else None for card in self.candidates
            ]
            self._sides[asked] = [side and side.arranged(kind) for side in fitted]
        return self._sides[asked]

    def slot_plans(self, slot: int, kind: Arrangement, scenario: Scenario) -> Records:
        """Plans of `slot` with each candidate and the files of `scenario`; of no fit: zeros."""
        sizes = scenario.bytes_to(slot), scenario.timed_bytes(slot)
        asked = slot, kind.writes_both, *sizes
        if asked not in self._slot_plans:
            plans = np.zeros(len(self.candidates), dtype=SLOT)
            for number, side in enumerate(self.sides(slot, kind)):
                if side:
                    plans[number] = slot_plan(side.slot, *sizes)
            self._slot_plans[asked] = plans
        return self._slot_plans[asked]

    @cached_property
    def _sides(self) -> dict[tuple[int, bool], list[CandidateSide | None]]:
        return {}

    @cached_property
    def _slot_plans(self) -> dict[tuple[int, bool, int, int], Records]:
        return {}

    def option(self, mode: int, use: int, first: int, second: int) -> Option:
        """The option of these numbers, as `Options` has them."""
        cards = tuple(self.candidates[number] for number in (first, second) if number != NONE)
        return Option(self.modes[mode], self.camera.uses[use], cards, self.camera)


def _is_unsteady(card: Candidate, most_mb: float) -> bool:
    """Whether what it writes in a burst of `most_mb` depends on the bursts before."""
    slots = [side.slot for side in card.sides if side is not None]
    return any(
        slot.cache_mb > 0
        or slot.slow_below_free_mb > 0
        or (slot.free_mb is not None and slot.free_mb < most_mb)
        for slot in slots
    )
