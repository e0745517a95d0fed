"""The made-up camera leaves what a real one would, and says what it hid."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from kit import sample

SETUP = {"body": "pellow-wren-10", "hold": "3", "seed": "7"}


class StandIn(TestCase):
    def setUp(self) -> None:
        sample.load()

    def test_its_files_and_its_sound_tell_the_burst_that_its_button_shot(self) -> None:
        press = reverse("stand-in-press")
        burst = self.client.get(press, SETUP | {"held": "3"}).json()
        self.assertGreater(burst["light_out_s"], 3)
        table = self.client.get(reverse("stand-in-file", args=["files.csv"]), SETUP)
        page = self.client.post(reverse("bench-files"), {"table": table.getvalue().decode()})
        (found,) = page.context["bursts"]
        self.assertEqual(burst["frames"], len(found.times_s))
        sound = self.client.get(reverse("stand-in-file", args=["shutter.wav"]), SETUP)
        recording = SimpleUploadedFile("shutter.wav", sound.getvalue())
        page = self.client.post(reverse("bench-sound"), {"sound": recording})
        self.assertAlmostEqual(burst["frames"], len(page.context["found"].times_s), delta=1)
        small = SETUP | {"format": "jpeg-fine"}
        zipped = self.client.get(reverse("stand-in-file", args=["pictures.zip"]), small)
        self.assertEqual(b"PK", zipped.getvalue()[:2])

    def test_a_camera_keeps_its_figures_and_another_one_has_others(self) -> None:
        page = reverse("bench-stand-in")
        hidden = [
            [one.value for one in self.client.get(page, SETUP | {"seed": seed}).context["hidden"]]
            for seed in ("7", "7", "8")
        ]
        self.assertEqual(hidden[0], hidden[1])
        self.assertNotEqual(hidden[0], hidden[2])
        self.assertNotEqual(*(self.client.get(page).context["seed"] for _ in range(2)))

    def test_what_it_can_not_do_is_refused_with_a_sentence(self) -> None:
        press = reverse("stand-in-press")
        for held in ("0", "-1", "1e9", "x", ""):
            self.assertEqual(422, self.client.get(press, SETUP | {"held": held}).status_code, held)
        for seed in ("0", "-1", "x", "99999999", "²"):
            self.assertEqual(404, self.client.get(press, SETUP | {"seed": seed}).status_code, seed)
        long = SETUP | {"hold": "300"}
        page = self.client.get(reverse("bench-stand-in"), long)
        self.assertContains(page, "hold it shorter")
        sound = self.client.get(reverse("stand-in-file", args=["shutter.wav"]), long)
        self.assertContains(sound, "at most", status_code=422)
