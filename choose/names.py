"""What the options of a choice are called, what they cost, and where they open."""

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from urllib.parse import urlencode

from choose.evaluating import EvaluatedCard
from choose.need_address import NeedReading
from engine.formats import exact, written
from engine.selection.choice import Choice
from engine.selection.options import NONE
from kit.card_classes import MAKER
from kit.models import Card
from kit.models.body import WORDS_OF_ARRANGEMENT
from prices.amounts import amount
from setups.setup import Setup, Side, caution

SHOWN_OF_GROUP = 6  # as many as can be compared


@dataclass(frozen=True)
class NamedOption:
    """One option: what it is called, what it costs, and where it opens on the Desk.

    `caution` names the cards of which nobody knows whether they mount; `more` are further cards
    of one's own kinds that it takes, where nothing else has to be bought.
    """

    place: int
    cards: str
    mode: str
    price: str
    priced: bool
    query: str
    caution: str
    more: str


@dataclass(frozen=True)
class Names:
    """The options of `choice` as shown; `setups` are its modes, `evaluated` its cards."""

    reading: NeedReading
    evaluated: Sequence[EvaluatedCard]
    setups: Sequence[Setup]
    choice: Choice

    def shown(self, place: int) -> NamedOption:
        """The option at `place`."""
        setup = self.setup(place)
        mode = f"{setup.recording} at {exact(setup.rate.fps)} fps" if len(self.setups) > 1 else ""
        return NamedOption(
            place=place,
            cards=self.cards(place),
            mode=mode,
            price=self.price(place),
            priced=int(self.choice.options.price_cents[place]) != NONE,
            query=urlencode(setup.address),
            caution=self.caution(place),
            more=self.more(place),
        )

    def price(self, place: int) -> str:
        """What has to be bought, in words."""
        cents = int(self.choice.options.price_cents[place])
        if cents == NONE:
            return "price not known"
        if not cents and all(card.is_owned for card in self._cards(place)):
            return "yours"
        return amount(cents, self.reading.money)

    def cards(self, place: int) -> str:
        """The cards by name, how many of them, and how two of them are written to."""
        cards = self._cards(place)
        names = [name_of(card, self.reading) for card in cards]
        of_class = {name for card, name in zip(cards, names, strict=True) if card.of_class}
        sets = int(self.choice.options.sets[place])
        said = " and ".join(
            _several(name, sets * count, of_class=name in of_class)
            for name, count in Counter(names).items()
        )
        swapped = ", swapped in turn" if sets > 1 else ""
        if len(names) == 1:
            return f"{said}{swapped}"
        return f"{said}, {WORDS_OF_ARRANGEMENT[self.choice.option(place).use.arrangement]}{swapped}"

    def more(self, place: int) -> str:
        """Further cards of one's own kinds, in words; empty where others have to be bought too."""
        cards, sets = self._cards(place), int(self.choice.options.sets[place])
        if not all(card.is_owned for card in cards):
            return ""
        pieces = Counter(name_of(card, self.reading) for card in cards)
        to_buy = {name: sets * count - 1 for name, count in pieces.items()}
        return " and ".join(
            f"{'one' if count == 1 else count} more {name}"
            for name, count in to_buy.items()
            if count
        )

    def caution(self, place: int) -> str:
        """What has to be tested before it is relied on; empty: nothing."""
        told = (
            caution(name_of(one.card, self.reading), one.held[slot].slot, one.held[slot].fit)
            for slot, one in enumerate(self._evaluated(place))
        )
        return " ".join(filter(None, told))

    def setup(self, place: int) -> Setup:
        """The set-up of the Desk."""
        mode, kind, _, _ = self.choice.options.which(place)
        base = self.setups[mode]
        arrangements = list(base.body.arrangements.all())
        pairs = zip(base.body.slots.all(), self._cards(place), strict=False)
        return replace(
            base,
            hold_s=self.choice.need.lasts_s,
            sides=tuple(
                Side(slot=slot, card=card, free_gb=self._free_gb(card)) for slot, card in pairs
            ),
            arrangement=arrangements[kind] if arrangements else None,
        )

    def _free_gb(self, card: Card) -> float | None:
        """The room that the need says is left on it; None: all of it."""
        free_gb = self.choice.need.free_gb
        return free_gb if free_gb is not None and free_gb < card.capacity_gb else None

    def _cards(self, place: int) -> list[Card]:
        return [one.card for one in self._evaluated(place)]

    def _evaluated(self, place: int) -> list[EvaluatedCard]:
        _, _, *numbers = self.choice.options.which(place)
        return [self.evaluated[number] for number in numbers if number != NONE]


@dataclass(frozen=True)
class Group:
    """Options that are practically the same: the cheapest, some `others`, and the dearest."""

    shown: Sequence[NamedOption]
    others: int
    dearest: NamedOption

    @property
    def unnamed(self) -> int:
        """How many there are besides the cheapest and the dearest."""
        return self.others - 1

    @property
    def more(self) -> int:
        """How many there are besides those that are shown."""
        return self.others + 1 - len(self.shown)


def tie_groups(names: Names) -> Iterator[Group]:
    """The groups of what passes, one place a set of cards, second cards without use left out."""
    seen: set[str] = set()
    for group in names.choice.ties:
        fresh = []
        for place in group:
            cards = names.cards(place)
            if place not in names.choice.needless and cards not in seen:
                seen.add(cards)
                fresh.append(place)
        if fresh:
            shown = [names.shown(place) for place in fresh[:SHOWN_OF_GROUP]]
            yield Group(shown, len(fresh) - 1, names.shown(fresh[-1]))


def _several(name: str, pieces: int, *, of_class: bool) -> str:
    """So many cards of one name; "any" is said of one card alone."""
    if pieces == 1:
        return name
    return f"{pieces} {name.removeprefix(f'{MAKER} ')}" if of_class else f"{pieces} of the {name}"


def name_of(card: Card, reading: NeedReading) -> str:
    """What a card is called; brand-free by what it is."""
    if not reading.plain:
        return str(card)
    return f"{card.form} {exact(card.capacity_gb)} GB, {written(card.write_mb_s)} MB/s"
