"""Set-ups as rows of tables that they share, which compiled code makes their plans from.

Thousands of set-ups are made of few bodies, few cards and few things that are drawn. Each of these
is worked out once and gets a row; a set-up is the numbers of its rows.
"""

from collections.abc import Callable, Hashable, Iterable, Sequence
from functools import partial
from typing import Any, Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from engine.burst.plan import PLAN, SLOT, Records, body_values, hold_values, slot_values
from engine.burst.scenario import MOST_SLOTS, LoadedSlot, Scenario
from engine.figures.key import Factor
from engine.figures.uncertainty import Uncertainty
from engine.uncertainty.drawing import (
    AS_NOMINAL,
    BODY,
    FACTORS_OF_BODY,
    FACTORS_OF_SLOTS,
    NO_ROW,
    SET_UP,
    SIDE,
    fill_plans,
    fill_slots,
    side_values,
    timed_ratios,
)
from engine.uncertainty.draws import AnyDraws, burst_sizes
from engine.uncertainty.sources import SlotSources, Sources

Whole = NDArray[np.int64]
Real = NDArray[np.float64]
_Row = TypeVar("_Row")


class _Table(Generic[_Row]):
    """Rows in the order in which they were first asked for."""

    def __init__(self) -> None:
        self.rows: list[_Row] = []
        self._numbers: dict[Hashable, int] = {}

    def number(self, asked: Hashable, make: Callable[[], _Row]) -> int:
        """The number of the row that is known by `asked`; `make` gives a new one."""
        number = self._numbers.get(asked)
        if number is None:
            number = self._numbers[asked] = len(self.rows)
            self.rows.append(make())
        return number


