from unittest import TestCase

from engine.need import Goal, InvalidNeed, Need
from engine.stories import STORIES


class NeedTests(TestCase):
    def test_what_contradicts_itself_or_is_out_of_range_is_told_at_its_field(self) -> None:
        for field, value in {
            "lasts_s": 0,
            "full_rate_s": 5,
            "frames_in_s": 4.5,
            "frames": 0,
            "ready_s": -1,
            "copies": 3,
            "copied_min": float("nan"),
            "budget_cents": -1,
            "sure": 1.0,
        }.items():
            with self.subTest(field), self.assertRaises(InvalidNeed) as refused:
                Need(**{"lasts_s": 4, field: value})
            self.assertEqual([field], list(refused.exception.faults))

    def test_only_what_is_asked_for_is_a_goal_the_certain_ones_first(self) -> None:
        self.assertEqual([], Need(lasts_s=4).goals)
        need = Need(lasts_s=4, ready_s=0, copies=2, frames_a_day=10)
        self.assertEqual([Goal.COPIES, Goal.DAY, Goal.READY], need.goals)

    def test_there_are_stories_of_both_trades_with_names_of_their_own(self) -> None:
        self.assertEqual({"wildlife", "sport"}, {story.trade for story in STORIES})
        self.assertEqual(len(STORIES), len({story.name for story in STORIES}))
        self.assertTrue(all(story.need.goals for story in STORIES))
