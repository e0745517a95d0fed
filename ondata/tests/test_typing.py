"""What is typed stays typed, however late the answers come: the network is slowed, not the page."""

from typing import NamedTuple

from django.test import tag
from playwright.sync_api import CDPSession, Page, expect

from kit.tests.browser import BrowserTestCase
from prices.tests.builders import usual_list

LATENCIES_S = (0, 0.3, 1, 3)
KEYS_MS = (60, 150, 300)


class Typed(NamedTuple):
    """The fields that are typed into one after the other, the part that answers them."""

    path: str
    fields: dict[str, str]
    answer: str


CHOOSE = Typed(
    "choose/?story=start",
    {"Seconds that the action lasts": "3", "Seconds from one press to the next": "20",
     "Seconds at full speed": "2"},
    "#need",
)  # fmt: skip
OTHERS = (
    Typed("?to=mirror", {"Seconds held down": "3", "GB free in slot 1": "20"}, "#answers"),
    Typed("table/", {"Seconds held down": "2", "What leads": "clear"}, ".table-sentence"),
    Typed(
        "camera/",
        {"What is it called": "Skua", "Electronic shutter": "20", "Mechanical shutter": "12"},
        "#preview",
    ),
    Typed("cards/", {"Words in the name or marks": "gravelock tide"}, ".acts"),
    Typed(
        "compare/?pin=hold%3D2&pin=hold%3D4",
        {"Seconds held down, in all": "3", "Scene, in all": "bird"},
        "#compare-form",
    ),
)


def network_of(page: Page) -> CDPSession:
    """Its network, to slow it."""
    network = page.context.new_cdp_session(page)
    network.send("Network.enable")
    return network


def slow(network: CDPSession, latency_s: float, *, offline: bool = False) -> None:
    """The network as slow as that from now on, or gone."""
    network.send(
        "Network.emulateNetworkConditions",
        {
            "offline": offline,
            "latency": 1000 * latency_s,
            "downloadThroughput": -1,
            "uploadThroughput": -1,
        },
    )


@tag("browser")
class TypedWhileAnswersComeLate(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        usual_list()

    def test_what_is_typed_into_choose_stays_at_every_pace(self) -> None:
        for latency_s in LATENCIES_S:
            for key_ms in KEYS_MS:
                with self.subTest(latency_s=latency_s, key_ms=key_ms):
                    self.assert_kept(CHOOSE, latency_s, key_ms)

    def test_every_other_screen_that_answers_while_one_types_keeps_it_too(self) -> None:
        for screen in OTHERS:
            for latency_s, key_ms in ((0.3, 60), (1, 150)):
                with self.subTest(path=screen.path, latency_s=latency_s, key_ms=key_ms):
                    self.assert_kept(screen, latency_s, key_ms)

    def test_the_caret_and_what_is_selected_stay_where_they_are(self) -> None:
        page = self.open(CHOOSE.path)
        slow(network_of(page), 1)
        page.get_by_label("Seconds that the action lasts").fill("2.5")
        page.keyboard.press("Tab")
        field = page.get_by_label("Seconds from one press to the next")
        page.keyboard.type("1500")
        field.evaluate("field => field.setSelectionRange(1, 3)")
        answered = page.locator(".answered")
        expect(answered).to_contain_text("lasts 4 s")
        expect(answered).to_be_hidden()
        selection = "field => [field.selectionStart, field.selectionEnd, field.value]"
        self.assertEqual([1, 3, "1500"], field.evaluate(selection))
        page.keyboard.type("0")
        expect(field).to_have_value("100")

    def test_without_network_the_old_figures_say_what_they_are_for(self) -> None:
        page = self.open()
        answered = page.locator(".answered")
        expect(answered).to_be_hidden()
        network = network_of(page)
        slow(network, 0, offline=True)
        page.get_by_label("Card in slot 1").select_option("gravelock-tide-256")
        expect(page.get_by_role("alert")).to_contain_text("Ondata does not answer")
        expect(answered).to_contain_text("Gravelock Tide 512")
        self.complaints.clear()  # the request that failed, said by the browser
        slow(network, 1)
        page.get_by_label("Seconds held down").fill("3")
        page.keyboard.press("Tab")
        expect(answered).to_be_visible()
        expect(answered).to_be_hidden()
        expect(answered).to_contain_text("3 s · Gravelock Tide 256")

    def assert_kept(self, screen: Typed, latency_s: float, key_ms: int) -> None:
        """Each field holds what was typed, and the answer is that of a page asked for afresh."""
        page = self.open(screen.path)
        page.wait_for_load_state("networkidle")
        network = network_of(page)
        slow(network, latency_s)
        first = page.get_by_label(next(iter(screen.fields))).first
        first.focus()
        first.evaluate("field => field.select?.()")
        for text in screen.fields.values():
            page.keyboard.type(text, delay=key_ms)
            page.keyboard.press("Tab")
        page.wait_for_timeout(600)
        expect(page.locator(".htmx-request")).to_have_count(0)
        for label, text in screen.fields.items():
            field = page.get_by_label(label).first
            if field.evaluate("field => field.matches('input')"):
                self.assertIn(field.input_value(), (text, ""), label)
        shown = page.locator(screen.answer).first.inner_text()
        network.detach()
        page.reload()
        self.assertEqual(page.locator(screen.answer).first.inner_text(), shown)
        page.context.close()
