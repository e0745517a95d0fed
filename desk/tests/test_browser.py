"""The Desk in a real browser: what needs script, paint or history to be true."""

import re
from unittest import mock

from axe_playwright_python.sync_playwright import Axe
from django.test import tag
from django.utils import timezone
from playwright.sync_api import expect

from desk import choosing
from kit.tests.browser import SCHEMES, BrowserTestCase
from pages.tests.jobs import work_off
from prices import sample as price_lists
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
        expect(answers).to_contain_text("No wall in")
        expect(page.locator("#spoken")).to_contain_text("of bursts. 120 of 120 frames")
        self.assertIn("format=lossy-raw", page.url)
        page.reload()
        expect(answers).to_contain_text("No wall in")
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
        expect(page.locator(".beside")).to_contain_text("+47 frames in the hold")
        expect(page.locator(".before-water")).to_be_attached()
        page.keyboard.press("x")
        expect(page.get_by_label("Which slot gets what")).to_have_value("mirror")
        page.get_by_role("link", name="Write to slot 1 only").click()
        expect(page.locator(".beside")).to_be_visible()
        page.keyboard.press("k")
        expect(page.locator(".beside")).to_be_hidden()
        expect(page.get_by_label("Which slot gets what")).to_have_value("single")

    def test_a_typed_speed_and_a_pin(self) -> None:
        page = self.open()
        page.get_by_label("Write speed in slot 1").fill("1840 Mb/s")
        page.keyboard.press("Tab")
        expect(page.get_by_role("alert")).to_contain_text("1840 Mb/s are 230 MB/s")
        self.assertIn("write1=230", page.url)
        page.get_by_role("link", name="Pin this set-up").click()
        expect(page.get_by_role("link", name="Unpin")).to_be_visible()
        self.assertIn("&pin=", page.url)

    def test_the_burst_can_be_heard_and_saved(self) -> None:
        page = self.open("?hold=2")
        page.get_by_role("button", name="Listen").click()
        expect(page.get_by_role("button", name="Stop")).to_be_visible()
        expect(page.locator("#playhead")).to_have_attribute("visibility", "visible")
        page.keyboard.press("p")
        expect(page.get_by_role("button", name="Listen")).to_be_visible()
        for button, name, starts in (
            ("as WAV", "burst.wav", b"RIFF"),
            ("PNG", "burst.png", b"\x89PNG"),
        ):
            with page.expect_download() as download:
                page.get_by_role("button", name=button).click()
            self.assertEqual(name, download.value.suggested_filename)
            self.assertEqual(starts, download.value.path().read_bytes()[:4])

    def test_pinned_set_ups_are_compared_read_and_heard_in_turn(self) -> None:
        page = self.open("?pin=card1%3Dgravelock-tide-256&hold=6")
        page.keyboard.press("v")
        rows = page.locator(".row-of-compare")
        expect(rows).to_have_count(2)
        page.wait_for_load_state()
        page.keyboard.press("t")
        for _ in range(3):
            page.keyboard.press("ArrowLeft")
        expect(page.get_by_text("At 5.8 s")).to_be_visible()
        box = page.locator("#ruler").bounding_box()
        page.mouse.move(box["x"] + box["width"] * 0.7, box["y"] + box["height"] / 2)
        page.mouse.down()
        for share in (0.6, 0.4, 0.25):
            page.mouse.move(box["x"] + box["width"] * share, box["y"] + 5)
            page.wait_for_timeout(150)
        page.mouse.up()
        expect(page.locator("#at-words")).to_have_text(re.compile("^2"))
        rows.last.get_by_role("link", name="Up").click()
        expect(rows.first).to_contain_text("Gravelock Tide 256")
        rows.last.get_by_role("button", name="A, then B").click()
        expect(page.get_by_role("button", name="Stop")).to_be_visible()
        page.get_by_role("button", name="Stop").click()
        expect(rows.last.get_by_role("button", name="A, then B")).to_be_visible()
        page.get_by_label("ISO, in all").select_option("6400")
        expect(page).to_have_url(re.compile("iso%3D6400"))

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
        page = self.open("?body=quillon-swift-7&free1=1", viewport={"width": 390, "height": 844})
        self.assertEqual(390, page.evaluate("document.documentElement.scrollWidth"))
        for target in page.locator(".choice, button:visible, .brand, #finger-up").all():
            box = target.bounding_box()
            self.assertGreaterEqual(box["height"], 44, target)

    def test_axe_finds_nothing_in_either_light(self) -> None:
        for scheme in SCHEMES:
            for query in (
                "?to=mirror&was=to%3Dsingle&pin=hold%3D2",
                "?hold=x&free1=y&body=nobody",
                "?format=jpeg-fine",
                "compare/?pin=hold%3D2&pin=format%3Dheif&pin=body%3Dpellow-wren-10",
                "choose/?story=start",
                "choose/?story=plunge-dive&lasts=x",
                "nothing",
            ):
                with self.subTest(query, scheme=scheme):
                    page = self.open(query, color_scheme=scheme)
                    found = Axe().run(page)
                    self.assertEqual(0, found.violations_count, found.generate_report())
            page = self.open(color_scheme=scheme)
            page.keyboard.press("?")
            found = Axe().run(page)
            self.assertEqual(0, found.violations_count, found.generate_report())
        self.complaints.clear()  # the two addresses that are 404 on purpose

    def test_a_price_changed_in_place_changes_the_answer_and_a_bad_one_stays_in_its_field(
        self,
    ) -> None:
        page = self.signed_in()
        self.go(page, "choose")
        page.locator(".wishes summary").click()
        page.locator("#need-body").select_option("quillon-heron-4-firmware-2-0")
        page.locator("#need-form").select_option("XQD")  # what was unfolded stays so
        expect(page.locator(".answer-line")).to_contain_text("Keep what you have")
        price = page.get_by_label("Price of Gravelock Ebb 120").last
        price.fill("cheap")
        price.press("Tab")
        expect(page.get_by_role("alert").filter(has_text="“cheap” is not a number")).to_be_visible()
        expect(price).to_have_value("cheap")
        price.fill("12,5")
        price.press("Tab")
        expect(page.get_by_label("Price of Gravelock Ebb 120").last).to_have_value("12.5")
        self.complaints.clear()  # the console tells of the answer 422

    def test_cards_are_walked_and_taken_to_the_desk_and_to_compare_by_one_key(self) -> None:
        page = self.open("choose/")
        page.keyboard.press("d")
        expect(page.get_by_label("Card in slot 1")).to_have_value("gravelock-breaker-1000")
        page.go_back()
        for key in ("ArrowDown", "ArrowDown", "v"):
            page.keyboard.press(key)
        expect(page.locator("#rows")).to_contain_text("Gravelock Tide 256")

    def test_a_long_evaluation_shows_how_far_it_is_and_can_be_stopped_and_go_on(self) -> None:
        with mock.patch.object(choosing, "WORK_S", 0):
            page = self.open("choose/?format=any&fps=any")
            page.get_by_role("link", name="Stop").click()
            expect(page.get_by_text("Stopped")).to_be_visible()
            self.assertIn("stop=1", page.url)
            page.get_by_role("link", name="Go on").click()
            expect(page.get_by_role("link", name="Stop")).to_be_visible()
            work_off()
            expect(page.locator(".answer-line")).to_contain_text("is the cheapest")


