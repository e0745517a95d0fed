"""What runs teach is used everywhere, counted once, and can be taken back."""

from django.db.models import RestrictedError
from django.test import Client, TestCase
from django.urls import reverse

from accounts.models import User
from bench.learning import BodyLearning
from bench.models import Run
from engine.burst.simulate import simulate
from engine.figures.key import FigureKey, FigureKind
from engine.figures.uncertainty import JointSamples
from engine.uncertainty.intervals import confidence
from kit import edit, sample
from kit.document import document_of
from kit.models import (
    Body,
    Card,
    LearntFigure,
    LearntSpeed,
    RecordedFile,
    Revision,
    Source,
)
from kit.models.body import MEMORY
from kit.models.card import CardState
from pages.tests.jobs import work_off
from setups.engine_adapter import scenario_of, sources_of, write_speed
from setups.kit import Kit
from setups.prediction import predict
from setups.reader import read_query

SETUP = "body=pellow-wren-10&card1=fennimore-skein-128"
SEEN = {"setup": SETUP, "hold_s": "12", "method": "tap", "clear_s": "7.4"}


class Kept(TestCase):
    """Two runs of a body that was copied with them out of the sample kit, worked out."""

    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()
        Body.objects.filter(slug="pellow-wren-10").update(memory_source=Source.ESTIMATED)
        RecordedFile.objects.filter(format__body__slug="pellow-wren-10").update(
            source=Source.ESTIMATED
        )
        cls.ann = User.objects.create(email="ann@example.org")
        client = Client()
        client.force_login(cls.ann)
        for frames in ("56", "57"):
            client.post(reverse("bench-test"), SEEN | {"frames": frames})
        client.post(reverse("bench-copy", args=["pellow-wren-10"]))
        cls.body, cls.card = Body.objects.get(owner=cls.ann), Card.objects.get(owner=cls.ann)
        client.get(reverse("bench-body", args=[cls.body.slug]))
        work_off()

    def setUp(self) -> None:
        self.client.force_login(self.ann)
        self.before = self.documents()

    def act(self, name: str, **sent: str):
        address = reverse(name, args=[self.body.slug])
        if name == "bench-body":
            return self.client.get(address)
        return self.client.post(address, sent, follow=True)

    def documents(self) -> list[dict]:
        return [document_of(type(one).objects.get(pk=one.pk)) for one in (self.body, self.card)]

    def learning(self) -> BodyLearning:
        return BodyLearning.of(Body.objects.get(pk=self.body.pk), self.ann)

    def taught(self) -> tuple[list[int], list[object]]:
        report = self.learning().report
        return report.used, [row.ratios for row in report.figures]

    def test_the_runs_go_along_with_a_copy_of_the_body_and_its_card(self) -> None:
        setups = [run.reading(Kit.of(self.ann)).setup for run in Run.objects.all()]
        self.assertEqual({(self.body, self.card)}, {(s.body, s.sides[0].card) for s in setups})

    def test_learnt_figures_are_what_the_desk_predicts_with_and_says(self) -> None:
        report = self.learning().report
        test_it = f"{reverse('bench-test')}?body={self.body.slug}"
        self.assertContains(self.client.get(test_it), "2 runs of this body that predictions don")
        page = self.act("bench-keep")
        self.assertContains(page, "use these figures since")
        self.assertNotContains(self.client.get(test_it), "runs of this body that predictions don")
        setup = read_query(Run.objects.first().setup, Kit.of(self.ann)).setup
        rows = {row.key: row for row in report.figures}
        memory, of_memory = rows[MEMORY], sources_of(setup).memory_mb
        typical_mb = memory.assumed * memory.typical
        self.assertAlmostEqual(typical_mb, scenario_of(setup).memory_mb, delta=0.01 * typical_mb)
        self.assertTrue(memory.low < typical_mb < memory.high)
        self.assertIsInstance(of_memory, JointSamples)
        self.assertContains(self.client.get(f"/?{setup.desk_query}"), "learnt from 2 runs")
        self.assertContains(
            self.client.get(reverse("body", args=[self.body.slug])), "learnt from 2"
        )

    def test_the_desk_is_as_sure_as_the_bench(self) -> None:
        """In the format of the runs, and in others, of which they tell something too."""
        predictions = self.learning().report.predictions
        self.assertEqual(self.body.formats.count(), len(predictions))
        self.act("bench-keep")
        for row in reversed(predictions):
            setup = read_query(row.query, Kit.of(self.ann)).setup
            frames = predict(setup).ranges.frames
            self.assertAlmostEqual(row.ranges.frames.middle, frames.middle, delta=2)
            on_bench = row.ranges.frames.high - row.ranges.frames.low
            self.assertLess(frames.high - frames.low, 1.5 * on_bench + 2)
        kept = {figure.key for figure in setup.body.learnt_figures.all()}
        raw_alone, raw_and_jpeg = (
            {FigureKey(FigureKind.FILES, of, "raw")}
            for of in ("lossless-raw", "lossless-raw-and-jpeg-fine")
        )
        self.assertLessEqual(raw_alone | raw_and_jpeg, kept)
        # What it draws is one body, in the middle of all: card and slot that belong together.
        nominal = simulate(scenario_of(setup))
        self.assertAlmostEqual(frames.middle or 0, nominal.frames, delta=2 + 0.05 * nominal.frames)
        (speed,) = self.learning().report.speeds
        kept_mb_s = write_speed(setup.sides[0]).mb_s
        self.assertTrue(speed.low_mb_s <= kept_mb_s <= speed.high_mb_s)

    def test_a_body_that_is_slower_than_it_is_set_to_is_predicted_so(self) -> None:
        """It goes on being called by the rate that is set; the figures are those of the runs."""
        seen = {"setup": f"body={self.body.slug}&format=jpeg-normal", "method": "files"}
        seen |= {"hold_s": "12", "frames": "65", "did_not_slow": "on", "frame_rate_fps": "5.4"}
        self.client.post(reverse("bench-test"), seen)
        self.act("bench-body")
        work_off()
        self.act("bench-keep")
        setup = read_query(seen["setup"], Kit.of(self.ann)).setup
        frames = confidence(scenario_of(setup), sources_of(setup)).frames
        shot = simulate(scenario_of(setup)).frames
        self.assertEqual(6, setup.rate.fps)
        self.assertAlmostEqual(5.4, scenario_of(setup).frame_rate_fps, delta=0.1)
        self.assertTrue(frames.low <= shot <= frames.high)

    def test_runs_teach_the_same_when_their_card_or_body_is_put_away(self) -> None:
        used, ratios = self.taught()
        for put_away in (self.card, self.body):
            edit.archive(put_away)
            self.act("bench-body")
            work_off()
            self.assertEqual((used, ratios), self.taught())
            self.assertEqual([], self.learning().report.predictions)
        edit.bring_back(Body.objects.get(pk=self.body.pk))
        edit.bring_back(Card.objects.get(pk=self.card.pk))
        Card.objects.filter(pk=self.card.pk).update(state=CardState.RETIRED)
        self.act("bench-body")
        work_off()
        self.assertEqual(used, self.taught()[0])
        self.assertContains(self.act("bench-body"), "No card that was tested can be chosen")

    def test_what_runs_are_of_is_not_removed(self) -> None:
        for item in (self.body, self.card):
            self.client.post(reverse("undo", args=[Revision.objects.last_of(item).pk]), follow=True)
            self.assertTrue(type(item).objects.filter(pk=item.pk).exists())
        with self.assertRaises(RestrictedError):
            self.body.delete()
        self.ann.delete()
        self.assertFalse(Run.objects.exists())

    def test_no_run_is_counted_twice(self) -> None:
        key = self.learning().key
        self.act("bench-keep")
        self.assertEqual(key, self.learning().key)
        again = self.act("bench-keep")
        self.assertContains(again, "use these figures since")
        self.assertEqual(1, LearntFigure.objects.filter(kind=MEMORY.kind).count())

    def test_what_was_there_before_comes_back_by_undoing_or_by_taking_it_back(self) -> None:
        page = self.act("bench-keep")
        self.assertNotEqual(self.before, self.documents())
        (message,) = page.context["messages"]
        self.client.post(message.extra_tags)
        self.assertEqual(self.before, self.documents())
        self.act("bench-keep")
        self.act("bench-take-back")
        self.assertEqual(self.before, self.documents())
        self.assertFalse(LearntFigure.objects.exists() or LearntSpeed.objects.exists())

    def test_a_run_that_taught_is_deleted_only_when_that_was_said(self) -> None:
        self.act("bench-keep")
        address = reverse("run-delete", args=[Run.objects.first().pk])
        self.assertContains(self.client.post(address), "were learnt from it")
        self.assertEqual(2, Run.objects.count())
        self.client.post(address, {"sure": "1"})
        self.assertEqual(1, Run.objects.count())
        self.act("bench-take-back")
        self.client.post(reverse("run-delete", args=[Run.objects.first().pk]))
        self.assertFalse(Run.objects.exists())

    def test_nobody_elses_body_can_be_changed(self) -> None:
        self.client.force_login(User.objects.create(email="bob@example.org"))
        for name in ("bench-keep", "bench-take-back", "bench-copy"):
            self.assertEqual(404, self.act(name).status_code, name)
        self.assertEqual(self.before, self.documents())
