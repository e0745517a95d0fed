"""What a choice says: each goal, each miss, shares, money and steps."""

from functools import partial
from unittest import TestCase

from choose.words import miss_words, safety_words, step_words
from engine.burst.simulate import simulate
from engine.formats import odds
from engine.selection import goals
from engine.selection.choice import Miss, Step
from engine.selection.goals import goals_of
from engine.selection.requirements import Need
from engine.tests.builders import scenario
from prices.amounts import amount

NEED = Need(
    lasts_s=5, full_rate_s=3, frames=60, frames_in_s=4, picture_s=6, light_out_s=9, copies=2,
    frames_a_day=4_000, copied_min=20, budget_cents=10_000,
)  # fmt: skip

EUROS = partial(amount, currency="EUR")


def plain(words: str) -> str:
    return words.replace("\xa0", " ")


class MissTests(TestCase):
    def test_each_goal_says_what_is_lacking_in_its_own_unit(self) -> None:
        for goal, wanted, reached, said in (
            (goals.COPIES, 2, 1, "one copy only, where two are asked for"),
            (goals.BUDGET, 10_000, 12_950, "29.50 EUR over 100 EUR"),
            (goals.BUDGET, 10_000, None, "its price is not known"),
            (goals.DAY, 4_000, 1_280, "1,280 frames fit of the 4,000 frames you want"),
            (goals.COPIED, 20, 32.5, "copying takes 32 min, 12 min too long"),
            (goals.COPIED, 20, None, "no reader takes it"),
            (goals.FULL_SPEED, 3, 1.4, "full speed lasts 1.4 s of the 3 s you want"),
            (goals.FRAMES, 60, 48, "48 frames in 4 s of the 60 frames you want"),
            (goals.PICTURE, 6, 9.2, "the first picture after 9.2 s, 3.2 s too late"),
            (goals.LIGHT_OUT, 9, 9.9, "light out after 9.9 s, 0.9 s too late"),
        ):
            with self.subTest(goal=goal, reached=reached):
                words = miss_words(Miss(goal, wanted, reached, 0.0, 100), NEED, "EUR")
                self.assertEqual(said, plain(words))

    def test_what_is_enough_on_most_days_only_says_how_often(self) -> None:
        words = miss_words(Miss(goals.LIGHT_OUT, 9, 5.5, 0.64, 100), NEED, "EUR")
        self.assertEqual("light out after 5.5 s, but only in 64 % of bursts",
                         plain(words))  # fmt: skip

    def test_each_goal_is_told_as_it_is_asked_for(self) -> None:
        said = [plain(goal.wanted_words(NEED, EUROS)) for goal in goals_of(NEED)]
        self.assertEqual(
            ["two copies", "100 EUR at most", "4,000 frames a day", "copied within 20 min",
             "full speed for 3 s", "60 frames in 4 s", "first picture to look at within 6 s",
             "card light out within 9 s"], said,
        )  # fmt: skip
        last = Need(lasts_s=1, picture_s=2, picture="last")
        self.assertEqual("last picture to look at within 2 s",
                         goals.PICTURE.wanted_words(last, EUROS))  # fmt: skip

    def test_of_bursts_that_repeat_the_worst_is_told(self) -> None:
        again = Need(lasts_s=3, every_s=9, full_rate_s=3)
        words = miss_words(Miss(goals.FULL_SPEED, 3, 1.8, 0.0, 100), again, "EUR")
        self.assertEqual(
            "full speed lasts 1.8 s of the 3 s you want in the worst burst", plain(words)
        )


class WordsTests(TestCase):
    def test_shares_money_and_steps(self) -> None:
        self.assertEqual(
            [
                "in every burst we tried (50)",
                "in 99 % of bursts",
                "in 80 % of bursts",
                "in 1 % of bursts",
                "in no burst we tried (50)",
            ],
            [odds(share, 50) for share in (1.0, 0.998, 0.8, 0.002, 0.0)],
        )
        self.assertEqual(["12 EUR", "1,234.50 EUR"],
                         [plain(amount(cents, "EUR")) for cents in (1_200, 123_450)])  # fmt: skip
        step = Step(place=1, more_cents=100, more_frames=-4, sooner_s=1.24, copied_sooner_s=0)
        self.assertEqual(
            "4 frames fewer at full speed, light out 1.2 s sooner", plain(step_words(step))
        )

    def test_a_second_copy_tells_its_price_or_that_it_has_none(self) -> None:
        fast, slow = (simulate(scenario(write_mb_s=speed)) for speed in (900, 230))
        self.assertRegex(plain(safety_words(slow, fast)),
                         r"costs \d+ of \d+ frames at full speed and [\d.]+ s until")  # fmt: skip
        self.assertEqual("The second copy costs nothing.", safety_words(fast, fast))
