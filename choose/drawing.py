"""Money against readiness: what passes, what fails, what ties, and where money is wasted."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from engine.quantities import NS_IN_S
from engine.selection.choice import Choice
from engine.selection.options import NONE
from engine.selection.pareto import usable
from pages.axes import round_steps
from prices.amounts import CENTS

TICKS = 6
ROOM = 1.08  # the axes end a little past the last point
CLOUD_PAD = (1.4, 3.2)  # per cent around the points of a cloud
LEAST_S = 1.0
LEAST_CLEAR = 8.0  # per cent of the width: with less the shading would cover the whole chart
MOST_POINTS = 200  # more could not be told apart, nor be reached by keys


@dataclass(frozen=True)
class Point:
    """One set of cards in the drawing, at its best; `x`, `y` in per cent from the top left."""

    place: int
    x: float
    y: float
    passes: bool


@dataclass(frozen=True)
class Cloud:
    """A box around sets of cards without a practical difference."""

    x: float
    y: float
    width: float
    height: float
    count: int


@dataclass(frozen=True)
class MoneyDrawing:
    """Points, the front as a path in a square of 100, clouds, and where things stand."""

    points: Sequence[Point]
    front: str
    clouds: Sequence[Cloud]
    budget_x: float | None
    wasted_x: float | None
    wasted_width: float
    price_ticks: Sequence[tuple[float, float]]
    ready_ticks: Sequence[tuple[float, float]]


@dataclass(frozen=True)
class _Axes:
    most_cents: float
    most_s: float

    def x(self, cents: float) -> float:
        return round(100 * cents / self.most_cents, 2)

    def y(self, ready_s: float) -> float:
        return round(100 * ready_s / self.most_s, 2)


def draw_money(choice: Choice) -> MoneyDrawing | None:
    """The drawing; None where no card has a price."""
    found = [place for place in _best_of_sets(choice) if place not in choice.needless]
    places = list(dict.fromkeys([*choice.readiness_front, *found[:MOST_POINTS]]))
    if not places:
        return None
    price, ready_ns = choice.options.price_cents, choice.options.ready_ns
    axes = _Axes(
        most_cents=max(*(float(price[place]) for place in places), 100.0) * ROOM,
        most_s=max(*(float(ready_ns[place]) / NS_IN_S for place in places), LEAST_S) * ROOM,
    )

    def at(place: int) -> tuple[float, float]:
        return axes.x(float(price[place])), axes.y(float(ready_ns[place]) / NS_IN_S)

    passes = choice.options.passes
    budget, wasted = choice.need.budget_cents, choice.wasted_above_cents
    in_view = axes.x(wasted) if wasted is not None else 100.0
    return MoneyDrawing(
        points=[Point(place, *at(place), bool(passes[place])) for place in places],
        front=_stairs([at(place) for place in choice.readiness_front]),
        clouds=list(_clouds(choice, set(places), at)),
        budget_x=axes.x(budget) if budget is not None and budget < axes.most_cents else None,
        wasted_x=in_view if LEAST_CLEAR < in_view < 99 else None,
        wasted_width=round(100 - in_view, 2),
        price_ticks=[
            (price, axes.x(CENTS * price)) for price in round_steps(axes.most_cents / CENTS, TICKS)
        ],
        ready_ticks=[(ready_s, axes.y(ready_s)) for ready_s in round_steps(axes.most_s, TICKS)],
    )


def _best_of_sets(choice: Choice) -> Iterator[int]:
    """Of every set of cards with a price the best place: one that passes, or the soonest ready."""
    options = choice.options
    best: dict[tuple[int, ...], int] = {}
    order = sorted(
        np.flatnonzero(usable(options, choice.need)),
        key=lambda place: (not options.passes[place], options.ready_ns[place], place),
    )
    for place in order:
        cards = [int(options.first[place]), int(options.second[place])]
        best.setdefault(tuple(sorted(card for card in cards if card != NONE)), int(place))
    yield from best.values()


def _stairs(points: Sequence[tuple[float, float]]) -> str:
    """From point to point: what is soonest ready stays so until more money buys better."""
    if not points:
        return ""
    (x, y), *others = points
    return f"M{x} {y}" + "".join(f"H{x}V{y}" for x, y in others) + "H100"


def _clouds(
    choice: Choice, shown: set[int], at: Callable[[int], tuple[float, float]]
) -> Iterator[Cloud]:
    for group in choice.ties:
        points = {at(place) for place in group if place in shown}
        if len(points) > 1:
            xs, ys = zip(*points, strict=True)
            pad_x, pad_y = CLOUD_PAD
            yield Cloud(
                x=min(xs) - pad_x,
                y=min(ys) - pad_y,
                width=max(xs) - min(xs) + 2 * pad_x,
                height=max(ys) - min(ys) + 2 * pad_y,
                count=len(points),
            )
