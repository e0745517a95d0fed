"""A burst is tapped, by keys and by touch, and what it teaches appears."""

import re
import tempfile
from typing import ClassVar

from django.test import tag
from playwright.sync_api import Page, Route, expect

from bench.tests.test_bench import BURST
from engine.measurement.synthetic_camera import (
    picture_files,
    shutter_wav,
    strokes_s,
)
from kit.tests.browser import BrowserTestCase
from pages.tests.jobs import work_off

HALF_S = 500
LEARNING_MS = 60_000  # where other tests take the processors
SILENCE_S = 5.0  # before the burst: a busy machine may take so long to begin a recording
RECORDINGS = 4


@tag("browser")
class TappingABurst(BrowserTestCase):
    def fields(self, page: Page) -> list[str]:
        names = ("hold_s", "frames_at_full_speed", "clear_s")
        return [page.locator(f"#run [name={name}]").input_value() for name in names]

    def test_keys_alone_from_the_first_tap_to_what_it_teaches(self) -> None:
        page = self.open("?body=pellow-wren-10")
        page.keyboard.press("-")
        page.get_by_role("link", name="Test a burst").focus()
        page.keyboard.press("Enter")
        expect(page.locator("[data-tap-key]")).to_be_visible()
        for _ in range(3):
            page.keyboard.press("Space")
            page.wait_for_timeout(HALF_S)
        page.keyboard.press("Space")
        expect(page.locator("#run [name=frames]")).to_be_focused()
        hold_s, depth, clear_s = self.fields(page)
        self.assertGreater(float(hold_s), 0.9)
        self.assertGreater(float(clear_s), 0.4)
        self.assertGreaterEqual(int(depth), 1)
        page.keyboard.type("6")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Learning from 1 run")).to_be_visible()
        work_off()
        expect(page.get_by_text("What the camera hides")).to_be_visible(timeout=LEARNING_MS)

    def test_a_stand_in_cameras_files_are_read_to_the_burst_that_it_shot(self) -> None:
        page = self.open("bench/files/")
        files = [
            {"name": name, "mimeType": "image/jpeg", "buffer": content}
            for name, content in picture_files(BURST)
        ]
        files.append({"name": "tool.jpg", "mimeType": "image/jpeg", "buffer": b"MZ" * 500})
        page.locator("[data-files-input]").first.set_input_files(files)
        depth = BURST.frames_at_full_speed
        told = re.compile(f"full after ({depth - 1}|{depth}|{depth + 1}) frames")
        expect(page.get_by_text(told)).to_be_visible()
        expect(page.get_by_text("tool.jpg does not say when it was taken.")).to_be_visible()
        page.get_by_role("button", name="Save as a run").click()
        expect(page.locator("#run [name=method]")).to_have_value("files")
        page.get_by_role("button", name="Save the run").click()
        expect(page.get_by_text("Learning from 1 run")).to_be_visible()

    def test_files_that_were_read_are_kept_when_the_connection_is_lost(self) -> None:
        page = self.open("bench/files/")
        files = [
            {"name": name, "mimeType": "image/jpeg", "buffer": content}
            for name, content in picture_files(BURST)
        ]
        seen: list[str] = []

        def answer(route: Route) -> None:
            seen.append(route.request.url)
            if 1 < len(seen) < 5:  # each batch is tried three times
                route.abort()
            else:
                route.continue_()

        page.route("**/bench/heads/", answer)
        page.locator("[data-files-input]").first.set_input_files(files)
        expect(page.get_by_text("The connection was lost after 20 of")).to_be_visible()
        self.complaints.clear()
        page.get_by_role("button", name="Go on").click()
        expect(page.get_by_text(f"{BURST.frames} frames in")).to_be_visible()

    def test_without_leave_to_use_the_microphone_a_recording_can_still_be_loaded(self) -> None:
        page = self.open("bench/sound/")
        page.get_by_role("button", name="Record", exact=True).click()
        expect(page.locator("[data-record-told]")).to_contain_text("load a recording")

    def test_a_finger_on_a_phone_notes_that_it_did_not_slow(self) -> None:
        page = self.open(
            "bench/test/?body=pellow-wren-10", viewport={"width": 390, "height": 844},
            has_touch=True,
        )  # fmt: skip
        page.locator("[data-tap-key]").tap()
        page.wait_for_timeout(HALF_S)
        page.get_by_role("button", name="Finger up, it did not slow").tap()
        page.wait_for_timeout(HALF_S)
        page.locator("[data-tap-key]").tap()
        expect(page.get_by_label("It did not slow")).to_be_checked()
        hold_s, depth, clear_s = self.fields(page)
        self.assertEqual("", depth)
        self.assertGreater(float(hold_s), 0.4)
        self.assertGreater(float(clear_s), 0.4)
        page.get_by_role("button", name="Start again").tap()
        self.assertEqual("", self.fields(page)[2])


