"""Runs are played by keys, by touch and by a game pad; what is shown is what the engine says."""

import json
import re
from collections.abc import Callable
from typing import Any

import numpy as np
from django.test import tag
from playwright.sync_api import Page, expect

from engine.quantities import NS_IN_S
from kit.tests.browser import BrowserTestCase
from practice.models import PracticeSession
from practice.playing import Playing

SWIFT = "practice/?body=quillon-swift-7&format=lossless-raw&fps=30&subject=bird"
LONG_RUNS = "&seed=1481&level=1"  # of which the first three last nine seconds and more
PLAYED_MS = (500, 350, 1_300, 350, 80, 350)  # finger down and up, in turn
STOOD_STILL = "The page stood still"  # as it may on a busy machine; then the run is played again
# The last pictures of a run, kept as its canvas showed them.
KEEP_STROKES = """
  window.shown = {}
  new MutationObserver(() => {
    const canvas = document.querySelector('[data-practice-canvas]')
    const number = document.querySelector('#practice-run [name=number]')
    if (canvas?.dataset.strokes && number) window.shown[number.value] = canvas.dataset.strokes
  }).observe(document.body, {subtree: true, attributes: true, attributeFilter: ['data-strokes']})
"""
PAD = """
  window.pad = {buttons: Array.from({length: 8}, () => ({pressed: false}))}
  navigator.getGamepads = () => [window.pad]
"""


def by_keys(page: Page) -> None:
    for place, lasts_ms in enumerate(PLAYED_MS):
        (page.keyboard.up if place % 2 else page.keyboard.down)("Space")
        page.wait_for_timeout(lasts_ms)


def by_finger_and_trigger(page: Page) -> None:
    key = page.locator("[data-practice-key]")
    for kind in ("pointerdown", "pointerup"):
        key.dispatch_event(kind, {"pointerType": "touch", "isPrimary": True})
        page.wait_for_timeout(300)
    for is_pressed in ("true", "false"):
        page.evaluate(f"pad.buttons[7].pressed = {is_pressed}")
        page.wait_for_timeout(300)


@tag("browser")
class PlayingRuns(BrowserTestCase):
    def begin(self, **options: Any) -> tuple[Page, PracticeSession]:
        page = self.open(SWIFT + LONG_RUNS, **options)
        page.get_by_role("button", name="Start", exact=True).click()
        expect(page.locator("[data-practice-start]")).to_be_visible()
        page.evaluate(KEEP_STROKES)
        return page, PracticeSession.objects.latest("pk")

    def start(self, page: Page, number: int) -> None:
        """By the key that a page's help tells."""
        expect(page.locator("[data-practice-start]")).to_have_text(re.compile(f": {number} of 10"))
        page.keyboard.press("n")
        expect(page.locator("[data-practice-canvas]")).to_be_visible()

    def play(self, page: Page, number: int, press: Callable[[Page], None]) -> None:
        """Plays a run to its end, anew where the page stood still."""
        rows = page.locator(".practice-runs tbody tr")
        while rows.count() < number:
            self.start(page, number)
            press(page)
            expect(rows.nth(number - 1).or_(page.get_by_text(STOOD_STILL))).to_be_visible()
        expect(page.locator("[data-practice-start]")).to_be_visible()

    def test_three_runs_by_keys_show_the_strokes_of_the_engine(self) -> None:
        page, session = self.begin()
        for number in (1, 2, 3):
            self.play(page, number, by_keys)
        playing = Playing(session)
        for row in playing.rows:
            with self.subTest(row.number):
                self.assertEqual(len(row.presses), 3)
                shown = [float(one) for one in page.evaluate("shown")[str(row.number)].split()]
                taken = playing.shot(row.number).taken_ns / NS_IN_S
                self.assertGreater(len(taken), 20)
                np.testing.assert_allclose(shown, taken[: len(shown)], atol=0.0011)
                self.assertEqual(len(shown), len(taken))
        expect(page.locator(".practice-said")).to_be_visible()

    def test_a_finger_and_a_trigger_press_as_a_key_does(self) -> None:
        page, session = self.begin(viewport={"width": 390, "height": 844}, has_touch=True)
        page.evaluate(PAD)
        self.play(page, 1, by_finger_and_trigger)
        holds = Playing(session).rows[0].holds
        self.assertEqual(len(holds), 2)
        self.assertTrue(all(0.2 < hold.hold_s < 2 for hold in holds), holds)

    def test_a_run_that_is_stopped_or_in_the_background_does_not_count(self) -> None:
        page, session = self.begin(reduced_motion="reduce")
        for stop, words in (
            (lambda: page.keyboard.press("Escape"), "You stopped the run"),
            (lambda: page.evaluate("dispatchEvent(new Event('blur'))"), "went to the background"),
        ):
            self.start(page, 1)
            page.keyboard.down("Space")
            expect(page.locator("[data-practice-told]")).not_to_be_empty()  # the run in words
            stop()
            page.keyboard.up("Space")
            expect(page.get_by_text(words)).to_be_visible()
        self.assertFalse(session.runs.exists())

    def test_a_reaction_time_is_measured_by_keys(self) -> None:
        page = self.open(SWIFT)
        page.get_by_role("button", name="Measure it").click()
        for _ in range(5):
            expect(page.locator("[data-reaction-key]")).to_have_text("Now")
            page.wait_for_timeout(150)
            page.keyboard.press("Space")
        tries = json.loads(page.locator("#practice-tries").input_value())
        self.assertEqual(len(tries), 5)
        page.get_by_role("button", name="Start at level").click()
        expect(page.locator("[data-practice-start]")).to_be_visible()
        reaction_s = PracticeSession.objects.latest("pk").reaction_s
        self.assertAlmostEqual(reaction_s, sorted(tries)[2], delta=0.001)
