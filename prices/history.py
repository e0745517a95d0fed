"""The history of a price as a small drawing."""

from collections.abc import Sequence
from dataclasses import dataclass

from engine.formats import day, figure
from prices.money import Priced, Quote

WIDTH, HEIGHT, PAD = 100.0, 24.0, 2.0


@dataclass(frozen=True)
class Sparkline:
    """A line through the prices of a card in the currency of its newest one, and in words."""

    path: str
    last: tuple[float, float]
    words: str
    scale: str


def sparkline(priced: Priced) -> Sparkline | None:
    """The drawing of the dated prices; None with fewer than two of them."""
    now = priced.now
    dated = [one for one in priced.history if one.on and now and one.currency == now.currency]
    if len(dated) < 2:
        return None
    points = _points(dated)
    path = "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)
    lowest, highest = (one(dated, key=lambda quote: quote.price) for one in (min, max))
    scale = f"{figure(float(lowest.price))} to {figure(float(highest.price))}"
    return Sparkline(path=path, last=points[-1], words=_in_words(dated), scale=scale)


def _points(dated: Sequence[Quote]) -> list[tuple[float, float]]:
    days = [one.on.toordinal() for one in dated if one.on]
    prices = [float(one.price) for one in dated]
    span_days, span = max(days[-1] - days[0], 1), max(prices) - min(prices)
    return [
        (
            PAD + (WIDTH - 2 * PAD) * (day - days[0]) / span_days,
            HEIGHT / 2 if not span else PAD + (HEIGHT - 2 * PAD) * (max(prices) - price) / span,
        )
        for day, price in zip(days, prices, strict=True)
    ]


def _in_words(dated: Sequence[Quote]) -> str:
    first, last = dated[0], dated[-1]
    lowest = min(dated, key=lambda one: one.price)
    (a, on_a), (b, on_b), (c, on_c) = ((one.amount, day(one.on)) for one in (first, last, lowest))
    return f"{a} on {on_a}, {b} on {on_b}; lowest {c} on {on_c}"
