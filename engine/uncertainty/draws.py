"""Set-ups as draws have them: a scenario's numbers, each drawn from what is known of it.

Draws are stratified: a factor takes each of its quantiles once, in an order of its own. That order
follows from the factor's name alone (common random numbers), so that a set-up is drawn the same
whatever it is drawn beside, and that two set-ups differ by what differs in them.
"""

import hashlib
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from engine.burst.plan import (
    COUPLING_NUMBER,
    FILE_SIZE,
    NOMINAL,
    PLAN,
    SLOT,
    Records,
    holds_of,
    parts_of_nominal,
    power_of_two,
)
from engine.burst.scenario import LoadedSlot, Scenario
from engine.figures.key import Factor, FigureKind
from engine.figures.uncertainty import EXACT, Uncertainty
from engine.uncertainty.drawing import (
    AS_NOMINAL,
    DRAWN,
    FACTORS_OF_BODY,
    FACTORS_OF_SLOTS,
    SIDE,
    drawn_values,
    fill_plans,
    fill_slots,
    side_values,
    timed_ratios,
)
from engine.uncertainty.sources import (
    BURST,
    COUPLING,
    FACTORS,
    FILES,
    ODDS_OF_COUPLING,
    SlotSources,
    Sources,
)

Whole = NDArray[np.int64]
Real = NDArray[np.float64]
Sizes = NDArray[np.int32]

TIMES = ("transfer_ns", "cached_ns", "slow_ns")  # how long a slot writes a frame, by its pace
NOISE_BLOCK = 64
NOISE_LENGTH = 4_096  # a power of two; a longer series meets the same frame sizes again
SEED = 0


class AnyDraws(Protocol):
    """Draws of a set-up's numbers, from what is assumed of them or from what was learnt."""

    @property
    def count(self) -> int:
        """How often things are drawn."""

    def ratios(self, factor: Factor, uncertainty: Uncertainty) -> Real:
        """What a number is multiplied by in each draw."""

    def couplings(self, scenario: Scenario, sources: Sources) -> Whole:
        """The number of the coupling in each draw."""


@dataclass(frozen=True)
class Draws:
    """How often things are drawn, and in which order each of them takes its quantiles.

    `names` gives a factor another name than its own, which draws it independently of all others.
    With `only` some factors, all others are nominal.
    """

    count: int
    names: Mapping[Factor, str] = field(default_factory=dict)
    only: Collection[Factor] | None = None

    def quantiles(self, factor: Factor) -> Real:
        """A number between 0 and 1 for each draw, evenly spread."""
        return _quantiles(self._name(factor), self.count)

    def ratios(self, factor: Factor, uncertainty: Uncertainty) -> Real:
        """What a number is multiplied by in each draw."""
        if uncertainty.is_exact or not self._varies(factor):
            return _ratios("", EXACT, self.count)
        name = uncertainty.order_name or self._name(factor)
        return _ratios(name, uncertainty, self.count)

    def couplings(self, scenario: Scenario, sources: Sources) -> Whole:
        """The number of the coupling in each draw; that of the scenario where it is known."""
        matters = scenario.arrangement.writes_both
        if sources.knows_coupling or not matters or not self._varies(COUPLING):
            return np.full(self.count, COUPLING_NUMBER[scenario.coupling])
        ends = np.cumsum(list(ODDS_OF_COUPLING.values()))
        numbers = np.array([COUPLING_NUMBER[name] for name in ODDS_OF_COUPLING])
        places = np.searchsorted(ends, self.quantiles(COUPLING))
        return numbers[np.minimum(places, len(numbers) - 1)]

    def _varies(self, factor: Factor) -> bool:
        return self.only is None or factor in self.only

    def _name(self, factor: Factor) -> str:
        return self.names.get(factor) or str(factor)


NOMINAL_DRAW = Draws(1, only=())  # one draw with every number nominal


@lru_cache(maxsize=1_024)
def _order(name: str, count: int) -> Whole:
    known = _uncorrelated(count)
    return _ranks(known[name] if name in known else _column(name, count))


@lru_cache(maxsize=16)
def _uncorrelated(count: int) -> dict[str, Real]:
    """For each factor a column of random numbers, none of them correlated with another.

    Orders that happen to be correlated would widen or narrow what depends on both factors (Iman
    and Conover 1982; here by Gram and Schmidt's method). Fewer draws than factors are left as
    they come.
    """
    names = list(map(str, FACTORS))
    columns = np.stack([_column(name, count) for name in names], axis=1)
    if count > len(names):
        columns, _ = np.linalg.qr(columns - columns.mean(axis=0))
    return dict(zip(names, columns.T, strict=True))