@tag("browser")
class EveryScreenInTheBrowser(BrowserTestCase):
    def test_no_screen_has_a_barrier_in_either_light_or_is_wider_than_a_phone(self) -> None:
        screens = [
            ("cards", []), ("card", ["gravelock-tide-512-a"]), ("card-new", []),
            ("card-edit", ["gravelock-tide-512-a"]), ("bodies", []),
            ("body", ["quillon-heron-4-1-3"]), ("body-edit", ["quillon-heron-4-1-3"]),
            ("readers", []), ("reader", ["fennimore-pier-b-2"]), ("reader-new", []), ("fits", []),
            ("exchange", []), ("account", []), ("prices", []), ("choose", []),
        ]  # fmt: skip
        price_lists.load(timezone.localdate())
        for scheme in SCHEMES:
            page = self.signed_in(color_scheme=scheme, viewport={"width": 390, "height": 844})
            self.go(page, "card", "gravelock-tide-512-a")  # of two prices of a day one is explained
            page.get_by_label("Note a price").fill("140")
            page.get_by_role("button", name="Note it").click()
            for name, args in screens:
                with self.subTest(scheme=scheme, name=name):
                    self.go(page, name, *args)
                    if name == "card-new":
                        page.get_by_label("The text on its face").fill("Tarn 128 GB SDXC V60")
                        expect(page.locator(".face-mark").first).to_be_visible()
                    found = Axe().run(page).response["violations"]
                    self.assertEqual([], [(one["id"], one["nodes"][0]["html"]) for one in found])
                    width = "document.documentElement.scrollWidth"
                    self.assertLessEqual(page.evaluate(width), 390)
