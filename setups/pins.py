"""Set-ups pinned for comparing: up to six, kept in the address as `pin`."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from urllib.parse import parse_qsl, urlencode

from setups import keys

MOST_PINS = 6
LONGEST_PIN = 600
SAID = (
    keys.BODY, keys.FORMAT, keys.FRAME_RATE, keys.HOLD, keys.ARRANGEMENT,
    keys.card(1), keys.card(2),
)  # fmt: skip
UNITS = {keys.FRAME_RATE: "{} fps", keys.HOLD: "{} s"}


@dataclass(frozen=True)
class Pin:
    """A pinned set-up: the query of its view, and the query of the pins that stay without it."""

    query: str
    others: str

    @property
    def words(self) -> str:
        """Which set-up it is, told from its query alone."""
        choices = dict(parse_qsl(self.query))
        said = (UNITS.get(key, "{}").format(choices[key]) for key in SAID if key in choices)
        return " · ".join(word.replace("-", " ") for word in said)


@dataclass(frozen=True)
class Pins:
    """The pins of one view."""

    queries: Sequence[str]

    @classmethod
    def of(cls, asked: Sequence[str]) -> "Pins":
        """The first six pins of an address, each once; what is no set-up is left out."""
        kept = [pin for pin in dict.fromkeys(asked) if len(pin) <= LONGEST_PIN and parse_qsl(pin)]
        return cls(kept[:MOST_PINS])

    @property
    def query(self) -> str:
        """To be put behind the query of a view, so that the pins stay."""
        return "".join(f"&{keys.as_pin(pin)}" for pin in self.queries)

    @property
    def all(self) -> list[Pin]:
        return [
            Pin(pin, Pins([other for other in self.queries if other != pin]).query)
            for pin in self.queries
        ]

    def moved(self, number: int, by: int) -> "Pins":
        """These pins, the one at `number` (from 0) put `by` places further on."""
        order = list(self.queries)
        order.insert(max(0, number + by), order.pop(number))
        return Pins(order)

    def swapped(self, parts: Mapping[str, str]) -> "Pins":
        """These pins, each with `parts` in place of its own."""
        return Pins.of([urlencode({**dict(parse_qsl(pin)), **parts}) for pin in self.queries])

    @property
    def full(self) -> bool:
        return len(self.queries) >= MOST_PINS
