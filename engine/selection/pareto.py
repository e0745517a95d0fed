"""Keep the cheapest options, the Pareto fronts and each card's best."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from engine.selection.goals import GOALS, columns_of, goals_of
from engine.selection.options import NONE, Options
from engine.selection.requirements import Need

KEPT = 150  # passing options that a result keeps, the cheapest first; nobody reads more


@dataclass(frozen=True, eq=False)
class Shortlist:
    """What evaluating some options came to, kept small enough to store, and to be added up.

    `options` are the cheapest that pass, those that no other beats for its price, and the best of
    every card; `counted` and `passing` count all of them. `no_wall` is the least share of
    draws in which memory never refuses a frame, that of any option.
    """

    options: Options
    counted: int
    passing: int
    no_wall: float

    @classmethod
    def nothing(cls) -> Self:
        """What no options come to."""
        return cls(Options.nothing(), counted=0, passing=0, no_wall=1.0)

    @classmethod
    def of(cls, options: Options, need: Need) -> Self:
        """The digest of `options`, some or all of those of an evaluation."""
        kept = np.unique(np.concatenate(list(_worth_keeping(options, need))))
        return cls(
            options=options.at(kept),
            counted=len(options),
            passing=int(options.passes.sum()),
            no_wall=_least(options),
        )

    @classmethod
    def added(cls, parts: Sequence[Self], need: Need) -> Self:
        """What `parts`, at least one, come to together."""
        options = Options.joined([part.options for part in parts])
        return replace(
            cls.of(options, need),
            counted=sum(part.counted for part in parts),
            passing=sum(part.passing for part in parts),
            no_wall=min(part.no_wall for part in parts),
        )

    def with_odds(self, options: Options) -> Self:
        """The same with better known odds of what is kept."""
        return replace(
            self,
            options=options,
            passing=self.passing + int(options.passes.sum()) - int(self.options.passes.sum()),
            no_wall=min(self.no_wall, _least(options)),
        )


def _least(options: Options) -> float:
    return float(options.no_wall.min(initial=1.0))


def _worth_keeping(options: Options, need: Need) -> Iterator[NDArray[np.integer]]:
    order = options.order
    yield order[options.passes[order]][:KEPT]
    yield from fronts(options, need)
    yield np.array(list(best_of_cards(options).values()), dtype=np.int64)


def usable(options: Options, need: Need) -> NDArray[np.bool_]:
    """Which of them have a known price and do all that is certain, whatever they cost."""
    wanted = columns_of([goal for goal in goals_of(need) if goal.is_certain_first])
    meets = np.all(options.chance[:, wanted] >= need.sure, axis=1)
    return np.asarray(meets & (options.price_cents != NONE))


def fronts(options: Options, need: Need) -> tuple[NDArray[np.integer], ...]:
    """The places that no other beats for its price: in readiness, at full speed, in copying.

    Copying is compared where all copy the same frames: a smaller card is copied sooner when full.
    """
    among = np.flatnonzero(usable(options, need))
    copying = among if need.names_a_day else among[:0]
    return (
        _front(options.price_cents, options.ready_ns, among),
        _front(options.price_cents, -options.full_speed, among),
        _front(options.price_cents, options.copy_s, copying),
    )


def _front(
    price: NDArray[np.integer], worse: NDArray[np.integer] | NDArray[np.float32],
    among: NDArray[np.integer],
) -> NDArray[np.integer]:  # fmt: skip
    """Of the places `among`, those with nothing as good for as little; the cheapest first."""
    order = among[np.lexsort((among, worse[among], price[among]))]
    if not len(order):
        return order
    best_before = np.minimum.accumulate(worse[order])[:-1]
    better = np.concatenate([[True], worse[order][1:] < best_before])
    return np.asarray(order[better & np.isfinite(worse[order])])


def closest(options: Options) -> NDArray[np.integer]:
    """All places: those that pass in their order, then what misses a late goal, and that closely.

    Goals are asked in order, so that of two options the one that misses the later goal got further.
    """
    order = options.order
    ranked = np.empty(len(options), dtype=np.int64)
    ranked[order] = range(len(options))
    further = np.where(options.passes, len(GOALS), options.missed.astype(np.int64))
    margin = np.where(options.passes, 0, options.margin)
    return np.lexsort((ranked, -margin, -further))


def best_of_cards(options: Options) -> dict[int, int]:
    """For each card its best place: one that passes, or else one that comes closest to it."""
    places = closest(options)
    best: dict[int, int] = {}
    for numbers in (options.first, options.second):
        cards, ranks = np.unique(numbers[places], return_index=True)
        for card, rank in zip(cards, ranks, strict=True):
            if card != NONE and rank < best.get(int(card), len(places)):
                best[int(card)] = int(rank)
    return {card: int(places[rank]) for card, rank in best.items()}
