"""My camera: what six answers predict and save, and what is said of bad ones."""

from random import Random
from urllib.parse import urlencode

from django.test import TestCase
from django.urls import reverse

from camera.answers_form import FORMAT_CHOICES, SLOT_CHOICES
from engine.cards.standards import Bus
from engine.estimates.write_speed import typical_write
from engine.figures.uncertainty import ESTIMATED
from kit import edit, sample
from kit.models import Body, Card, Source
from kit.models.body import MEMORY
from setups.engine_adapter import sources_of
from setups.kit import Kit
from setups.reader import read_query

FIRST = {
    "name": "Tarnwick Skua 1", "electronic": "20", "megapixels": "24", "slot1": ["SD|UHS-II"],
    "formats": ["lossless RAW", "JPEG fine"],
}  # fmt: skip


class MyCamera(TestCase):
    def page(self, **answers: object):
        return self.client.get(reverse("camera"), answers)

    def test_a_frame_rate_is_enough_and_nothing_is_saved(self) -> None:
        self.assertContains(self.page(electronic="20"), "Lossless RAW at 20 fps")
        self.assertContains(self.page(claim_frames="40", claim_fps="10"), "RAW at 10 fps")
        self.assertContains(self.page(megapixels="24"), "a first prediction here")
        self.assertFalse(Body.objects.exists())

    def test_a_body_is_called_what_was_typed(self) -> None:
        for called in ("Skua", "Tarnwick Skua", "Tarnwick Skua 2 S"):
            self.client.post(reverse("camera"), FIRST | {"name": called})
            self.assertEqual(called, str(Body.objects.latest("pk")))

    def test_an_address_carries_no_token(self) -> None:
        sent = self.client.get(reverse("camera"), FIRST | {"csrfmiddlewaretoken": "secret"})
        self.assertRedirects(sent, f"{reverse('camera')}?{urlencode(FIRST, doseq=True)}")

    def test_what_is_saved_opens_on_the_desk_with_the_same_figures(self) -> None:
        """Law: over random answers, the answers beside the questions are those of the Desk."""
        sample.load()
        for seed in range(8):
            random = Random(seed)
            answers = FIRST | {
                "name": f"Tarnwick Skua {seed}", "electronic": str(random.randint(5, 40)),
                "megapixels": str(random.randint(12, 60)),
                "slot1": [random.choice(SLOT_CHOICES)[0]],
                "slot2": random.choice(([], ["SD|UHS-I"])),
                "formats": random.sample([kind for kind, _ in FORMAT_CHOICES], 3),
                "claim_frames": random.choice(("", "30", "100")),
            }  # fmt: skip
            shown = self.page(**answers).context["prediction"]
            saved = self.client.post(reverse("camera"), answers)
            desk = self.client.get(saved.url).context["prediction"]
            with self.subTest(**answers):
                self.assertEqual(shown.shot.scenario, desk.shot.scenario)
                self.assertEqual(shown.ranges, desk.ranges)

    def test_every_estimate_is_kept_with_its_spread_until_the_figure_changes(self) -> None:
        self.client.post(reverse("camera"), FIRST | {"claim_frames": "85"})
        body = Body.objects.get()
        [estimate] = [one for one in body.estimates.all() if one.key == MEMORY]
        self.assertIn("Solved backwards from 85 frames", estimate.why)
        self.assertEqual((Source.ESTIMATED, "parallel"), (body.memory_source, "parallel"))
        setup = read_query(f"body={body.slug}", Kit.of(body.owner)).setup
        self.assertEqual(estimate.uncertainty, sources_of(setup).memory_mb)
        edit.rewrite(body, {"memory_mb": body.memory_mb + 1}, None)
        setup = read_query(f"body={body.slug}", Kit.of(body.owner)).setup
        self.assertEqual(ESTIMATED, sources_of(setup).memory_mb)

    def test_a_label_gives_the_card_else_a_typical_card_stands_for_it(self) -> None:
        label = "Gravelock Tide Pro 128 GB SDXC II U3 V60 280MB/s R 150MB/s W"
        self.client.post(reverse("camera"), FIRST | {"card": label})
        card = Card.objects.get()
        self.assertEqual(("Gravelock", 128, label), (card.maker, card.capacity_gb, card.marks))
        speed_alone = {"name": "Tarnwick Skua 4", "card": "up to 270 MB/s"}
        asked = self.client.post(reverse("camera"), FIRST | speed_alone)
        self.assertContains(asked, "say how many GB it holds", status_code=422)
        self.client.post(reverse("camera"), FIRST | speed_alone | {"card_gb": "64"})
        card = Card.objects.get(capacity_gb=64)
        self.assertEqual(("SD", "UHS-II", "up to 270 MB/s"), (card.form, card.bus, card.marks))
        unlike = FIRST | {"slot1": ["CFexpress B|PCIe 3 x2"]}
        for number in (2, 3):
            self.client.post(reverse("camera"), unlike | {"name": f"Tarnwick Skua {number}"})
        typical = Card.objects.get(maker="Typical")
        self.assertFalse(typical.is_owned)
        expected = typical_write(Bus(typical.bus)).middle_mb_s
        self.assertAlmostEqual(expected, typical.sustained_write_mb_s, delta=1)
        self.assertEqual(4, Body.objects.count())
        again = self.client.post(reverse("camera"), FIRST)
        self.assertContains(again, "already", status_code=422)

    def test_without_a_label_a_card_that_one_has_goes_before_a_typical_one(self) -> None:
        self.client.post(reverse("camera"), FIRST | {"card": "Gravelock Tide 128 GB SDXC II V60"})
        owned, second = Card.objects.get(), FIRST | {"name": "Tarnwick Skua 2"}
        self.assertContains(self.client.get(reverse("camera"), second), f"on your {owned}")
        saved = self.client.post(reverse("camera"), second)
        self.assertIn(f"card1={owned.slug}", saved.url)
        self.assertEqual([owned], [*Card.objects.filter(of_class=False, owner=owned.owner)])

    def test_wherever_the_ranges_are_wide_it_says_what_would_narrow_them_most(self) -> None:
        told = set()
        for answers in (
            {"electronic": "20"},
            {"electronic": "20", "megapixels": "45"},
            {"electronic": "120", "mechanical": "20", "megapixels": "45", "claim_frames": "200"},
            FIRST | {"claim_frames": "85", "card": "128 GB SDXC II V60", "file_mb": "30"},
        ):
            preview = self.page(**answers).context["preview"]
            if preview.prediction.widest_factor:
                told.add(preview.narrows_most)
        self.assertIn("what the maker says that a burst holds", told)
        self.assertTrue(all(told))

    def test_a_rate_for_special_occasions_does_not_make_the_buffer_endless(self) -> None:
        memory = []
        for rates in ({"mechanical": "20"}, {"mechanical": "20", "electronic": "120"}):
            preview = self.page(**rates, megapixels="45", slot1=["CFexpress B|PCIe 3 x2"])
            memory.append(preview.context["preview"].estimate.memory.value)
            self.assertGreater(preview.context["prediction"].ranges.wall_share, 0)
        self.assertLess(memory[1], 3 * memory[0])

    def test_bad_answers_get_a_sentence_and_lose_nothing(self) -> None:
        for answers, sentence in (
            ({"megapixels": "1"}, "Must be from 2 to 400 megapixels, got 1."),
            ({"megapixels": "600"}, "Must be from 2 to 400 megapixels, got 600."),
            ({"claim_frames": "0"}, "Must be from 1 to 1,000,000 frames, got 0."),
            ({"claim_frames": "2.5"}, "Frames are counted in whole numbers."),
            ({"claim_frames": "1000000"}, "usually means until the card is full"),
            ({"claim_frames": "900"}, "It fits frames of"),
            ({"electronic": "fast"}, "“fast” is not a number of fps."),
            ({"slot1": [], "slot2": ["SD|UHS-I"]}, "Say what slot 1 takes before slot 2."),
            ({"card": "a red one"}, "None of its marks is known"),
            ({"card": "SDXC UHS-II V90 W 3000 MB/s"}, "is above the 312 of UHS-II"),
            ({"card": "256 GB XQD"}, "Your card does not go into slot 1."),
            ({"slot1": ["floppy"]}, "floppy is not one of the available choices"),
        ):
            with self.subTest(sentence):
                page = self.page(**FIRST | answers)
                self.assertContains(page, sentence)
                self.assertContains(page, 'value="Tarnwick Skua 1"')

    def test_a_body_without_slots_gets_the_usual_one(self) -> None:
        self.client.post(reverse("camera"), FIRST | {"slot1": []})
        takes = Body.objects.get().slots.values_list("accepted_forms__form", flat=True)
        takes = Body.objects.get().slots.values_list("accepted_forms__form", flat=True)
        self.assertEqual(["SD"], list(takes))

    def test_a_pasted_page_answers_the_questions_and_says_what_it_read(self) -> None:
        text = "43 megapixels; up to 12 fps mechanical\nBuffer: 85 frames lossless RAW at 20 fps"
        page = self.client.post(reverse("camera-read"), {"page": text})
        for words in ("“43 megapixels; up to 12 fps mechanical”", 'value="43"', 'value="85"'):
            self.assertContains(page, words)
        novel = self.client.post(reverse("camera-read"), {"page": "It was a dark night. " * 5_000})
        self.assertContains(novel, "Nothing on that page reads as a camera")
        self.assertContains(novel, "Only the first 20,000 characters were read.")
