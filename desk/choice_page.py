"""All that Choose shows of one need: the answer with its reasons, and every card with why."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from urllib.parse import urlencode

from desk import choosing
from desk.choice_drawing import MoneyDrawing, Point, draw_money
from desk.choice_names import Names, Shown
from desk.choice_rows import CardRow, card_rows
from desk.choice_words import miss_words, money, safety_words, step_words
from desk.choosing import (
    MOST_BLOCKS,
    Progress,
    evaluation_of,
    go_on,
    weigh,
)
from desk.impasse import MOST_TRIED, Impasse, WayOut
from desk.need_address import NeedReading
from engine import simulate
from engine.choose import Choice, Step
from engine.copying import S_IN_MINUTE
from kit.models import Visitor
from pages.templatetags.figures import exact
from prices.money import CENTS, Rates

GROUPS_SHOWN = 8
TEN = 10 * CENTS


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
        return go_on(evaluation, 0 if self.stopped else choosing.WORK_S)

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

    @cached_property
    def names(self) -> Names | None:
        """What its options are called."""
        if self.choice is None:
            return None
        return Names(self.reading, self.weighed, self.reading.setups, self.choice)

    @property
    def currency(self) -> str:
        """The currency that everything is added up in."""
        return self.reading.money

    @property
    def without_rate(self) -> list[str]:
        """The currencies of prices that can't be added up."""
        quotes = (one.priced.now for one in self.weighed if one.lacks_rate)
        return sorted({quote.currency for quote in quotes if quote})

    @property
    def rates_used(self) -> list[dict[str, object]]:
        """The rates by which prices in other currencies are added up."""
        quotes = (one.priced.now for one in self.weighed if not one.lacks_rate)
        others = sorted({one.currency for one in quotes if one} - {self.currency})
        rates = Rates.of(self.visitor) if others else None
        return [
            {"other": other, "row": rates.rate(other, self.currency)} for other in others if rates
        ]

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
        if self.names is None or self.names.choice.answer is None:
            return None
        return self.names.shown(self.names.choice.answer)

    @cached_property
    def groups(self) -> list[list[Shown]]:
        """What passes, in groups that nobody could tell apart; one place a set of cards."""
        if self.names is None:
            return []
        groups: list[list[Shown]] = []
        seen: set[str] = set()
        for group in self.names.choice.ties:
            fresh: list[Shown] = []
            for place in group:
                cards = self.names.cards(place)
                if place not in self.names.choice.needless and cards not in seen:
                    seen.add(cards)
                    fresh.append(self.names.shown(place))
            groups += [fresh] if fresh else []
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
        if not self.tried_all:
            return []
        return Impasse(self.reading, self.weighed, self.reading.need).ways_out

    @property
    def tried_all(self) -> bool:
        """Whether other formats and frame rates were tried."""
        return self.choice is not None and self.choice.found.counted <= MOST_TRIED

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
            names = Names(self.reading, self.weighed, way.setups, way.choice)
            yield way.words, urlencode(keys), names.shown(way.place)

    @cached_property
    def nearest(self) -> tuple[Shown, str] | None:
        """What comes closest and what it misses, where nothing passes."""
        if self.names is None or (place := self.names.choice.nearest) is None:
            return None
        choice = self.names.choice
        miss = choice.miss(place)
        return self.names.shown(place), miss_words(miss, choice.need, self.currency) if miss else ""

    @property
    def price_of_safety(self) -> str:
        """What the second copy costs, in frames and seconds; empty where there is none.

        Of the answer, or of what comes closest to one.
        """
        if (choice := self.choice) is None:
            return ""
        place = choice.nearest if choice.answer is None else choice.answer
        if place is None:
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
    def points(self) -> list[tuple[Point, Shown]]:
        """The points of the drawing with what each is."""
        if self.names is None or self.drawing is None:
            return []
        return [(point, self.names.shown(point.place)) for point in self.drawing.points]

    @property
    def start(self) -> Shown | None:
        """What all steps begin with: the cheapest that is weighed by its price."""
        front = self.names.choice.readiness_front if self.names else []
        return self.names.shown(front[0]) if self.names and front else None

    @property
    def bought(self) -> list[Bought]:
        """What more money buys in readiness."""
        return self._bought(self.choice.readiness_steps) if self.choice else []

    @property
    def bought_at_full_speed(self) -> list[Bought]:
        """What more money buys in frames at full speed, where that is not the same."""
        if self.choice is None:
            return []
        told = {step.place for step in self.choice.readiness_steps}
        steps = self.choice.full_speed_steps
        return [] if told >= {step.place for step in steps} else self._bought(steps)

    @property
    def bought_copying(self) -> list[tuple[Shown, str, float]]:
        """What more money buys in copying: what, for how much more, minutes sooner."""
        if self.names is None:
            return []
        return [
            (
                self.names.shown(step.place),
                money(step.more_cents, self.currency),
                step.copied_sooner_s / S_IN_MINUTE,
            )
            for step in self.names.choice.copying_steps
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
        return [row for row in self.rows if row.counts]

    @property
    def other_rows(self) -> list[CardRow]:
        """The cards that do not come into question."""
        return [row for row in self.rows if not row.counts]

    @cached_property
    def rows(self) -> list[CardRow]:
        """Every card, and why."""
        return card_rows(self.reading, self.weighed, self.names)

    def _bought(self, steps: Sequence[Step]) -> list[Bought]:
        if self.names is None:
            return []
        return [
            Bought(
                shown=self.names.shown(step.place),
                more=money(step.more_cents, self.currency),
                buys=step_words(step),
                each=_each_ten(step),
            )
            for step in steps
        ]


def _each_ten(step: Step) -> str:
    """What ten units of the money bring, the least that anybody weighs; empty for a trifle."""
    tens = step.more_cents / TEN
    frames, sooner_s = round(step.more_frames / tens), round(step.sooner_s / tens, 1)
    return step_words(replace(step, more_frames=frames, sooner_s=sooner_s))
