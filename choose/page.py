"""All that Choose shows of one need: the answer with its reasons, and every card with why."""

from collections.abc import Iterator
from dataclasses import replace
from functools import cached_property
from itertools import islice
from urllib.parse import parse_qsl, urlencode

from django.core.paginator import Page, Paginator
from django.template.defaultfilters import pluralize

from choose.evaluating import (
    MOST_ENTRIES,
    Progress,
    cards_for,
    continue_evaluation,
    evaluation_of,
)
from choose.money import MoneyBuys
from choose.names import Group, NamedOption, Names, tie_groups
from choose.need_address import NeedReading
from choose.rows import CardRow, card_rows
from choose.suggestions import MOST_TRIED, Suggestions
from choose.words import goal_lines, miss_words, safety_words
from engine.burst.arrangement import Arrangement
from engine.burst.simulate import simulate
from engine.formats import exact, odds
from engine.selection.candidates import SlotUse
from engine.selection.choice import Choice
from engine.selection.options import DRAWS, Evaluation
from prices.models import ExchangeRate
from setups import keys

GROUPS_SHOWN = 8
CARDS_ON_A_PAGE = 60


class ChoicePage:
    """Everything that is shown, each part worked out when the page asks for it."""

    def __init__(self, reading: NeedReading, *, work_s: float, page: str = "") -> None:
        self.reading = reading
        self.work_s, self.page_number = work_s, page
        evaluated = cards_for(reading) if reading.need else []
        self.too_many_cards, self.evaluated = evaluated is None, evaluated or []

    @cached_property
    def evaluation(self) -> Evaluation | None:
        """What is to be evaluated; None where there is nothing."""
        need = self.reading.need
        if need is None or not any(one.counts for one in self.evaluated):
            return None
        return evaluation_of(self.reading.setups, self.evaluated, need)

    @cached_property
    def progress(self) -> Progress | None:
        """How far the evaluation is; None where there is none to be had."""
        if self.evaluation is None or self.evaluation.total > MOST_ENTRIES:
            return None
        progress = continue_evaluation(self.evaluation, self.work_s)
        return None if progress.too_long else progress

    @property
    def too_many(self) -> bool:
        """Whether there are more cards, or pairs of them, than can be evaluated in some minutes."""
        return self.too_many_cards or (self.evaluation is not None and self.progress is None)

    @property
    def choice(self) -> Choice | None:
        """What came of it."""
        return self.progress.choice if self.progress else None

    @cached_property
    def names(self) -> Names | None:
        """What its options are called."""
        if self.choice is None:
            return None
        return Names(self.reading, self.evaluated, self.reading.setups, self.choice)

    @property
    def currency(self) -> str:
        """The currency that everything is added up in."""
        return self.reading.money

    @property
    def without_rate(self) -> list[str]:
        """The currencies of prices that can't be added up."""
        quotes = (one.priced.now for one in self.evaluated if one.lacks_rate)
        return sorted({quote.currency for quote in quotes if quote})

    @property
    def rates_used(self) -> list[tuple[str, ExchangeRate | None]]:
        """The other currencies that prices are in, and the rates by which they are added up."""
        quotes = (one.priced.now for one in self.evaluated if not one.lacks_rate)
        others = sorted({one.currency for one in quotes if one} - {self.currency})
        if not others:
            return []
        rates = self.reading.kit.costs.rates
        return [(other, rates.rate(other, self.currency)) for other in others]

    @property
    def without_price(self) -> int:
        """How many cards that would have to be bought have no price at all."""
        return sum(
            one.priced.now is None and not one.candidate.owned and one.counts
            for one in self.evaluated
        )

    @cached_property
    def answer(self) -> NamedOption | None:
        """The cheapest that passes."""
        if self.names is None or self.names.choice.answer is None:
            return None
        return self.names.shown(self.names.choice.answer)

    @cached_property
    def measure_first(self) -> tuple[NamedOption, str] | None:
        """Cards of one's own that a test may show to do it, and how often they do as it is."""
        if self.names is None or (place := self.names.choice.worth_measuring) is None:
            return None
        miss = self.names.choice.miss(place)
        often = miss.goal.odds_words(miss.share, miss.draws, self.names.choice.need) if miss else ""
        return self.names.shown(place), often

    @property
    def never_full(self) -> str:
        """That memory outlasts the action with any card, where it does as often as is asked."""
        if self.choice is None or self.answer is None or not self.choice.never_full:
            return ""
        share, lasts = self.choice.shortlist.no_wall, exact(self.choice.need.lasts_s)
        if share == 1:
            return (
                f"You never fill the buffer: with every card that fits, it has room for {lasts} s."
            )
        return f"With every card that fits, the buffer has room for {lasts} s {odds(share, DRAWS)}."

    @property
    def goals(self) -> list[tuple[str, str, str]]:
        """What is asked, what the answer reaches of it, and how often."""
        if self.choice is None or self.choice.answer is None:
            return []
        return list(goal_lines(self.choice, self.choice.answer, self.currency))

    @cached_property
    def groups(self) -> list[Group]:
        """What passes, in groups without a practical difference; one place a set of cards."""
        return list(islice(tie_groups(self.names), GROUPS_SHOWN)) if self.names else []

    @property
    def first_group(self) -> Group | None:
        """The answer and what makes no practical difference to it."""
        return self.groups[0] if self.groups else None

    @property
    def tying(self) -> list[Group]:
        """The groups of more than one."""
        return [group for group in self.groups if group.others]

    @cached_property
    def suggestions(self) -> Suggestions | None:
        """What to change where no card does it; None: one does, or there is too much to try."""
        need = self.reading.need
        if self.choice is None or self.choice.answer is not None or need is None:
            return None
        if not self.tried_all:
            return None
        return Suggestions(self.reading, self.evaluated, need, self.work_s)

    @property
    def worked_on(self) -> Evaluation | None:
        """The evaluation that the next step belongs to."""
        if self.progress and not self.choice:
            return self.evaluation
        return self.suggestions.worked_on if self.suggestions else None

    @property
    def unfinished(self) -> tuple[str, float] | None:
        """What is still being worked out, in words, and how much of it is done, 0 to 1."""
        if self.progress and not self.choice:
            cards = len(self.evaluated)
            words = f"Comparing {cards} card{pluralize(cards)}, alone and in pairs"
            return words, self.progress.share
        if self.suggestions and self.suggestions.left:
            words = "No card works: trying what would help"
            return words, 1 - self.suggestions.left / self.suggestions.total
        return None

    @property
    def tried_all(self) -> bool:
        """Whether other formats and frame rates were tried."""
        return self.choice is not None and self.choice.shortlist.counted <= MOST_TRIED

    @property
    def found(self) -> Iterator[tuple[str, str, NamedOption]]:
        """Each change, the query of this screen with it, and what is then chosen."""
        for tried in self.suggestions.found if self.suggestions else ():
            setup = tried.setups[0]
            changed = dict(parse_qsl(self.reading.address, keep_blank_values=True))
            changed[keys.ISO] = str(setup.iso)
            if len(tried.setups) == 1:
                choices = setup.address
                changed |= {key: choices[key] for key in (keys.FORMAT, keys.FRAME_RATE)}
            if tried.choice.need.copies == 1:
                changed["copies"] = "1"
            if tried.choice.need.budget_cents is None:
                changed["budget"] = ""
            names = Names(self.reading, self.evaluated, tried.setups, tried.choice)
            yield tried.words, urlencode(changed), names.shown(tried.place)

    @cached_property
    def nearest(self) -> tuple[NamedOption, str] | None:
        """What comes closest and what it misses, where nothing passes."""
        if self.names is None or (place := self.names.choice.nearest) is None:
            return None
        choice = self.names.choice
        miss = choice.miss(place)
        return self.names.shown(place), (
            miss_words(miss, choice.need, self.currency) if miss else ""
        )

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
        if option.use.arrangement.copies == 1:
            return ""
        alone = replace(option, use=SlotUse(Arrangement.SINGLE, "parallel"), cards=option.cards[:1])
        return safety_words(
            *(simulate(one.scenario(choice.need.lasts_s)) for one in (option, alone))
        )

    @cached_property
    def money(self) -> MoneyBuys | None:
        """What money buys."""
        return MoneyBuys(self.names) if self.names else None

    @property
    def rows_that_count(self) -> list[CardRow]:
        """The cards of the page that do it, and those that could but for what they miss."""
        return [row for row in self.page_of_rows if row.counts]

    @property
    def other_rows(self) -> list[CardRow]:
        """The cards of the page that are ruled out."""
        return [row for row in self.page_of_rows if not row.counts]

    @cached_property
    def page_of_rows(self) -> Page[CardRow]:
        """Some of the cards."""
        return Paginator(self.rows, CARDS_ON_A_PAGE).get_page(self.page_number)

    @cached_property
    def rows(self) -> list[CardRow]:
        """Every card, and why."""
        return card_rows(self.reading, self.evaluated, self.names)
