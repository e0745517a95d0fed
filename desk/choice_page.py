"""All that Choose shows of one need: the answer with its reasons, and every card with why."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from urllib.parse import urlencode

from desk.changes import WORDS_OF_ARRANGEMENT
from desk.choice_drawing import MoneyDrawing, draw_money
from desk.choice_words import goal_lines, miss_words, money, safety_words, step_words
from desk.choosing import (
    MOST_BLOCKS,
    Impasse,
    Progress,
    WayOut,
    Weighed,
    evaluation_of,
    go_on,
    weigh,
)
from desk.need_address import NeedReading
from desk.setup import Setup, Side
from engine import simulate
from engine.choose import Choice, Step
from engine.options import NONE
from kit.models import Card, Visitor
from pages.templatetags.figures import exact
from prices.history import Sparkline, sparkline

GROUPS_SHOWN = 8
IN_A_GROUP = 6  # as many as can be compared


@dataclass(frozen=True)
class Shown:
    """One option: what it is called, what it costs, and where it opens on the Desk."""

    place: int
    cards: str
    way: str
    price: str
    query: str
    lines: Sequence[tuple[str, str, str]]


@dataclass(frozen=True)
class CardRow:
    """One card, and why: what it does at its best, or what it misses, or why it does not fit."""

    weighed: Weighed
    name: str
    price: str
    history: Sparkline | None
    verdict: str
    why: str
    shown: Shown | None

    @property
    def key(self) -> str:
        """Tells its price field from the others."""
        return self.weighed.card.slug


@dataclass(frozen=True)
class Bought:
    """A step along a front, in words."""

    shown: Shown
    more: str
    buys: str
    each: str


class ChoicePage:
    """Everything that is shown, each part worked out when the page asks for it."""

    def __init__(self, reading: NeedReading, visitor: Visitor, *, stopped: bool = False) -> None:
        self.reading = reading
        self.visitor = visitor
        self.stopped = stopped
        self.weighed = weigh(reading, visitor) if reading.need else []

    @cached_property
    def progress(self) -> Progress | None:
        """How far the evaluation is; None where there is none to be had."""
        need = self.reading.need
        if need is None or not any(one.counts for one in self.weighed):
            return None
        evaluation = evaluation_of(self.reading.setups, self.weighed, need)
        if len(evaluation.blocks) > MOST_BLOCKS:
            return None
        return go_on(evaluation, work_s=0 if self.stopped else 0.4)

    @property
    def too_many(self) -> bool:
        """Whether there are more pairs of cards than can be weighed in some minutes."""
        return (
            self.reading.need is not None
            and self.progress is None
            and any(one.counts for one in self.weighed)
        )

    @property
    def choice(self) -> Choice | None:
        """What came of it."""
        return self.progress.choice if self.progress else None

    @property
    def currency(self) -> str:
        return self.reading.money

    @property
    def without_rate(self) -> list[str]:
        """The currencies of prices that can't be added up."""
        quotes = (one.priced.now for one in self.weighed if one.lacks_rate)
        return sorted({quote.currency for quote in quotes if quote})

    @property
    def without_price(self) -> int:
        """How many cards that would have to be bought have no price at all."""
        return sum(
            one.priced.now is None and not one.candidate.owned and one.counts
            for one in self.weighed
        )

    @cached_property
    def answer(self) -> Shown | None:
        """The cheapest that passes."""
        if self.choice is None or self.choice.answer is None:
            return None
        return self._shown(self.choice.answer)

    @cached_property
    def groups(self) -> list[list[Shown]]:
        """What passes, in groups that nobody could tell apart; one place a set of cards."""
        if self.choice is None:
            return []
        groups = []
        seen: set[str] = set()
        for group in self.choice.ties:
            one_a_set: dict[str, int] = {}
            for place in group:
                if place not in self.choice.needless:
                    one_a_set.setdefault(self._cards(place), place)
            fresh = {cards: place for cards, place in one_a_set.items() if cards not in seen}
            seen |= fresh.keys()
            if fresh:
                groups.append([self._shown(place) for place in fresh.values()])
        return groups[:GROUPS_SHOWN]

    @property
    def first_group(self) -> list[Shown]:
        """The answer and what nobody could tell from it."""
        return self.groups[0] if self.groups else []

    @property
    def tying(self) -> list[list[Shown]]:
        """The groups of more than one."""
        return [group for group in self.groups if len(group) > 1]

    @cached_property
    def impasse(self) -> list[WayOut]:
        """What to change where no card does it."""
        if self.choice is None or self.choice.answer is not None or self.reading.need is None:
            return []
        if self.progress and self.progress.total > len(self.reading.setups):
            return []  # so many cards that trying other formats would take minutes
        return Impasse(self.reading, self.weighed, self.reading.need).ways_out

    @property
    def ways_out(self) -> Iterator[tuple[str, str, Shown]]:
        """Each change, the query of this screen with it, and what is then chosen."""
        for way in self.impasse:
            keys = dict(self.reading.shown) | {"body": self.reading.desk.setup.body.slug}
            setup = way.setups[0]
            if len(way.setups) == 1:
                keys |= {"format": setup.recording.slug, "fps": exact(setup.rate.fps)}
            if way.choice.need.copies == 1:
                keys["copies"] = "1"
            if way.choice.need.budget_cents is None:
                keys["budget"] = ""
            yield way.words, urlencode(keys), self._of(way.choice, way.setups, way.place)

    @cached_property
    def nearest(self) -> tuple[Shown, str] | None:
        """What comes closest and what it misses, where nothing passes."""
        place = self.choice.nearest if self.choice else None
        miss = self.choice.miss(place) if self.choice and place is not None else None
        if self.choice is None or place is None or miss is None:
            return None
        return self._shown(place), miss_words(miss, self.choice.need, self.currency)

    @property
    def price_of_safety(self) -> str:
        """What the second copy costs, in frames and seconds; empty where there is none.

        Of the answer, or of what comes closest to one.
        """
        choice = self.choice
        place = (
            None if choice is None else choice.nearest if choice.answer is None else choice.answer
        )
        if choice is None or place is None:
            return ""
        option = choice.option(place)
        if option.arrangement != "mirror":
            return ""
        alone = replace(option, arrangement="single", cards=option.cards[:1])
        return safety_words(
            *(simulate(one.scenario(choice.need.lasts_s)) for one in (option, alone))
        )

    @cached_property
    def drawing(self) -> MoneyDrawing | None:
        """Money against readiness."""
        return draw_money(self.choice) if self.choice else None

    @property
    def points(self) -> list[tuple[object, Shown]]:
        """The points of the drawing with what each is."""
        return (
            [(point, self._shown(point.place)) for point in self.drawing.points]
            if self.drawing
            else []
        )

    @property
    def start(self) -> Shown | None:
        """What all steps begin with: the cheapest that is weighed by its price."""
        front = self.choice.readiness_front if self.choice else []
        return self._shown(front[0]) if front else None

    @property
    def bought(self) -> list[Bought]:
        """What more money buys in readiness."""
        return self._bought(self.choice.readiness_steps) if self.choice else []

    @property
    def bought_at_full_speed(self) -> list[Bought]:
        """What more money buys in frames at full speed."""
        return self._bought(self.choice.full_speed_steps) if self.choice else []

    @property
    def bought_copying(self) -> list[tuple[Shown, str, float]]:
        """What more money buys in copying: what, for how much more, minutes sooner."""
        steps = self.choice.copying_steps if self.choice else []
        return [
            (
                self._shown(step.place),
                money(step.more_cents, self.currency),
                step.copied_sooner_s / 60,
            )
            for step in steps
        ]

    @property
    def wasted_above(self) -> str:
        """The price above which nobody would notice more; empty without prices."""
        cents = self.choice.wasted_above_cents if self.choice else None
        return "" if cents is None else money(cents, self.currency)

    @property
    def owned_is_best(self) -> bool:
        """Whether no money would buy anything to be noticed."""
        return self.choice is not None and self.choice.wasted_above_cents == 0

    @property
    def rows_that_count(self) -> list[CardRow]:
        """The cards that do it, and those that could but for what they miss."""
        return [row for row in self.rows if row.verdict in ("passes", "fails")]

    @property
    def other_rows(self) -> list[CardRow]:
        """The cards that do not come into question."""
        return [row for row in self.rows if row.verdict not in ("passes", "fails")]

    @cached_property
    def rows(self) -> list[CardRow]:
        """Every card, those that pass first, then those that fail, then those that don't fit."""
        rows = [self._row(number, one) for number, one in enumerate(self.weighed)]
        order = ["passes", "fails", "no use", "left out", "doesn't fit"]
        return sorted(rows, key=lambda row: (order.index(row.verdict), self._rank(row)))

    def _rank(self, row: CardRow) -> tuple[bool, int]:
        price = row.weighed.candidate.price_cents
        return price is None, 0 if row.weighed.candidate.owned else price or 0

    def _row(self, number: int, one: Weighed) -> CardRow:
        place = self.choice.best_of_cards.get(number) if self.choice else None
        shown = None if place is None else self._shown(place)
        verdict, why = self._why(number, one, place)
        now = one.priced.now
        return CardRow(
            weighed=one,
            name=self.name(one.card),
            price=exact(float(now.price)) if now else "",
            history=sparkline(one.priced),
            verdict=verdict,
            why=why,
            shown=shown,
        )

    def _why(self, number: int, one: Weighed, place: int | None) -> tuple[str, str]:
        if one.card.state == "suspect":
            return "left out", "It is suspect: not to be relied on until it has been tested."
        if not one.counts:
            return "doesn't fit", _misfit(one)
        if self.choice is None or place is None:
            return "left out", "Nothing can be shot with it in this way."
        miss = self.choice.miss(place)
        if miss:
            return "fails", miss_words(miss, self.choice.need, self.currency)
        if place in self.choice.needless and self.choice.options.second[place] == number:
            return "no use", "It goes into slot 2, where it adds nothing that you ask for."
        if self.choice.answer == place:
            return "passes", "the cheapest that does it"
        if place in self.choice.ties[0]:
            return "passes", "nobody could tell it from the cheapest"
        if place in self.choice.dominated:
            return "passes", "costs more than another, and is better in nothing that you ask for"
        return "passes", ""

    def name(self, card: Card) -> str:
        """What a card is called; brand-free by what it is."""
        if not self.reading.plain:
            return str(card)
        speed = f"{card.sustained_write_mb_s:,.0f} MB/s"
        return f"{card.form} {exact(card.capacity_gb)} GB, {speed}"

    def _bought(self, steps: Sequence[Step]) -> list[Bought]:
        return [
            Bought(
                shown=self._shown(step.place),
                more=money(step.more_cents, self.currency),
                buys=step_words(step),
                each=self._each(step),
            )
            for step in steps
        ]

    def _each(self, step: Step) -> str:
        """What ten units of the money bring, the least that anybody weighs; empty for a trifle."""
        tens = step.more_cents / 1_000
        frames, sooner_s = round(step.more_frames / tens), round(step.sooner_s / tens, 1)
        return step_words(replace(step, more_frames=frames, sooner_s=sooner_s))

    def _shown(self, place: int) -> Shown:
        if self.choice is None:
            raise ValueError("there is no choice to show of")
        return self._of(self.choice, self.reading.setups, place)

    def _of(self, choice: Choice, setups: Sequence[Setup], place: int) -> Shown:
        setup = self._setup(choice, setups, place)
        price = int(choice.options.price_cents[place])
        several = len(setups) > 1
        way = f"{setup.recording} at {exact(setup.rate.fps)} fps" if several else ""
        return Shown(
            place=place,
            cards=self._cards(place, choice),
            way=way,
            price="price not known"
            if price == NONE
            else money(price, self.currency)
            if price
            else "owned",
            query=urlencode(setup.address),
            lines=list(goal_lines(choice, place, self.currency)),
        )

    def _cards(self, place: int, choice: Choice | None = None) -> str:
        of = choice or self.choice
        assert of is not None  # noqa: S101 - a place is of a choice
        numbers = (int(of.options.first[place]), int(of.options.second[place]))
        names = [self.name(self.weighed[number].card) for number in numbers if number != NONE]
        if len(names) == 1:
            return names[0]
        kind = of.evaluation.camera.arrangements[int(of.options.arrangement[place])][0]
        return f"{names[0]} and {names[1]}, {WORDS_OF_ARRANGEMENT[kind]}"

    def _setup(self, choice: Choice, setups: Sequence[Setup], place: int) -> Setup:
        options = choice.options
        base = setups[int(options.way[place])]
        slots = list(base.body.slots.all())
        numbers = [int(options.first[place]), int(options.second[place])]
        cards: Mapping[int, Card] = {
            slot: self.weighed[number].card for slot, number in enumerate(numbers) if number != NONE
        }
        arrangements = list(base.body.arrangements.all())
        kind = int(options.arrangement[place])
        return replace(
            base,
            hold_s=choice.need.lasts_s,
            sides=tuple(Side(slot=slots[slot], card=card) for slot, card in cards.items()),
            arrangement=arrangements[kind] if arrangements else None,
        )


def _misfit(one: Weighed) -> str:
    """Why a card goes into none of the slots."""
    wrong_shape = all(not held.fits for held in one.held)
    if not wrong_shape:
        return " ".join(held.fit.reasons[0] for held in one.held if held.fits)
    takes = (
        f"{held.slot} takes {' or '.join(sorted(held.slot.forms_taken()))}" for held in one.held
    )
    return f"It is {one.card.form}; {', '.join(takes)}."