def _column(name: str, count: int) -> Real:
    """Random numbers that follow from a name."""
    digest = hashlib.sha256(f"{SEED} {name}".encode()).digest()
    return np.random.Generator(np.random.PCG64(list(digest[:8]))).standard_normal(count)


def _ranks(values: Real) -> Whole:
    ranks = np.empty(len(values), dtype=np.int64)
    ranks[np.argsort(values)] = np.arange(len(values))
    return ranks


@lru_cache(maxsize=1_024)
def _quantiles(name: str, count: int) -> Real:
    return (_order(name, count) + 0.5) / count


@lru_cache(maxsize=1_024)
def _ratios(name: str, uncertainty: Uncertainty, count: int) -> Real:
    """What a number is multiplied by; kept, as many set-ups share what they are drawn by."""
    return uncertainty.ratios(ndtri(_quantiles(name, count)))


@lru_cache(maxsize=128)
def _noise(count: int, block: int) -> Real:
    """Normal numbers for the frames of one block: a longer series begins with the same ones."""
    random = np.random.Generator(np.random.PCG64([SEED, block]))
    return random.standard_normal((count, NOISE_BLOCK))


def frame_sizes(count: int, frames: int, spread: float) -> Sizes:
    """The size of each frame's files in each draw (axes: draw, frame), in parts of NOMINAL.

    One size for all where `spread`, the standard deviation of its logarithm, is 0.
    """
    if not spread:
        return _one_size(count)
    return _sizes(count, min(NOISE_LENGTH, max(NOISE_BLOCK, power_of_two(frames))), spread)


@lru_cache(maxsize=64)
def _one_size(count: int) -> Sizes:
    return np.full((count, 1), NOMINAL, dtype=np.int32)


