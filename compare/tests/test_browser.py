"""Compare in a real browser."""

import re

from django.test import tag
from playwright.sync_api import expect

from kit.tests.browser import BrowserTestCase
from prices.tests.builders import usual_list


@tag("browser")
class CompareInTheBrowser(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        usual_list()

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
        drawing = rows.first.locator("svg.drawing").bounding_box()
        page.mouse.move(drawing["x"] + drawing["width"] / 2, drawing["y"] + 10)
        page.mouse.down()
        page.mouse.move(drawing["x"] + drawing["width"] * 0.3, drawing["y"] + 10, steps=3)
        page.mouse.up()
        expect(page.locator("#at-words")).to_have_text(re.compile("^2"))
        page.wait_for_timeout(300)  # the ruler asks 50 ms after it is let go, and swaps the rows
        expect(page.locator(".htmx-request")).to_have_count(0)
        rows.last.get_by_role("link", name="Up").click()
        expect(rows.first).to_contain_text("Gravelock Tide 256")
        rows.last.get_by_role("button", name="A, then B").click()
        expect(page.get_by_role("button", name="Stop")).to_be_visible()
        page.get_by_role("button", name="Stop").click()
        expect(rows.last.get_by_role("button", name="A, then B")).to_be_visible()
        page.get_by_label("ISO, in all").select_option("6400")
        expect(page).to_have_url(re.compile("iso%3D6400"))