@tag("browser")
class HearingABurst(BrowserTestCase):
    """The stand-in camera stands before the microphone."""

    browser_args: ClassVar[list[str]] = []

    @classmethod
    def setUpClass(cls) -> None:
        cls.recording = tempfile.NamedTemporaryFile(suffix=".wav")  # noqa: SIM115
        cls.addClassCleanup(cls.recording.close)
        cls.recording.write(shutter_wav(SILENCE_S + strokes_s(BURST), snr_db=12))
        cls.recording.flush()
        cls.browser_args = [
            "--use-fake-ui-for-media-stream",
            "--use-fake-device-for-media-stream",
            f"--use-file-for-fake-audio-capture={cls.recording.name}%noloop",
        ]
        super().setUpClass()

    def strokes(self, page: Page) -> list[float]:
        return [float(one) for one in page.locator("#id_times").input_value().split()]

    @tag("real-time")  # what it hears is played while it listens
    def test_the_microphone_hears_the_burst_that_the_camera_shot(self) -> None:
        """Unless the page says each time that the machine was too busy to record it all."""
        depth = BURST.frames_at_full_speed
        page = self.open("bench/sound/")
        if not any(self.is_recorded(page) for _ in range(RECORDINGS)):
            self.skipTest("this machine is too busy to record sound")
        told = re.compile(f"full after ({depth - 1}|{depth}|{depth + 1}) frames")
        expect(page.get_by_text(told)).to_be_visible()
        self.assertAlmostEqual(BURST.frames, len(self.strokes(page)), delta=1)

    def is_recorded(self, page: Page) -> bool:
        page.locator("[data-record-key]").click()
        stop = page.get_by_role("button", name="Stop, and look through it")
        expect(stop).to_be_visible()
        page.wait_for_timeout(1_000 * (SILENCE_S + BURST.light_out_s))
        stop.click()
        heard = page.locator("#marks h2")
        lost = page.locator("[data-record-told]", has_text="lost")
        expect(heard.or_(lost)).to_be_visible()
        return heard.is_visible()

    def test_strokes_are_corrected_by_keys_and_by_touch_and_saved(self) -> None:
        page = self.open("bench/sound/")
        page.locator("[name=sound]").set_input_files(self.recording.name)
        marks = page.locator("[data-marks]")
        marks.focus()
        before = self.strokes(page)
        for key in ("ArrowRight", "ArrowRight", "Shift+ArrowRight"):
            page.keyboard.press(key)
        expect(page.locator("[data-marks-told]")).to_contain_text(f"at {before[1] + 0.002:.3f}")
        page.keyboard.press("Delete")
        expect(page.locator("#marks h2")).to_contain_text(f"{len(before) - 1} clicks")
        expect(marks).to_be_focused()
        page.keyboard.press("+")
        expect(page.locator("#marks h2")).to_contain_text(f"{len(before)} clicks")
        page.locator("[data-marks] svg").first.click(position={"x": 3, "y": 20})
        expect(page.locator("#marks h2")).to_contain_text(f"{len(before) + 1} clicks")
        page.get_by_role("button", name="Remove it").click()
        expect(page.locator("#marks h2")).to_contain_text(f"{len(before)} clicks")
        page.get_by_role("button", name="Save as a run").click()
        expect(page.locator("#run [name=method]")).to_have_value("sound")
        page.locator("#choose-body").select_option("pellow-wren-10")
        expect(page.locator("[name=setup]")).to_have_value(re.compile("pellow-wren-10"))
        expect(page.locator("#run [name=frames]")).to_have_value(str(len(before)))
