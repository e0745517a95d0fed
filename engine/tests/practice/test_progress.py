"""Difficulty, reaction and progress, on simulated players whose skill is known."""

import math
from collections.abc import Callable, Iterator
from random import Random
from unittest import TestCase

from engine.practice.progress import ScoredRun, progress
from engine.practice.reaction import TooFewTries, reaction_s
from engine.practice.staircase import FIRST_LEVEL, SUCCESSES, next_level

Odds = Callable[[float], float]  # of a success, by skill minus level


def logistic(gap: float) -> float:
    return 1 / (1 + math.exp(-gap / 2.5))


def steep(gap: float) -> float:
    return 1 / (1 + math.exp(-gap / 1.0))


def with_lapses(gap: float) -> float:
    return 0.05 + 0.85 * logistic(gap)


def stepped(gap: float) -> float:
    return 0.9 if gap > 0 else 0.3


PLAYERS = {"logistic": logistic, "steep": steep, "with lapses": with_lapses, "stepped": stepped}


def played(
    chance: Random, odds: Odds, change_a_week: float, form: float, sessions: int = 12
) -> Iterator[ScoredRun]:
    """Sessions of seven runs every other day; `form` is how far skill is off on a day."""
    level = FIRST_LEVEL
    for session in range(sessions):
        day = 2 * session
        skill = 12 + change_a_week * (day - 2 * sessions) / 7 + form * chance.gauss(0, 1)
        for _ in range(7):
            succeeded = chance.random() < odds(skill - level)
            yield ScoredRun(day, level, succeeded)
            level = next_level(level, succeeded)


class Progress(TestCase):
    def coverage(self, odds: Odds, change_a_week: float, form: float, tries: int = 30) -> float:
        chance, within = Random(29), 0
        for _ in range(tries):
            told = progress([*played(chance, odds, change_a_week, form)])
            within += told.low <= change_a_week <= told.high
        return within / tries

    def test_a_climbing_staircase_is_no_progress_whoever_plays(self) -> None:
        for name, odds in PLAYERS.items():
            for form in (0.0, 1.5):
                with self.subTest(name, form=form):
                    self.assertGreater(self.coverage(odds, 0.0, form), 0.66)

    def test_four_ranges_in_five_hold_the_change_that_there_was(self) -> None:
        self.assertGreater(self.coverage(logistic, 1.5, form=1.5, tries=60), 0.7)

    def test_who_gets_better_is_told_so(self) -> None:
        chance = Random(3)
        told = [progress([*played(chance, logistic, 2.0, 1.0, 20)]) for _ in range(15)]
        self.assertGreater(sum(one.is_sure and one.low > 0 for one in told), 12)
        levels = [one.level for one in told]
        self.assertAlmostEqual(sum(levels) / len(levels), 12 - 2.5 * math.log(3), delta=1.2)

    def test_two_days_are_too_few_to_tell(self) -> None:
        told = progress([*played(Random(1), logistic, 0, 0, 2)])
        self.assertEqual((told.low, told.high, told.is_sure), (None, None, False))


class Staircase(TestCase):
    def test_it_comes_to_rest_where_three_runs_in_four_succeed(self) -> None:
        chance, level, went = Random(7), FIRST_LEVEL, []
        for _ in range(6_000):
            went.append(chance.random() < logistic(11 - level))
            level = next_level(level, went[-1])
        self.assertAlmostEqual(sum(went) / len(went), SUCCESSES, delta=0.02)

    def test_what_had_no_moment_leaves_the_level_and_ends_hold(self) -> None:
        self.assertEqual(
            [next_level(9, None), next_level(20, True), next_level(2, False)], [9, 20, 1]
        )


class Reaction(TestCase):
    def test_false_starts_and_lapses_do_not_count(self) -> None:
        self.assertEqual(reaction_s([0.02, 0.24, 0.3, 0.22, 4.0]), 0.24)

    def test_too_few_tries_are_no_reaction_time(self) -> None:
        with self.assertRaises(TooFewTries):
            reaction_s([0.05, 0.2, 0.3])
