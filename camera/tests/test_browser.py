"""From nothing to a first prediction of one's own camera, in seconds of a person's time.

Seconds are those of the keystroke-level model (Card, Moran and Newell, 1980): 1.35 s to think of
what goes into a field, 1.1 s to point at it, 0.2 s to press, 0.28 s for a key of a usual typist.
"""

from typing import NamedTuple

from django.test import tag
from playwright.sync_api import Page, expect

from kit.tests.browser import BrowserTestCase

THINK_S, POINT_S, PRESS_S, KEY_S = 1.35, 1.1, 0.2, 0.28
MOST_S = 60


class Camera(NamedTuple):
    """What somebody types, by label, and taps."""

    typed: dict[str, str]
    taps: list[str]
    says: str


CAMERAS = (
    Camera({"Electronic shutter": "20", "Megapixels": "24"}, ["SD, UHS-II"], "RAW at 20 fps"),
    Camera(
        {"What is it called": "Tarnwick Skua 1", "Electronic shutter": "30", "Megapixels": "45",
         "Frames": "120", "label of your card": "Gravelock 512 GB CFexpress Type B R 1640 W 1430"},
        ["CFexpress B, PCIe 3 x2"], "on your card",
    ),
    Camera({"Mechanical shutter": "6", "or size of a file": "27 MB"}, ["SD, UHS-I"], "at 6 fps"),
)  # fmt: skip


@tag("browser")
class CameraInTheBrowser(BrowserTestCase):
    def test_a_first_prediction_takes_less_than_a_minute_without_an_account(self) -> None:
        for camera in CAMERAS:
            page = self.open("camera/")
            with self.subTest(camera.says):
                self.assertLess(self.seconds(page, camera), MOST_S)
                expect(page.locator("#preview")).to_contain_text(camera.says)
                expect(page.locator("#answers")).to_contain_text("Hold up to")

    def seconds(self, page: Page, camera: Camera) -> float:
        seconds = THINK_S + POINT_S + PRESS_S  # the link to this screen
        for label, text in camera.typed.items():
            page.get_by_label(label).first.press_sequentially(text)
            seconds += THINK_S + POINT_S + PRESS_S + KEY_S * len(text)
        for tap in camera.taps:
            page.get_by_label(tap).first.check()
            seconds += THINK_S + POINT_S + PRESS_S
        return seconds

    def test_each_answer_changes_the_prediction_and_it_is_saved_for_the_browser(self) -> None:
        page = self.open()
        page.keyboard.press("9")
        page.get_by_label("Electronic shutter").fill("20")
        answers = page.locator("#answers")
        expect(page.locator("#preview")).not_to_contain_text("For example")
        before = answers.inner_text()
        page.get_by_label("Megapixels").fill("60")
        expect(answers).not_to_have_text(before)
        self.assertIn("megapixels=60", page.url)
        page.get_by_label("Megapixels").press("Enter")  # asks again, and goes nowhere
        expect(page.get_by_label("Megapixels")).to_be_focused()
        page.get_by_role("button", name="Save my camera").click()
        expect(page.get_by_text("Unnamed camera added.")).to_be_visible()
        expect(page.get_by_label("Body")).to_have_value("unnamed-camera")
        expect(page.get_by_role("link", name="Keep my kit: sign up")).to_be_visible()
