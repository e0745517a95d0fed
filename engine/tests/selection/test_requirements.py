from unittest import TestCase

from engine.selection import goals
from engine.selection.goals import goals_of
from engine.selection.requirements import MOST_BURSTS, InvalidNeed, Need
from engine.selection.stories import STORIES


class NeedTests(TestCase):
    def test_what_contradicts_itself_or_is_out_of_range_is_told_at_its_field(self) -> None:
        for field, value in {
            "lasts_s": 0,
            "full_rate_s": 5,
            "frames_in_s": 4.5,
            "frames": 0,
            "light_out_s": -1,
            "every_s": 3.9,
            "goes_on_min": 5,
            "free_gb": -1,
            "copies": 3,
            "copied_min": float("nan"),
            "budget_cents": -1,
            "sure": 1.0,
        }.items():
            with self.subTest(field), self.assertRaises(InvalidNeed) as refused:
                Need(**{"lasts_s": 4, field: value})
            self.assertEqual([field], list(refused.exception.faults))

    def test_only_what_is_asked_for_is_a_goal_the_certain_ones_first(self) -> None:
        self.assertEqual([], goals_of(Need(lasts_s=4)))
        need = Need(lasts_s=4, light_out_s=0, picture_s=0, copies=2, frames_a_day=10)
        self.assertEqual([goals.COPIES, goals.DAY, goals.PICTURE, goals.LIGHT_OUT], goals_of(need))

    def test_what_is_missed_is_told_by_how_much_and_what_is_reached_by_how_seldom(self) -> None:
        need = Need(lasts_s=4, full_rate_s=3, light_out_s=5, frames=60)
        for goal, wanted, short, enough, said in (
            (goals.FULL_SPEED, 3, 2.5, 3.5, "full speed lasts 2.5 s of the 3 s you want"),
            (goals.FRAMES, 60, 41, 70, "41 frames in 4 s of the 60 frames you want"),
            (goals.LIGHT_OUT, 5, 7, 4, "light out after 7 s, 2 s too late"),
        ):
            with self.subTest(goal.name):
                words = goal.missed_words(wanted, short, "in 3 of 10", need, str)
                self.assertEqual(said, words.replace("\N{NO-BREAK SPACE}", " "))
                for reached in (wanted, enough):
                    words = goal.missed_words(wanted, reached, "in 3 of 10", need, str)
                    self.assertIn(", but only in 3 of 10", words)

    def test_how_often_it_comes_and_how_long_it_goes_on_say_how_many_frames_that_is(self) -> None:
        once, open_end = Need(lasts_s=3), Need(lasts_s=3, every_s=10)
        twenty_minutes = Need(lasts_s=3, every_s=10, goes_on_min=20)
        self.assertEqual((1, MOST_BURSTS, 120),
                         (once.bursts, open_end.bursts, twenty_minutes.bursts))  # fmt: skip
        days = [one.day_frames(20) for one in (once, open_end, twenty_minutes)]
        self.assertEqual([None, None, 120 * 60], days)
        self.assertEqual([0, 10**10], twenty_minutes.presses_ns(20)[:2])
        hour = Need(lasts_s=3, every_s=20, goes_on_min=60)
        self.assertEqual(8_100, hour.day_frames(15))
        self.assertEqual(29, Need(lasts_s=0.1, every_s=0.1, goes_on_min=2.9 / 60).bursts)

    def test_there_are_stories_of_both_trades_with_names_of_their_own(self) -> None:
        self.assertEqual({"wildlife", "sport"}, {story.trade for story in STORIES})
        self.assertEqual(len(STORIES), len({story.name for story in STORIES}))
        self.assertTrue(all(goals_of(story.need) for story in STORIES))
