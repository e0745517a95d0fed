"""The example of an empty Bench: it is worked out, shown, and can be made one's own."""

from django.test import TestCase
from django.urls import reverse

from accounts.models import User
from bench.example import Example, prepare
from bench.models import WORDS_OF_METHOD, Run
from kit import sample
from pages.background import results
from pages.tests.jobs import work_off


class TheExample(TestCase):
    def setUp(self) -> None:
        sample.load()
        results.clear()
        self.addCleanup(results.clear)

    def test_runs_of_every_method_teach_and_are_drawn(self) -> None:
        example = Example.of_sample_kit()
        self.assertEqual(set(WORDS_OF_METHOD), {run.method for run in example.learning.runs})
        self.assertContains(self.client.get(reverse("bench")), "nothing works on it just now")
        self.assertEqual(1, work_off())
        page = self.client.get(reverse("bench"))
        report = page.context["report"]
        self.assertEqual(({}, 5), (report.against, len(report.used)))
        drawn = {row.query: bars for row, bars in page.context["depths"].drawn}
        tested = next(bars for bars in drawn.values() if len(bars.dots) > 1)
        self.assertLess(tested.now.width, tested.before.width)
        for dot in tested.dots:
            self.assertTrue(
                tested.before.at <= dot.at <= tested.before.at + tested.before.width, tested
            )
        self.assertContains(page, "Make it my own")
        self.assertFalse(prepare(), "there is nothing left to do")

    def test_made_ones_own_it_is_the_visitors_with_its_runs(self) -> None:
        self.client.post(reverse("example-copy"))
        (guest,) = User.objects.all()
        runs = Run.objects.made_by(guest).select_related("body")
        self.assertEqual([guest.pk] * 5, [run.body.owner_id for run in runs])
        self.assertNotContains(self.client.get(reverse("bench")), "An example")
        self.client.post(reverse("example-copy"))
        self.assertEqual(10, runs.all().count(), "a second copy is of a body of its own")
