"""Set-ups pinned for comparing: up to six, kept in the address as `pin`."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from urllib.parse import parse_qsl, urlencode

from setups import keys
from setups.kit import Kit
from setups.reader import Reading, read_query

MOST_PINS = 6
LONGEST_PIN = 600


@dataclass(frozen=True)
class Pin:
    """A pinned set-up: the query of its view, that of the other pins, and what it stands for."""

    query: str
    others: str
    reading: Reading

    @property
    def words(self) -> str:
        """What it is called."""
        return self.reading.setup.name


@dataclass(frozen=True)
class Pins:
    """The pins of one view."""

    queries: Sequence[str]
    kit: Kit

    @classmethod
    def of(cls, asked: Sequence[str], kit: Kit) -> "Pins":
        """The first six pins of an address, each once; what is no set-up is left out."""
        kept = [pin for pin in dict.fromkeys(asked) if len(pin) <= LONGEST_PIN and parse_qsl(pin)]
        return cls(kept[:MOST_PINS], kit)

    @property
    def query(self) -> str:
        """To be put behind the query of a view, so that the pins stay."""
        return "".join(f"&{keys.as_pin(pin)}" for pin in self.queries)

    @property
    def all(self) -> list[Pin]:
        return [
            Pin(pin, self._without(pin), reading)
            for pin in self.queries
            if (reading := read_query(pin, self.kit))
        ]

    def _without(self, pin: str) -> str:
        """The query of the others; of the last one, that nothing is pinned any more."""
        others = self._with(other for other in self.queries if other != pin)
        return others.query or f"&{keys.as_pin('')}"

    def _with(self, queries: Iterable[str]) -> "Pins":
        return Pins(list(queries), self.kit)

    def moved(self, number: int, by: int) -> "Pins":
        """These pins, the one at `number` (from 0) put `by` places further on."""
        order = list(self.queries)
        order.insert(max(0, number + by), order.pop(number))
        return self._with(order)

    def swapped(self, parts: Mapping[str, str]) -> "Pins":
        """These pins, each with `parts` in place of its own."""
        swapped = [urlencode({**dict(parse_qsl(pin)), **parts}) for pin in self.queries]
        return Pins.of(swapped, self.kit)

    @property
    def full(self) -> bool:
        return len(self.queries) >= MOST_PINS
