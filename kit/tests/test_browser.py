"""The screens of the kit in a real browser: what needs script, paint or focus to be true."""

from django.test import tag
from playwright.sync_api import Dialog, expect

from kit.models import Card, FrameRate
from kit.tests.browser import BrowserTestCase
from pages.tests.jobs import work_off

FACE = "Gravelock Tide Pro 128 GB SDXC II U3 V60 280MB/s R 150MB/s W"


@tag("browser")
class KitInTheBrowser(BrowserTestCase):
    def test_a_face_is_read_as_it_is_typed_and_the_card_kept_and_taken_back(self) -> None:
        page = self.signed_in()
        page.keyboard.press("n")
        text = page.get_by_label("The text on its label")
        text.press_sequentially(FACE, delay=2)
        mark = page.get_by_role(
            "img", name="V60: Made for 60 MB/s without a break, as video needs."
        )
        mark.focus()
        sentence = page.get_by_text("V60 Made for 60 MB/s without a break, as video needs.")
        lit = "element => getComputedStyle(element.closest('li')).borderLeftColor"
        self.assertNotEqual("rgba(0, 0, 0, 0)", sentence.evaluate(lit))
        expect(page.locator("#id_name")).to_have_value("Tide Pro 128")
        page.locator("#id_name").fill("Tide by hand")
        text.press("End")
        text.press_sequentially(" A1")
        expect(page.locator(".s8")).to_be_visible()
        expect(page.locator("#id_name")).to_have_value("Tide by hand")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_role("heading", name="Gravelock Tide by hand")).to_be_visible()
        page.wait_for_load_state()
        page.keyboard.press("u")
        expect(page.get_by_text("Undone: Gravelock Tide by hand added.")).to_be_visible()

    def test_a_form_half_filled_asks_before_it_is_left_and_a_button_acts_once(self) -> None:
        page = self.signed_in()
        asked: list[str] = []

        def stay(dialog: Dialog) -> None:
            asked.append(dialog.type)
            dialog.dismiss()

        page.once("dialog", stay)
        self.go(page, "reader-new")
        page.get_by_label("Maker").press_sequentially("Tarn")
        page.get_by_role("link", name="Cards").click()
        expect(page.get_by_label("Maker")).to_have_value("Tarn")
        self.assertEqual(["beforeunload"], asked)
        self.go(page, "card", "gravelock-tide-512-a")
        page.get_by_role("button", name="Duplicate").dblclick()
        expect(page.get_by_role("heading", name="Gravelock Tide 512 A 2")).to_be_visible()
        self.assertEqual(1, Card.objects.filter(label="A 2").count())
        self.assertFalse(Card.objects.filter(label="A 3").exists())

    def test_rows_are_added_to_a_list_in_a_list(self) -> None:
        page = self.signed_in()
        self.go(page, "body-edit", "quillon-heron-4-1-3")
        page.get_by_text("Shutters and frame rates").click()
        page.get_by_role("button", name="Add a shutter").click()
        page.get_by_role("button", name="Add a frame rate").last.click()
        for name, typed in (("name", "electronic"), ("frame_rates-0-fps", "20"),
                            ("frame_rates-1-fps", "10")):  # fmt: skip
            page.locator(f"[name='shutter_modes-2-{name}']").fill(typed)
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_role("heading", name="Quillon Heron 4")).to_be_visible()
        rates = FrameRate.objects.filter(
            mode__name="electronic", mode__body__slug="quillon-heron-4-1-3"
        )
        self.assertEqual([20, 10], list(rates.values_list("fps", flat=True)))

    def test_the_matrix_is_walked_with_arrows_and_opens_the_desk(self) -> None:
        page = self.signed_in()
        page.keyboard.press("7")
        expect(page.locator("[data-matrix]")).to_be_visible()
        page.wait_for_load_state()
        for key in (*["ArrowDown"] * 4, *["ArrowRight"] * 4, "Enter"):
            page.keyboard.press(key)
        expect(page.get_by_label("Card in slot 1")).to_have_value("gravelock-tide-256-2")

    def test_a_file_is_checked_with_a_bar_and_then_saved(self) -> None:
        page = self.signed_in()
        self.go(page, "exchange")
        lines = ["maker,name,form,bus,capacity_gb,sustained_write_mb_s,sustained_source"]
        lines += [f"Tarn,Shoal {number},SD,UHS-II,128,95,printed" for number in range(1500)]
        file = {"name": "cards.csv", "mimeType": "text/csv", "buffer": "\n".join(lines).encode()}
        page.get_by_label("A kit of Ondata's").set_input_files(files=[file])  # type: ignore[list-item]
        page.get_by_role("button", name="Preview").click()
        expect(page.get_by_text("0 of 1500")).to_be_visible()
        work_off()
        page.get_by_role("button", name="Save 1500, all or nothing").click()
        expect(page.get_by_text("Saving 1500 entries")).to_be_visible()
        work_off()
        expect(page.get_by_text("cards.csv: 1500 added")).to_be_visible()
