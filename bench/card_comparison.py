"""The cards of a body against each other, and each against what it once was."""

from collections import Counter, defaultdict
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace
from datetime import date
from itertools import combinations, islice

from bench.answer import ChangeRow, DifferenceRow
from bench.engine_adapter import assumed
from engine import InvalidScenario
from engine.figures.key import FigureKey
from engine.formats import exact
from engine.measurement.by_hand import ByHand
from engine.measurement.differences import change, difference
from engine.measurement.forward import Real
from engine.measurement.learnt import LearntBody
from engine.uncertainty.sources import FILES
from setups.setup import USUAL_HOLD_S, Setup

MOST_PAIRS = 6


def differences(learnt: LearntBody, setups: list[Setup]) -> Iterator[DifferenceRow]:
    """Each two cards that were tested alone, in the format and at the rate of the first."""
    tested: dict[str, Setup] = {}
    runs: Counter[str] = Counter()
    for setup in setups:
        if len(setup.sides) == 1:
            slug = setup.sides[0].fitted.slug
            tested.setdefault(slug, setup)
            runs[slug] += 1
    for (first, setup), (second, other) in islice(combinations(tested.items(), 2), MOST_PAIRS):
        both = [replace(setup, hold_s=USUAL_HOLD_S, sides=one.sides) for one in (setup, other)]
        with suppress(InvalidScenario):
            one_gets, other_gets = (_frames(learnt, one) for one in both)
            cards = [one.sides[0].fitted for one in both]
            yield DifferenceRow(
                first=str(cards[0]),
                second=str(cards[1]),
                name=f"{setup.recording} · {setup.rate} · {exact(USUAL_HOLD_S)} s",
                frames=difference(one_gets, other_gets, min(runs[first], runs[second])),
                are_twins=cards[0].maker_and_name == cards[1].maker_and_name,
            )


def changes(learnt: LearntBody, setups: list[Setup], days: list[date]) -> Iterator[ChangeRow]:
    """Cards that write more or less than at first, by the runs in one format on them alone.

    Cards that were archived or retired since are left out.
    """
    rates: dict[tuple[str, FigureKey, str], list[tuple[int, float]]] = defaultdict(list)
    for setup, day, run in zip(setups, days, learnt.runs, strict=True):
        by_hand = ByHand(run.observed, setup.rate.fps, setup.hold_s, run.accuracy)
        if len(setup.sides) == 1 and setup.is_available and by_hand.sustained_fps:
            key = (str(setup.sides[0].fitted), run.figures[FILES], str(setup.rate))
            rates[key].append((day.toordinal(), by_hand.sustained_fps.value))
    for (card, *_), found in rates.items():
        moments, fps = zip(*sorted(found), strict=True)
        share = change(moments, fps)
        if share is not None:
            yield ChangeRow(card, share)


def _frames(learnt: LearntBody, setup: Setup) -> Real:
    """The frames that every body gets in a set-up."""
    one = assumed(setup)
    return learnt.frames_of(one.scenario, one.sources, one.figures)
