"""Every screen in a real browser: no barrier, nothing wider than a phone."""

from axe_playwright_python.sync_playwright import Axe
from django.test import tag
from django.utils import timezone
from playwright.sync_api import Page, expect

from kit.tests.browser import BrowserTestCase
from outings.models import Outing
from practice.models import PracticeSession
from prices import sample as price_lists
from prices.tests.builders import usual_list

ONLY_FAULTS = {"resultTypes": ["violations"]}


@tag("browser")
class EveryScreenInTheBrowser(BrowserTestCase):
    def test_no_screen_has_a_barrier_in_either_light_or_is_wider_than_a_phone(self) -> None:
        screens = [
            ("cards", []), ("card", ["gravelock-tide-512-a"]), ("card-new", []),
            ("card-edit", ["gravelock-tide-512-a"]), ("bodies", []),
            ("body", ["quillon-heron-4-1-3"]), ("body-edit", ["quillon-heron-4-1-3"]),
            ("readers", []), ("reader", ["fennimore-pier-b-2"]), ("reader-new", []), ("fits", []),
            ("exchange", []), ("account", []), ("shares", []), ("prices", []), ("choose", []),
            ("camera", []), ("table", []), ("bench", []), ("bench-test", []), ("bench-files", []),
            ("bench-sound", []), ("bench-lines", []), ("bench-stand-in", []), ("bench-next", []),
            ("three-minutes", []), ("card-check", ["gravelock-tide-512-a"]),
            ("card-table", ["gravelock-tide-512-a"]), ("outings", []), ("replay", []), ("plan", []),
            ("practice", []),
        ]  # fmt: skip
        price_lists.load(timezone.localdate())
        page = self.signed_in(viewport={"width": 390, "height": 844})
        self.go(page, "card", "gravelock-tide-512-a")  # of two prices of a day one is explained
        page.get_by_label("Note a price").fill("140")
        page.get_by_role("button", name="Note it").click()
        outing = [Outing.objects.get(day__isnull=False, plan__isnull=False).pk]
        of_outing = ("outing", "outing-plan", "outing-sheet", "outing-field", "outing-record")
        screens += [
            ("practice-session", [PracticeSession.objects.latest("pk").pk]),
            ("outing-totals", []),
            ("plans-side-by-side", []),
            *((name, outing) for name in of_outing),
        ]
        for name, args in screens:
            with self.subTest(name=name):
                self.go(page, name, *args)
                if name == "card-new":
                    page.get_by_label("The text on its label").fill("Tarn 128 GB SDXC V60")
                    expect(page.locator(".face-mark").first).to_be_visible()
                self.assert_no_barrier(page)
                width = "document.documentElement.scrollWidth"
                self.assertLessEqual(page.evaluate(width), 390)

    def test_axe_finds_nothing_in_either_light(self) -> None:
        usual_list()
        for query in (
            "?to=mirror&was=to%3Dsingle&pin=hold%3D2",
            "?hold=x&free1=y&body=nobody",
            "?format=jpeg-fine",
            "camera/?electronic=20&megapixels=45&claim_frames=900&card=x&slot1=SD%7CUHS-II",
            "table/?hold=x&ways=all",
            "bench/test/?hold=x&to=mirror",
            "compare/?pin=hold%3D2&pin=format%3Dheif&pin=body%3Dpellow-wren-10",
            "choose/?story=start",
            "choose/?story=plunge-dive&lasts=x",
            "nothing",
        ):
            with self.subTest(query):
                self.assert_no_barrier(self.open(query))
        page = self.open()
        page.keyboard.press("?")
        self.assert_no_barrier(page)
        self.complaints.clear()  # the address that is a 404 on purpose

    def assert_no_barrier(self, page: Page) -> None:
        """All rules in one light, and in the other those of contrast, which alone depend on it."""
        found = []
        for scheme, options in (("light", {}), ("dark", {"runOnly": ["color-contrast"]})):
            page.emulate_media(color_scheme=scheme)
            expect(page.locator("html")).to_have_attribute("data-bs-theme", scheme)
            found += Axe().run(page, options=ONLY_FAULTS | options).response["violations"]
        self.assertEqual([], [(one["id"], one["nodes"][0]["html"]) for one in found])
