"""A folder of pictures becomes an answer, and an outing, in a real browser."""

import re

from django.test import tag
from playwright.sync_api import expect

from engine.burst.scenario import Hold
from engine.burst.simulate import simulate
from engine.measurement.synthetic_camera import picture_files
from engine.tests.builders import scenario
from kit.tests.browser import BrowserTestCase

FILES = 600
SERIES = simulate(scenario(
    file_mb=0.003, memory_mb=0.06, write_mb_s=0.015, hold_s=4,
    later_holds=tuple(Hold(press_s=60.0 * n, hold_s=4) for n in range(1, 20)),
))  # fmt: skip


@tag("browser")
class ADayInTheBrowser(BrowserTestCase):
    def test_a_folder_becomes_an_answer_and_is_kept(self) -> None:
        files = [
            {"name": name, "mimeType": "image/jpeg", "buffer": content}
            for name, content in picture_files(SERIES)
        ][:FILES]
        self.assertEqual(FILES, len(files))
        page = self.open("outings/replay/?body=pellow-wren-10")
        page.locator("[data-files-input]").first.set_input_files(files)
        full = page.get_by_text(re.compile(r"The buffer was full in \d+ of \d+ bursts, and cost"))
        expect(full).to_be_visible()
        expect(page.get_by_text("600 frames")).to_be_visible()
        expect(page.get_by_text("is it the Pellow Wren 10?")).to_be_visible()
        page.get_by_label("Name").fill("Slalom")
        page.get_by_role("button", name="Keep this day").click()
        expect(page.get_by_role("heading", name="Slalom")).to_be_visible()
        expect(full).to_be_visible()
        page.locator("#choose-rate").select_option(index=1)
        page.get_by_role("button", name="Replay with this set-up").click()
        page.get_by_role("button", name="Keep it as it is here").click()
        expect(page.get_by_text("The set-up is kept with the day.")).to_be_visible()
        page.get_by_role("button", name="Delete this outing").click()
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("heading", name="Slalom")).to_be_visible()

    def test_a_plan_follows_keys_and_mouse_and_is_kept(self) -> None:
        page = self.open("outings/plan/?day=gannets&body=varnholt-vx-3&fps=20")
        answer = page.locator("#answer")
        first = answer.locator(".lead-line")
        expect(first).to_contain_text("The day writes")
        before = first.inner_text()
        bursts = page.locator("[name=periods-1-bursts_an_hour]")
        bursts.focus()
        page.keyboard.press("Control+A")
        page.keyboard.type("120")
        page.keyboard.press("Tab")
        expect(first).not_to_have_text(before)
        busier = first.inner_text()
        page.locator("#choose-format").select_option("jpeg-normal")
        expect(first).not_to_have_text(busier)
        expect(bursts).to_have_value("120")
        page.locator("#choose-card-1").select_option("gravelock-tide-256")
        expect(page.get_by_label("Gravelock Tide 256, how many")).to_be_visible()
        expect(bursts).to_have_value("120")
        minutes = page.locator("[name=periods-1-minutes]")
        end = page.get_by_role("slider", name="End of diving")
        end.focus()
        page.keyboard.press("ArrowRight")
        expect(minutes).to_have_value("80")
        expect(end).to_be_focused()
        expect(end).to_have_attribute("aria-valuetext", "80 minutes")
        box = end.locator("rect").bounding_box() or {}
        page.mouse.move(box["x"] + 6, box["y"] + 12)
        page.mouse.down()
        page.mouse.move(box["x"] + 206, box["y"] + 12, steps=4)
        page.mouse.up()
        expect(minutes).not_to_have_value("80")
        self.assertGreater(int(minutes.input_value()), 100)
        expect(answer.get_by_role("row", name="diving")).to_contain_text("06:30")
        page.locator("[name=periods-1-minutes]").fill("5000")
        page.locator("[name=periods-1-name]").click()
        expect(answer).to_contain_text("diving, minutes: Must be from 1 to 2,880 min")
        page.locator("[name=periods-1-minutes]").fill("60")
        page.get_by_role("button", name="One more period").click()
        expect(page.locator("[name=periods-5-name]")).to_be_visible()
        page.get_by_label("Name").fill("Skerry Head")
        page.get_by_role("button", name="Keep this plan").click()
        expect(page.get_by_text("The plan is kept.")).to_be_visible()
        expect(page.locator("[name=periods-1-minutes]")).to_have_value("60")
        expect(page.locator("#choose-format")).to_have_value("jpeg-normal")
