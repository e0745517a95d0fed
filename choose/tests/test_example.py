"""The answer of a story is kept ready, and shown to newcomers while another is worked out."""

from unittest import mock

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from choose.example import example, prepare
from choose.tests.builders import forget_results
from kit import sample
from prices import sample as price_lists


class TheExample(TestCase):
    def test_it_is_shown_while_an_answer_is_worked_out(self) -> None:
        sample.load()
        price_lists.load(timezone.localdate())
        forget_results()
        self.addCleanup(forget_results)
        self.assertIsNone(example())
        self.assertTrue(prepare())
        shown = example()
        with mock.patch("choose.evaluating.WORK_S", 0):
            page = self.client.get(reverse("choose"), {"lasts": "4", "full": "2"})
        self.assertContains(page, "While it works, an example")
        self.assertContains(page, shown.answer.cards)
        self.assertNotContains(
            self.client.get(reverse("choose"), {"story": shown.reading.story.name}), "an example"
        )
