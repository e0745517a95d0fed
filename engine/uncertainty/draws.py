"""Set-ups as draws have them: a scenario's numbers, each drawn from what is known of it.

Draws are stratified: a factor takes each of its quantiles once, in an order of its own. That order
follows from the factor's name alone (common random numbers), so that a set-up is drawn the same
whatever it is drawn beside, and that two set-ups differ by what differs in them.
"""

import hashlib
import math
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from engine.burst.plan import (
    COUPLING_NUMBER,
    FILE_SIZE,
    NOMINAL,
    SLOT,
    Records,
    SlotPlan,
    holds_of,
    parts_of_nominal,
    plan_of,
    power_of_two,
)
from engine.burst.scenario import LoadedSlot, Scenario
from engine.figures.key import Factor, FigureKind
from engine.figures.uncertainty import EXACT, Uncertainty
from engine.uncertainty.sources import (
    BURST,
    COUPLING,
    ENCODER,
    FACTORS,
    FILES,
    FRAME_RATE,
    HELD,
    MEMORY,
    ODDS_OF_COUPLING,
    ROOM,
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
        if not (self._varies(factor) and uncertainty.spread):
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
        return np.full((count, 1), NOMINAL, dtype=np.int32)
    return _sizes(count, min(NOISE_LENGTH, max(NOISE_BLOCK, power_of_two(frames))), spread)


@lru_cache(maxsize=64)
def _sizes(count: int, length: int, spread: float) -> Sizes:
    noise = np.concatenate([_noise(count, block) for block in range(length // NOISE_BLOCK)], axis=1)
    return np.ascontiguousarray(parts_of_nominal(np.exp(spread * noise)), dtype=np.int32)


def drawn_plans(scenario: Scenario, sources: Sources, draws: AnyDraws) -> Records:
    """The plan in each draw, but for the size of files."""
    plans = drawn_bodies(scenario, sources, draws)
    for number, slot in enumerate(scenario.slots):
        nominal = plans["slots"][0, number].copy()
        slots = drawn_slots(nominal, slot, sources.slots[number], draws, number)
        if scenario.arrangement.splits:
            for coupling in np.unique(plans["coupling"]):
                chosen = plans["coupling"] == coupling
                slots[chosen] = timed_as(coupling, slots[chosen], scenario, number)
        plans["slots"][:, number] = slots
    return plans


def timed_as(coupling: int, slots: Records, scenario: Scenario, number: int) -> Records:
    """Plans of slot `number`, their times as with `coupling`.

    Of split, coupled as "slowest", a frame takes the time of all its files.
    """
    if not scenario.arrangement.splits:
        return slots
    slowest = coupling == COUPLING_NUMBER["slowest"]
    timed_bytes = scenario.file_bytes if slowest else scenario.bytes_to(number)
    if timed_bytes == scenario.timed_bytes(number):
        return slots
    timed, share = slots.copy(), timed_bytes / scenario.timed_bytes(number)
    for name in TIMES:
        timed[name] = np.rint(timed[name] * share)
    return timed


def drawn_bodies(scenario: Scenario, sources: Sources, draws: AnyDraws) -> Records:
    """The plan in each draw with the slots at their nominal speeds, sizes of files too."""
    plans = np.repeat(plan_of(scenario), draws.count)
    _scale(plans, "held_bytes", draws.ratios(HELD, sources.held_mb))
    room = draws.ratios(MEMORY, sources.memory_mb) * draws.ratios(ROOM, sources.room)
    _scale(plans, "memory_bytes", room)
    _scale(plans, "interval_ns", 1 / draws.ratios(FRAME_RATE, sources.frame_rate_fps))
    _scale(plans, "encode_ns", 1 / draws.ratios(ENCODER, sources.process_fps))
    plans["coupling"] = draws.couplings(scenario, sources)
    return plans


def drawn_slots(
    nominal: SlotPlan, slot: LoadedSlot, sources: SlotSources, draws: AnyDraws, number: int
) -> Records:
    """The plan of `slot`, number 0 or 1 and nominally `nominal`, in each draw.

    Card and slot are drawn independently, and the lesser counts; the bus caps both.
    """
    place = number + 1
    card = draws.ratios(Factor(FigureKind.CARD, place), sources.write_mb_s)
    share = draws.ratios(Factor(FigureKind.SHARE, place), sources.slot_share)
    pace = draws.ratios(Factor(FigureKind.PACE, place), sources.pace)
    limit_mb_s = slot.slot_limit_mb_s or math.inf
    most_mb_s = limit_mb_s * draws.ratios(Factor(FigureKind.SLOT, place), sources.slot_limit_mb_s)
    most_mb_s = np.minimum(most_mb_s, slot.bus_mb_s or math.inf)
    drawn = np.repeat(np.array(nominal, dtype=SLOT)[None], draws.count)
    speeds_mb_s = (
        (slot.write_mb_s, slot.effective_mb_s),
        (slot.cache_write_mb_s or slot.write_mb_s, slot.cached_mb_s),
        (slot.write_mb_s * slot.slow_factor, slot.slow_mb_s),
    )
    for name, (card_mb_s, nominal_mb_s) in zip(TIMES, speeds_mb_s, strict=True):
        drawn_mb_s = np.minimum(card_mb_s * slot.slot_share * card * share, most_mb_s)
        _scale(drawn, name, nominal_mb_s / (drawn_mb_s * slot.pace * pace))
    overhead = draws.ratios(Factor(FigureKind.OVERHEAD, place), sources.overhead_s)
    cache = draws.ratios(Factor(FigureKind.CACHE, place), sources.cache_mb)
    _scale(drawn, "overhead_ns", overhead)
    _scale(drawn, "cache_bytes", cache)
    _scale(drawn, "flush_bytes_s", card * share)
    return drawn


def drawn_holds(scenario: Scenario, sources: Sources, draws: AnyDraws) -> Whole:
    """The holds in each draw (axes: draw, hold, place): the same presses, files of other sizes."""
    holds = np.repeat(holds_of(scenario)[None], draws.count, axis=0)
    mean = draws.ratios(FILES, sources.files)
    for number in range(holds.shape[1]):
        factor = Factor(FigureKind.BURST, number + 1) if number else BURST
        of_burst = mean * draws.ratios(factor, sources.between_bursts)
        holds[:, number, FILE_SIZE] = parts_of_nominal(of_burst)
    return holds


def _scale(drawn: Records, name: str, ratios: Real) -> None:
    """Multiplies what all draws have alike of `name`; what is 0 stays 0."""
    nominal = drawn[name][0]
    if nominal:
        drawn[name] = np.rint(nominal * ratios)
