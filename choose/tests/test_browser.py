"""Choose in a real browser."""

import time
from unittest import mock

from django.test import tag
from playwright.sync_api import expect

from choose import evaluating
from kit.tests.browser import BrowserTestCase
from pages.tests.jobs import work_off
from prices.tests.builders import usual_list

LONGEST_S = 120.0  # on a busy machine


@tag("browser")
class ChooseInTheBrowser(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        usual_list()
        patient = mock.patch.object(evaluating, "WORK_S", 60)  # on a busy machine, too
        patient.start()
        self.addCleanup(patient.stop)

    def test_a_price_changed_in_place_changes_the_answer_and_a_bad_one_stays_in_its_field(
        self,
    ) -> None:
        page = self.signed_in()
        self.go(page, "choose")
        page.locator(".wishes summary").click()
        page.locator("#need-body").select_option("quillon-heron-4-firmware-2-0")
        page.locator("#need-form").select_option("XQD")  # what was unfolded stays so
        expect(page.locator("#answer .answer-line")).to_contain_text("Keep what you have")
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
        never_given_up = mock.patch("choose.tasks.MOST_S", 3_600)  # on a busy machine
        with mock.patch.object(evaluating, "WORK_S", 0), never_given_up:
            page = self.open("choose/?format=any&fps=any")
            page.get_by_role("link", name="Stop").click()
            expect(page.get_by_text("Stopped")).to_be_visible()
            self.assertIn("stop=1", page.url)
            page.get_by_role("link", name="Go on").click()
            expect(page.get_by_role("link", name="Stop")).to_be_visible()
            answer, began = page.locator("#answer .answer-line"), time.monotonic()
            while not answer.count() and time.monotonic() - began < LONGEST_S:
                work_off()  # ends as soon as the page, on a busy machine, has not asked for long
                page.wait_for_timeout(200)
            expect(answer).to_contain_text("is the cheapest")