class SetUpTables:
    """The tables of some set-ups, all of them drawn `count` times.

    Sources and draws are told apart by their identity, and kept so that nothing else gets it.
    """

    def __init__(self, count: int) -> None:
        self.count = count
        self._ratios = _Table[Real]()
        self._couplings = _Table[Whole]()
        self._burst_sizes = _Table[Whole]()
        self._bodies = _Table[tuple[Any, ...]]()
        self._sides = _Table[tuple[Any, ...]]()
        self._holds = _Table[list[tuple[int, ...]]]()
        self._bursts = _Table[list[int]]()
        self._known: dict[Hashable, tuple[tuple[int, ...], list[tuple[int, ...]]]] = {}
        self._kept: list[object] = []

    @property
    def ratios(self) -> Real:
        """For each number that is drawn, what it is multiplied by in each draw."""
        return np.array(self._ratios.rows).reshape(-1, self.count)

    @property
    def couplings(self) -> Whole:
        """The number of the coupling in each draw."""
        return np.array(self._couplings.rows, dtype=np.int64).reshape(-1, self.count)

    @property
    def burst_sizes(self) -> Whole:
        """The size of a burst's files in each draw, in parts of NOMINAL."""
        return np.array(self._burst_sizes.rows, dtype=np.int64).reshape(-1, self.count)

    @property
    def bodies(self) -> Records:
        """A BODY for each."""
        return np.array(self._bodies.rows, dtype=BODY)

    @property
    def sides(self) -> Records:
        """A SIDE for each slot with its card."""
        return np.array(self._sides.rows, dtype=SIDE)

    @property
    def holds(self) -> Whole:
        """The holds of a burst or a series (axes: row, hold, place)."""
        return np.array(self._holds.rows, dtype=np.int64)

    @property
    def bursts(self) -> Whole:
        """The row of `burst_sizes` for each hold (axes: row, hold)."""
        return np.array(self._bursts.rows, dtype=np.int64)

    def set_up(self, scenario: Scenario, sources: Sources, draws: AnyDraws) -> tuple[Any, ...]:
        """The fields of SET_UP."""
        of_body, of_slots = self._of_sources(sources, draws)
        body = *body_values(scenario), of_body
        sides = [self._side(scenario, *one) for one in enumerate(of_slots)]
        return (
            self._bodies.number(body, lambda: body),
            self._holds.number(scenario.holds_ns, lambda: hold_values(scenario)),
            self._burst(scenario, sources, draws),
            self._coupling(scenario, sources, draws),
            sides + [NO_ROW] * (MOST_SLOTS - len(sides)),
        )

    def of_slot(self, sources: SlotSources, draws: AnyDraws, number: int) -> tuple[int, ...]:
        """The rows of `ratios` of slot `number`, 0 or 1, by KINDS_OF_SLOT."""
        return self._of_factors(draws, FACTORS_OF_SLOTS[number], _of_slot(sources))

    def _of_sources(
        self, sources: Sources, draws: AnyDraws
    ) -> tuple[tuple[int, ...], list[tuple[int, ...]]]:
        """The rows of `ratios` of a body, by FACTORS_OF_BODY, and of its slots."""
        asked = id(draws), id(sources)
        known = self._known.get(asked)
        if known is None:
            known = self._known[asked] = (
                self._of_factors(draws, FACTORS_OF_BODY, _of_body(sources)),
                [self.of_slot(one, draws, number) for number, one in enumerate(sources.slots)],
            )
            self._kept.append((sources, draws))
        return known

    def _side(self, scenario: Scenario, number: int, columns: tuple[int, ...]) -> int:
        slot, files = scenario.slots[number], scenario.files
        asked = slot, number, columns, files, scenario.arrangement, scenario.coupling

        def make() -> tuple[Any, ...]:
            nominal, timed = slot_values(scenario, number), timed_ratios(scenario, number)
            return side_values(slot, nominal, timed, columns)

        return self._sides.number(asked, make)

    def _burst(self, scenario: Scenario, sources: Sources, draws: AnyDraws) -> int:
        holds = 1 + len(scenario.later_holds)
        of_files = id(draws), id(sources.files), sources.file_to_file

        def size(number: int) -> int:
            make = partial(burst_sizes, sources, draws, number)
            return self._burst_sizes.number((*of_files, number), make)

        return self._bursts.number((*of_files, holds), lambda: [size(one) for one in range(holds)])

    def _coupling(self, scenario: Scenario, sources: Sources, draws: AnyDraws) -> int:
        both = scenario.arrangement.writes_both
        asked = id(draws), scenario.coupling, sources.knows_coupling, both
        return self._couplings.number(asked, lambda: draws.couplings(scenario, sources))

    def _of_factors(
        self, draws: AnyDraws, factors: Sequence[Factor], uncertainties: Sequence[Uncertainty]
    ) -> tuple[int, ...]:
        return tuple(
            [
                self._ratio(draws, factor, uncertainty)
                for factor, uncertainty in zip(factors, uncertainties, strict=True)
            ]
        )

    def _ratio(self, draws: AnyDraws, factor: Factor, uncertainty: Uncertainty) -> int:
        ratios = draws.ratios(factor, uncertainty)
        return self._ratios.number(id(ratios), lambda: ratios)


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
    tables = SetUpTables(draws.count)
    set_ups = np.array([tables.set_up(scenario, sources, draws)], dtype=SET_UP)
    plans = np.zeros(draws.count, dtype=PLAN)
    fill_plans(set_ups, tables.bodies, tables.sides, tables.ratios, tables.couplings, plans)
    return plans


def drawn_slots(
    nominal: Records, cards: Iterable[tuple[LoadedSlot, SlotSources, AnyDraws]], number: int
) -> Records:
    """The plan of slot `number`, 0 or 1, with each of `cards` in each draw (axes: card, draw).

    `nominal` has the plan of each card with every number as it is; all are drawn equally often.
    """
    of_each = list(cards)
    tables = SetUpTables(of_each[0][2].count)
    sides = [
        side_values(slot, as_it_is, AS_NOMINAL, tables.of_slot(sources, draws, number))
        for as_it_is, (slot, sources, draws) in zip(nominal.tolist(), of_each, strict=True)
    ]
    drawn = np.empty((len(sides), tables.count), dtype=SLOT)
    fill_slots(np.array(sides, dtype=SIDE), tables.ratios, drawn)
    return drawn
