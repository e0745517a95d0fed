"""The sample kit: complete, plausible, loaded whole or not at all."""

import tempfile
from io import StringIO
from pathlib import Path

from django.core.management import call_command
from django.db.models import Count
from django.test import TestCase

from kit import sample
from kit.models import Body, Card, RecordingFormat


class SampleKit(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()

    def test_has_bodies_formats_and_cards_enough_to_try_everything(self) -> None:
        self.assertGreaterEqual(Body.objects.count(), 5)
        self.assertEqual(Body.objects.count(), Body.objects.ready_to_shoot().count())
        formats = RecordingFormat.objects.values("body").annotate(n=Count("pk")).values_list("n")
        self.assertTrue(all(3 <= n <= 7 for (n,) in formats))
        self.assertGreaterEqual(Card.objects.count(), 14)
        self.assertGreaterEqual(Card.objects.values("form").distinct().count(), 5)
        for body in Body.objects.all():
            for slot in body.slots.all():
                self.assertTrue(Card.objects.fitting(slot).exists(), f"{body}, {slot}")

    def test_loading_again_changes_nothing_and_reset_puts_everything_back(self) -> None:
        before = set(Card.objects.values_list("pk", flat=True))
        call_command("load_sample_kit", stdout=StringIO())
        self.assertEqual(before, set(Card.objects.values_list("pk", flat=True)))
        Card.objects.update(capacity_gb=1)
        call_command("load_sample_kit", stdout=StringIO())
        self.assertFalse(Card.objects.filter(capacity_gb=1).exists())
        self.assertEqual(before, set(Card.objects.values_list("pk", flat=True)))

    def test_a_bad_entry_is_named_and_leaves_the_kit_as_it_was(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "kit.toml"
            text = sample.SAMPLE_FILE.read_text(encoding="utf-8")
            path.write_text(text.replace("fps = 12,", "fps = -12,"), encoding="utf-8")
            with self.assertRaisesRegex(
                sample.BadKit,
                r"varnholt-vx-3: shutter_modes\[2\].frame_rates\[1\].fps: Fps must be from",
            ):
                sample.load(path)
        self.assertTrue(Body.objects.ready_to_shoot().exists())
