"""The Desk in a real browser: what needs script, paint or history to be true."""

from django.test import tag
from playwright.sync_api import Route, expect

from kit.tests.browser import BrowserTestCase
from prices.tests.builders import usual_list


@tag("browser")
class DeskInTheBrowser(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        usual_list()

    def test_a_change_answers_in_place_and_back_and_reload_give_the_same_view(self) -> None:
        page = self.open()
        answers = page.locator("#answers")
        expect(answers).to_contain_text("60 frames")
        page.get_by_label("Card in slot 1").select_option("gravelock-tide-256")
        expect(answers).to_contain_text("40 frames")
        page.get_by_label("Recording format").select_option("lossy-raw")
        expect(answers).to_contain_text("no wall in")
        expect(page.locator("#spoken")).to_contain_text("of bursts. 120 of 120 frames")
        self.assertIn("format=lossy-raw", page.url)
        page.reload()
        expect(answers).to_contain_text("no wall in")
        page.go_back()
        expect(answers).to_contain_text("40 frames")
        expect(page.get_by_label("Recording format")).to_have_value("lossless-raw")
        expect(page).to_have_title("Varnholt VX-3, lossless RAW – Ondata Desk")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("button", name="keys")).to_be_visible()
        expect(page.get_by_role("button", name="Listen")).to_be_visible()
        page.go_forward()
        expect(page.get_by_label("Recording format")).to_have_value("lossy-raw")

    def test_another_body_drops_what_it_does_not_have_and_says_so(self) -> None:
        page = self.open()
        page.keyboard.press("b")
        page.get_by_label("Body").select_option("pellow-wren-10")
        expect(page.get_by_role("alert")).to_contain_text(
            "doesn't fit. It is CFexpress B; the slot takes SD"
        )
        expect(page.get_by_label("Frame rate")).to_have_value("6")
        expect(page.get_by_label("Body")).to_be_focused()

    def test_what_is_chosen_before_the_scripts_have_come_is_answered(self) -> None:
        page = self.open("bodies/")
        held: list[Route] = []
        page.route("**/htmx.min.*", lambda route: held.append(route))
        page.goto(self.live_server_url, wait_until="commit")
        page.get_by_label("Card in slot 1").select_option("gravelock-tide-256")
        held[0].continue_()
        expect(page.locator("#answers")).to_contain_text("40 frames")

    def test_letters_typed_into_a_list_are_one_change(self) -> None:
        page = self.open()
        asked: list[str] = []
        page.on("request", lambda request: asked.append(request.url))
        page.keyboard.press("b")
        page.keyboard.type("quillon")
        expect(page.locator("#answers")).to_contain_text("54 of 54")
        expect(page.get_by_label("Body")).to_have_value("quillon-heron-4-firmware-1-3")
        self.assertEqual(1, sum("body=quillon" in url for url in asked))

    def test_a_wrong_number_keeps_what_was_typed_beside_a_sentence(self) -> None:
        page = self.open()
        hold = page.get_by_label("Seconds held down")
        hold.fill("1e9")
        hold.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("A hold lasts 0.1 to 600 s")
        expect(hold).to_have_value("1e9")
        hold.fill("3,5")
        hold.press("Tab")
        expect(page.locator("#answers")).to_contain_text("In your 3.5 s hold")

    def test_finger_up_can_be_dragged(self) -> None:
        page = self.open()
        knob = page.locator("#finger-up .knob").bounding_box()
        page.mouse.move(knob["x"] + 7, knob["y"] + 7)
        page.mouse.down()
        page.mouse.move(knob["x"] - 215, knob["y"] + 7, steps=5)
        expect(page.locator("#finger-up")).to_contain_text("finger up at 3.9 s")
        page.mouse.up()
        expect(page.locator("#answers")).to_contain_text("In your 3.9 s hold")
        self.assertIn("hold=3.9", page.url)

    def test_every_main_action_has_a_key(self) -> None:
        page = self.open()
        page.keyboard.press("ArrowRight")
        expect(page.locator("#answers")).to_contain_text("In your 6.5 s hold")
        page.locator("#finger-up").focus()
        page.keyboard.press("Shift+ArrowDown")
        expect(page.locator("#answers")).to_contain_text("In your 1.5 s hold")
        expect(page.locator("#finger-up")).to_be_focused()
        page.keyboard.press("c")
        expect(page.get_by_label("Card in slot 1")).to_be_focused()
        page.keyboard.press("Escape")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_contain_text("hold half a second less or more")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_be_hidden()

    def test_a_change_is_tried_over_the_old_and_kept_or_dropped_by_a_key(self) -> None:
        page = self.open("?to=mirror")
        page.get_by_role("link", name="Write to slot 1 only").click()
        expect(page.locator(".tried")).to_contain_text("+49 frames in the hold")
        expect(page.locator(".before-water")).to_be_attached()
        page.keyboard.press("x")
        expect(page.get_by_label("Which slot gets what")).to_have_value("mirror")
        page.get_by_role("link", name="Write to slot 1 only").click()
        expect(page.locator(".tried")).to_be_visible()
        page.keyboard.press("k")
        expect(page.locator(".tried")).to_be_hidden()
        expect(page.get_by_label("Which slot gets what")).to_have_value("single")

    def test_a_typed_speed_and_a_pin(self) -> None:
        page = self.open()
        page.get_by_label("Write speed in slot 1").fill("1840 Mb/s")
        page.keyboard.press("Tab")
        expect(page.get_by_role("alert")).to_contain_text("1840 Mb/s are 230 MB/s")
        self.assertIn("write1=230", page.url)
        page.get_by_role("link", name="Pin", exact=True).click()
        expect(page.get_by_role("link", name="Unpin")).to_be_visible()
        self.assertIn("&pin=", page.url)

    def test_the_burst_can_be_heard_and_saved(self) -> None:
        page = self.open("?hold=2")
        page.get_by_role("button", name="Listen").click()
        expect(page.get_by_role("button", name="Stop")).to_be_visible()
        expect(page.locator("#playhead")).to_have_attribute("visibility", "visible")
        page.keyboard.press("Escape")
        expect(page.get_by_role("button", name="Listen")).to_be_visible()
        page.get_by_text("Export").click()
        for button, name, starts in (
            ("Sound as WAV", "burst.wav", b"RIFF"),
            ("Drawing as PNG", "burst.png", b"\x89PNG"),
        ):
            with page.expect_download() as download:
                page.get_by_role("button", name=button).click()
            self.assertEqual(name, download.value.suggested_filename)
            self.assertEqual(starts, download.value.path().read_bytes()[:4])

    def test_the_light_follows_the_system_until_it_is_switched(self) -> None:
        page = self.open(color_scheme="dark")
        html = page.locator("html")
        expect(html).to_have_attribute("data-bs-theme", "dark")
        page.keyboard.press("l")
        expect(html).to_have_attribute("data-bs-theme", "light")
        page.reload()
        expect(html).to_have_attribute("data-bs-theme", "light")
        expect(page.get_by_role("button", name="Dark")).to_be_visible()

    def test_works_without_script(self) -> None:
        page = self.open(java_script_enabled=False)
        page.get_by_label("Seconds held down").fill("1")
        page.get_by_role("button", name="Predict").click()
        expect(page.locator("#answers")).to_contain_text("No wall in this hold")

    def test_says_so_when_the_site_does_not_answer(self) -> None:
        page = self.open()
        page.route("**/*", lambda route: route.abort())
        page.get_by_label("Recording format").select_option("heif")
        expect(page.get_by_role("alert")).to_contain_text("Ondata does not answer")
        self.complaints.clear()  # the aborted request, said by the browser

    def test_fits_a_phone_with_targets_for_a_finger(self) -> None:
        page = self.open(
            "?body=quillon-swift-7&free1=1", viewport={"width": 390, "height": 844}, has_touch=True
        )
        self.assertEqual(390, page.evaluate("document.documentElement.scrollWidth"))
        expect(page.get_by_label("Seconds held down")).to_be_hidden()  # the answer comes first
        page.get_by_role("button", name="Change").tap()
        page.get_by_label("Seconds held down").tap()
        page.wait_for_function("getSelection().toString() === '6'")
        page.get_by_role("navigation", name="Formats").get_by_role("link").last.tap()
        expect(page.locator(".format-taps [aria-current]")).to_have_text("JPEG normal")
        for target in page.locator(".choice, button:visible, .brand, #finger-up").all():
            box = target.bounding_box()
            self.assertGreaterEqual(box["height"], 44, target)
