"""The Table by keys alone."""

from django.test import tag
from playwright.sync_api import expect

from kit.tests.browser import BrowserTestCase


@tag("browser")
class TableInTheBrowser(BrowserTestCase):
    def test_keys_walk_the_cells_pin_one_and_open_one(self) -> None:
        page = self.open("?body=varnholt-vx-3")
        page.keyboard.press("0")
        expect(page.locator("[data-matrix]")).to_be_visible()
        page.wait_for_load_state()
        for key in ("ArrowDown", "ArrowDown", "ArrowRight", "v"):
            page.keyboard.press(key)
        expect(page.get_by_role("link", name="Compare 1 pinned")).to_be_visible()
        page.get_by_label("What leads").select_option("clear")
        expect(page.get_by_text("Large: card light out after")).to_be_visible()
        page.get_by_label("Body").focus()
        page.locator("[data-pair]").first.focus()
        page.keyboard.press("Enter")
        expect(page.locator("#answers")).to_be_visible()
