"""The templates' environment: what all rooms give them, and nothing else."""

from typing import Any, Self

from jinja2 import ChainableUndefined, Environment

from kit import template_functions as of_kit
from pages import template_functions as of_pages
from prices import template_functions as of_prices
from setups import template_functions as of_setups

ROOMS = (of_pages, of_kit, of_prices, of_setups)


class LeftOut(ChainableUndefined):
    """What a view has left out, and all that would be of it: none, and said as nothing."""

    __slots__ = ()

    def __call__(self, *args: object, **kwargs: object) -> Self:  # type: ignore[override]
        return self


def environment(**options: Any) -> Environment:
    """As the settings name it."""
    made = Environment(**options | {"undefined": LeftOut})  # noqa: S701 - options has autoescape
    made.globals = {name: one for room in ROOMS for name, one in room.FUNCTIONS.items()}
    made.tests["none"] = lambda value: value is None or isinstance(value, LeftOut)
    for room in ROOMS:
        made.filters.update(room.FILTERS)
    return made
