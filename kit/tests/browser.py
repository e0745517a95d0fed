"""A real browser on the running site; a test fails on any complaint of its console."""

import os
from typing import Any, ClassVar

from django.test import LiveServerTestCase
from django.urls import reverse
from playwright.sync_api import Page, expect, sync_playwright

from kit import sample

os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"  # Playwright's own event loop runs beside Django

# What htmx says of a question that a newer one replaced, and Playwright of what it blocks.
NO_COMPLAINTS = ("htmx:afterRequest", "htmx:sendAbort", "Service Worker registration blocked")
PATIENCE_MS = 60_000  # a busy machine is no fault of what is tested
expect.set_options(timeout=PATIENCE_MS)


class BrowserTestCase(LiveServerTestCase):
    browser_args: ClassVar[list[str]] = []

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.browser = cls.playwright.chromium.launch(
            executable_path=os.environ["CHROMIUM"], args=cls.browser_args
        )
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        sample.load()
        self.complaints: list[str] = []

    def open(self, query: str = "", **options: Any) -> Page:
        # What a service worker asks for can't be held back by a test.
        usual = {"viewport": {"width": 1280, "height": 800}, "service_workers": "block"}
        options = usual | options
        context = self.browser.new_context(**options)
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.on("console", lambda said: self.complain(said.text))
        page.on("pageerror", lambda error: self.complaints.append(str(error)))
        page.goto(f"{self.live_server_url}/{query}")
        return page

    def complain(self, said: str) -> None:
        """Keeps what the console said, but for what is none."""
        if not said.startswith(NO_COMPLAINTS):
            self.complaints.append(said)

    def signed_in(self, **options: object) -> Page:
        page = self.open("account/sign-in/", **options)
        page.get_by_role("button", name="Enter the sample account").click()
        expect(page.locator("#cards")).to_be_visible()
        page.wait_for_load_state()
        return page

    def go(self, page: Page, name: str, *args: str) -> None:
        page.goto(self.live_server_url + reverse(name, args=args))

    def tearDown(self) -> None:
        self.assertEqual([], self.complaints)  # script errors, policy violations, missing files