@lru_cache(maxsize=64)
def _sizes(count: int, length: int, spread: float) -> Sizes:
    noise = np.concatenate([_noise(count, block) for block in range(length // NOISE_BLOCK)], axis=1)
    return np.ascontiguousarray(parts_of_nominal(np.exp(spread * noise)), dtype=np.int32)


class Columns:
    """The ratios that the numbers of some set-ups are multiplied by, a column for each of them.

    What is drawn alike in several set-ups is one column.
    """

    def __init__(self, count: int) -> None:
        self.count = count
        self._ratios: list[Real] = []
        self._couplings: list[Whole] = []
        self._bursts: list[Whole] = []
        self._places: dict[tuple[Any, ...], int] = {}
        self._tuples: dict[tuple[Any, ...], tuple[int, ...]] = {}
        self._asked_for: list[object] = []  # kept, so that no other object gets its identity

    @property
    def ratios(self) -> Real:
        """A row for each column, a ratio for each draw."""
        return np.array(self._ratios).reshape(-1, self.count)

    @property
    def couplings(self) -> Whole:
        """The same of couplings, by their numbers."""
        return np.array(self._couplings, dtype=np.int64).reshape(-1, self.count)

    @property
    def bursts(self) -> Whole:
        """The same of the sizes of a burst's files, in parts of NOMINAL."""
        return np.array(self._bursts, dtype=np.int64).reshape(-1, self.count)

    def of_bursts(self, scenario: Scenario, sources: Sources, draws: AnyDraws) -> list[int]:
        """The row of `bursts` for each hold."""
        return [
            self._burst(draws, sources, number) for number in range(1 + len(scenario.later_holds))
        ]

    def drawn(self, scenario: Scenario, sources: Sources, draws: AnyDraws) -> tuple[Any, ...]:
        """The fields of DRAWN for a set-up."""
        body = self._of(draws, sources, FACTORS_OF_BODY, _of_body)
        slots = [self.of_slot(one, draws, number) for number, one in enumerate(sources.slots)]
        return drawn_values(scenario, body, self._coupling(draws, scenario, sources), slots)

    def of_slot(self, sources: SlotSources, draws: AnyDraws, number: int) -> tuple[int, ...]:
        """The columns of slot `number`, 0 or 1."""
        return self._of(draws, sources, FACTORS_OF_SLOTS[number], _of_slot)

    def _of(
        self,
        draws: AnyDraws,
        sources: Any,
        factors: Sequence[Factor],
        uncertainties: Callable[[Any], Sequence[Uncertainty]],
    ) -> tuple[int, ...]:
        asked = id(draws), id(sources), factors[0]
        places = self._tuples.get(asked)
        if places is None:
            of_all = zip(factors, uncertainties(sources), strict=True)
            places = tuple([self._place(draws, factor, one) for factor, one in of_all])
            self._tuples[asked] = places
            self._asked_for.append(sources)
        return places

    def _place(self, draws: AnyDraws, factor: Factor, uncertainty: Uncertainty) -> int:
        asked = id(draws), factor, id(uncertainty)
        place = self._places.get(asked)
        if place is None:
            ratios = draws.ratios(factor, uncertainty)
            place = self._places.setdefault((id(ratios),), len(self._ratios))
            if place == len(self._ratios):
                self._ratios.append(ratios)
            self._places[asked] = place
            self._asked_for.append((draws, uncertainty, ratios))
        return place

    def _coupling(self, draws: AnyDraws, scenario: Scenario, sources: Sources) -> int:
        both = scenario.arrangement.writes_both
        asked = id(draws), scenario.coupling, sources.knows_coupling, both
        return self._row(
            self._couplings, asked, lambda: draws.couplings(scenario, sources), (draws,)
        )

    def _burst(self, draws: AnyDraws, sources: Sources, number: int) -> int:
        asked = id(draws), id(sources.files), sources.file_to_file, number
        return self._row(
            self._bursts, asked, lambda: burst_sizes(sources, draws, number), (draws, sources)
        )

    def _row(
        self, rows: list[Whole], asked: tuple[Any, ...], make: Callable[[], Whole], kept: object
    ) -> int:
        """The row that was made for what is asked; `kept` is what that tells by its identity."""
        place = self._places.get(asked)
        if place is None:
            place = self._places[asked] = len(rows)
            rows.append(make())
            self._asked_for.append(kept)
        return place


def _of_body(sources: Sources) -> Sequence[Uncertainty]:
    """By FACTORS_OF_BODY."""
    return (
        sources.held_mb, sources.memory_mb, sources.room, sources.frame_rate_fps,
        sources.process_fps,
    )  # fmt: skip


def _of_slot(sources: SlotSources) -> Sequence[Uncertainty]:
    """By KINDS_OF_SLOT."""
    return (
        sources.write_mb_s, sources.slot_share, sources.pace, sources.slot_limit_mb_s,
        sources.overhead_s, sources.cache_mb,
    )  # fmt: skip


def drawn_plans(scenario: Scenario, sources: Sources, draws: AnyDraws) -> Records:
    """The plan in each draw, but for the size of files."""
    columns = Columns(draws.count)
    drawn = np.array([columns.drawn(scenario, sources, draws)], dtype=DRAWN)
    plans = np.zeros(draws.count, dtype=PLAN)
    fill_plans(drawn, columns.ratios, columns.couplings, plans)
    return plans


def drawn_slots(
    nominal: Records, cards: Iterable[tuple[LoadedSlot, SlotSources, AnyDraws]], number: int
) -> Records:
    """The plan of slot `number`, 0 or 1, with each of `cards` in each draw (axes: card, draw).

    `nominal` has the plan of each card with every number as it is; all are drawn equally often.
    """
    of_each = list(cards)
    columns = Columns(of_each[0][2].count)
    sides = [
        side_values(slot, AS_NOMINAL, columns.of_slot(sources, draws, number))
        for slot, sources, draws in of_each
    ]
    drawn = np.empty((len(sides), columns.count), dtype=SLOT)
    fill_slots(nominal, np.array(sides, dtype=SIDE), columns.ratios, drawn)
    return drawn


def timed_as(coupling: int, slots: Records, scenario: Scenario, number: int) -> Records:
    """Plans of slot `number`, their times as with `coupling`."""
    ratio = timed_ratios(scenario, number)[coupling]
    if ratio == 1:
        return slots
    timed = slots.copy()
    for name in TIMES:
        timed[name] = np.rint(timed[name] * ratio)
    return timed


def drawn_holds(scenario: Scenario, sources: Sources, draws: AnyDraws) -> Whole:
    """The holds in each draw (axes: draw, hold, place): the same presses, files of other sizes."""
    holds = np.repeat(holds_of(scenario)[None], draws.count, axis=0)
    for number in range(holds.shape[1]):
        holds[:, number, FILE_SIZE] = burst_sizes(sources, draws, number)
    return holds


def burst_sizes(sources: Sources, draws: AnyDraws, number: int) -> Whole:
    """The size of files in burst `number`, from 0 on, in each draw, in parts of NOMINAL."""
    factor = Factor(FigureKind.BURST, number + 1) if number else BURST
    mean = draws.ratios(FILES, sources.files)
    return parts_of_nominal(mean * draws.ratios(factor, sources.between_bursts)).astype(np.int64)
