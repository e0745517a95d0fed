"""Without network the last pages open as they were, and what is tapped in the field waits."""

import re

from django.test import tag
from playwright.sync_api import Page, expect

from kit.tests.browser import PATIENCE_MS, BrowserTestCase
from outings.models import FieldNote

KEPT = """async (words) => {
  for (const name of await caches.keys()) {
    const cache = await caches.open(name);
    for (const one of await cache.keys()) {
      if (!name.startsWith("pages-")) continue;
      if ((await (await cache.match(one)).text()).includes(words)) return true;
    }
  }
  return false;
}"""


@tag("browser")
class Offline(BrowserTestCase):
    def complain(self, said: str) -> None:
        if "ERR_INTERNET_DISCONNECTED" not in said and "503" not in said:
            super().complain(said)

    def keep(self, page: Page, words: str) -> None:
        """Waits until a page that says so is kept."""
        for _ in range(PATIENCE_MS // 200):
            if page.evaluate(KEPT, words):
                return
            page.wait_for_timeout(200)
        self.fail(f"no page with {words} is kept")

    def test_the_last_pages_open_as_they_were_with_their_time(self) -> None:
        page = self.open("?body=pellow-wren-10&hold=7", service_workers="allow")
        page.evaluate("navigator.serviceWorker.ready")
        self.keep(page, "Pellow Wren 10")
        page.locator("#choose-hold").fill("8.5")
        page.locator("#choose-hold").press("Tab")
        page.wait_for_url(re.compile("hold=8.5"))
        self.keep(page, 'value="8.5"')
        figures = page.locator("#desk").inner_text()
        self.go(page, "table")
        self.keep(page, 'id="table"')
        self.go(page, "bench")
        self.keep(page, "Test bench")
        page.context.set_offline(True)
        self.go(page, "desk")
        expect(page.locator("[data-kept]")).to_contain_text("No network: this page is as it was on")
        self.assertEqual(figures, page.locator("#desk").inner_text())
        self.assertIn("hold=8.5", page.url)
        for name in ("table", "bench"):
            self.go(page, name)
            expect(page.locator("[data-kept]")).to_be_visible()
        self.go(page, "choose")
        expect(page.locator("body")).to_contain_text("This page is not kept")
        page.get_by_role("link", name="The Table").click()
        expect(page.locator("[data-kept]")).to_be_visible()
        page.context.set_offline(False)
        self.go(page, "table")
        expect(page.locator("[data-kept]")).to_be_hidden()

    def test_what_another_visitor_kept_is_gone(self) -> None:
        page = self.signed_in(service_workers="allow")
        page.evaluate("navigator.serviceWorker.ready")
        self.go(page, "desk")
        self.keep(page, "Account")
        self.go(page, "account")
        page.get_by_role("button", name="Sign out").click()
        self.go(page, "bench")
        self.keep(page, "Sign in")
        self.assertFalse(page.evaluate(KEPT, "sample@"))
        page.context.set_offline(True)
        self.go(page, "desk")
        # The Desk after signing out may be kept, or none: never the one from before.
        self.assertNotIn("Account", page.locator("body").inner_text())
        self.assertNotIn("sample@", page.content())

    def test_a_field_sheet_is_read_without_network(self) -> None:
        page = self.signed_in(service_workers="allow")
        page.evaluate("navigator.serviceWorker.ready")
        self.go(page, "outings")
        page.get_by_role("link", name="Slalom at Brackwater weir").click()
        page.get_by_role("link", name="Field sheet").click()
        expect(page.locator(".field-sheet")).to_contain_text("Let go within")
        sheet = page.locator(".field-sheet").inner_text()
        self.keep(page, "Let go within")
        page.context.set_offline(True)
        page.reload()
        expect(page.locator("[data-kept]")).to_contain_text("No network: this page is as it was on")
        self.assertEqual(sheet, page.locator(".field-sheet").inner_text())
        self.complaints.clear()

    def test_what_is_tapped_without_network_is_sent_once_when_there_is_one(self) -> None:
        page = self.signed_in(service_workers="allow")
        page.evaluate("navigator.serviceWorker.ready")
        self.go(page, "outings")
        page.get_by_role("link", name="Slalom at Brackwater weir").click()
        page.get_by_role("link", name="Field log").click()
        waiting = page.locator("[data-waiting] li")
        sent = page.locator("#noted li time")
        page.get_by_role("button", name="Burst").click()
        expect(sent).to_have_count(1)
        expect(waiting).to_have_count(0)
        self.keep(page, "1 burst tapped")
        page.context.set_offline(True)
        page.reload()
        expect(page.locator("[data-kept]")).to_contain_text("No network")
        for _ in range(3):
            page.get_by_role("button", name="Burst").click()
        page.get_by_label("Goes into").select_option("gravelock-tide-512-b")
        page.get_by_role("button", name="Swap").click()
        page.get_by_label("In words").fill("rain \U0001f327")
        page.keyboard.press("Enter")
        expect(waiting).to_have_count(5)
        waiting.last.get_by_role("button", name="Take back").click()
        page.reload()
        expect(waiting).to_have_count(4)
        expect(waiting.nth(1)).to_contain_text("swap Gravelock Tide 512 B")
        page.context.set_offline(False)
        expect(waiting).to_have_count(0)
        expect(sent).to_have_count(5)
        kept = FieldNote.objects.filter(outing__name__startswith="Slalom")
        self.assertEqual(3, kept.filter(kind="burst").count())
        self.assertEqual("rain \U0001f327", kept.get(kind="note").words)
        self.assertEqual("gravelock-tide-512-b", kept.get(kind="swap").card)
        self.complaints.clear()
