"""The Desk over HTTP: whole pages, parts for htmx, and what it answers to nonsense."""

import json
from html import unescape
from xml.etree import ElementTree

from django.test import TestCase
from django.urls import reverse

from engine.burst.simulate import simulate
from engine.files.scenario_file import read_scenario, result_values
from kit import sample
from kit.models import Body, Card, Change

HTMX = {"HX-Request": "true"}


class Desk(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()

    def text(self, status: int = 200, headers: dict[str, str] | None = None, **asked: str) -> str:
        self.client.cookies.pop("setup", None)  # what was in view before is no matter here
        response = self.client.get(reverse("desk"), asked, headers=headers)
        self.assertEqual(status, response.status_code)
        return " ".join(unescape(response.content.decode()).replace("\u00a0", " ").split())

    def test_shows_the_four_answers(self) -> None:
        page = self.text(body="varnholt-vx-3", hold="6")
        for words in ("Hold up to", "<b>2.6</b> s · 52 frames",
                      "half reach 60 frames, 3 s;", "<b>12</b> fps", "<b>97</b> of 120",
                      "23 frames missed", "<b>1.9</b> s", "Gravelock Tide 512 takes 620 MB/s",
                      "MB/s, measured in this body"):  # fmt: skip
            self.assertTrue(words in page, words)

    def test_two_slots_say_what_a_copy_costs(self) -> None:
        page = self.text(to="mirror")
        for words in ("the same to both slots", "half reach 29 frames, 1.4 s;", "<b>48</b> of 120",
                      "Press again after 2, 5 or 10 s", "at full speed for 10, 26 or 29",
                      "Card 2, bottleneck", "Tarn 90 128 takes 206 MB/s",
                      "Write to slot 1 only", "+49 frames",
                      "need <b>1,060 MB/s</b> in slot 2",
                      "no card in the kit does that here",
                      "card 1 would be the limit: 12 fps"):  # fmt: skip
            self.assertTrue(words in page, words)

    def test_ranges_and_why_they_are_wide(self) -> None:
        page = self.text()
        self.assertIn("49 to 78", page)
        self.assertIn("because files differ much from burst to burst", page)
        self.assertNotIn("Too close to call.", page)

    def test_a_set_up_too_close_to_call_says_so_with_its_two_numbers(self) -> None:
        page = self.text(body="quillon-heron-4-firmware-2-0", hold="60")
        for words in ("Too close to call.", "camera shoots 9 fps and writes 8.9 fps",
                      "bursts vary from 313 frames to", "safe in four of five; no wall in ",
                      "no frame missed in "):  # fmt: skip
            self.assertIn(words, page)

    def test_nothing_is_called_endless_that_only_may_be(self) -> None:
        close = self.text(format="lossy-raw")
        for words in ("No wall <b>in 99 %", "only just keep up"):
            self.assertIn(words, close)
        for words in ("no slower", "A faster card changes nothing here"):
            self.assertNotIn(words, close)
            self.assertIn(words, self.text(format="jpeg-normal"))

    def test_a_worn_and_a_nearly_full_card_are_told_apart_from_a_fresh_one(self) -> None:
        page = self.text(card1="fennimore-swell-1000")
        for words in ("The first 4 GB go at 800 MB/s; after that it writes 210 MB/s, and all of "
                      "the cache is back after 38 s of rest.",
                      "With less than 100 GB free it writes 147 MB/s.",
                      "Cache used up:", "Nearly full:", 'class="state-strokes"'):  # fmt: skip
            self.assertIn(words, page)
        self.assertNotIn("Fresh and worn", self.text())
        # A card that is nearly full already is slow whatever its cache: nothing else to tell.
        page = self.text(card1="fennimore-swell-1000", free1="60")
        self.assertIn("which now takes 147 MB/s", page)
        for words in ("Cache used up:", "Nearly full:"):
            self.assertNotIn(words, page)

    def test_what_fills_the_buffer_is_told_from_what_limits_afterwards(self) -> None:
        page = self.text(body="pellow-meridian-61", format="jpeg-fine", fps="10", hold="30",
                         to="single", card1="gravelock-spray-256")  # fmt: skip
        for words in ("processor fills the buffer", "the card side sets the pace"):
            self.assertIn(words, page)

    def test_a_tried_change_is_laid_over_what_was(self) -> None:
        page = self.text(format="lossy-raw", was="format=lossless-raw")
        for words in ("Tried:", "+23 frames in the hold", "light out 1.8 s sooner", "Keep it",
                      'class="before-water"', 'name="was" value="body=varnholt'):  # fmt: skip
            self.assertTrue(words in page, words)

    def test_busy_scenes_and_high_iso_make_larger_files(self) -> None:
        page = self.text(over="busy foliage", iso="6400")
        self.assertIn("half reach 38 frames", page)
        plain = self.text(over="busy foliage", iso="6400", isorule="0", detailrule="0")
        self.assertIn("half reach 60 frames", plain)

    def test_a_timed_speed_takes_the_place_of_the_kits(self) -> None:
        page = self.text(write1="1840 Mb/s")
        for words in ("1840 Mb/s are 230 MB/s: 8 bits make a byte.", "What you timed in slot 1"):
            self.assertTrue(words in page, words)

    def test_what_was_typed_comes_back_as_it_would_be_read_again(self) -> None:
        page = self.text(card1="gravelock-breaker-1000", free1="1000", write1="1500")
        self.assertTrue('value="1000"' in page and 'value="1500"' in page)

    def test_locks_are_told(self) -> None:
        page = self.text(body="pellow-wren-10")
        self.assertIn("this body locks playback, menus and drive mode", page)
        self.assertIn("You can view the first picture after", page)

    def test_pins_stay_in_the_address_up_to_six(self) -> None:
        pins = [f"body=varnholt-vx-3&hold={n}" for n in (1, 2, 2, 3, 4, 5, 6, 7)]
        response = self.client.get(reverse("desk"), {"pin": pins, "hold": "9"}, headers=HTMX)
        self.assertEqual(6, response["HX-Push-Url"].count("pin="))
        name = "Varnholt VX-3 · lossless RAW · 20 fps · {} s · Gravelock Tide 512"
        self.assertContains(response, name.format(4))
        self.assertContains(response, "Six set-ups are pinned")
        self.assertContains(response, 'aria-label="Unpin ' + name.format(1))

    def test_good_news_reads_as_such(self) -> None:
        page = self.text(body="varnholt-vx-3", format="jpeg-fine")
        for words in ("No wall in this hold", "no slower", "no frame missed", "at once"):
            self.assertTrue(words in page, words)

    def test_a_full_card_is_shown(self) -> None:
        page = self.text(free1="1")
        for words in (
            "<b>20</b> frames · 1 s",
            "then the card is full",
            "no more",
            "card full at 1 s",
            "after 20 frames: it had 1 GB free",
        ):
            self.assertTrue(words in page, words)

    def test_what_limits_is_named(self) -> None:
        for words, asked in (
            ("The camera's slot 1 takes 78 MB/s", {"body": "pellow-wren-10"}),
            ("A faster card changes nothing here", {"body": "pellow-wren-10"}),
            ("processor finishes 18 fps", {"format": "heif", "hold": "20"}),
            ("Nothing in this hold:", {"hold": "1"}),
            ('<span class="gain">Nothing.</span>', {"format": "jpeg-fine"}),
        ):
            with self.subTest(words):
                self.assertTrue(words in self.text(**asked), words)

    def test_only_cards_that_fit_are_offered(self) -> None:
        page = self.text(body="pellow-wren-10")
        self.assertIn("Tarn 90 128</option>", page)
        self.assertNotIn("Gravelock Tide 512</option>", page)

    def test_nonsense_gives_sentences_and_never_an_error(self) -> None:
        for status, asked in (
            (404, {"body": "nobody"}),
            (404, {"card1": "\0' OR 1=1 --"}),
            (200, {"hold": "1e9", "fps": "abc", "format": "<b>", "free1": "nan"}),
            (200, {"card1": "tarn-90-128"}),
        ):
            with self.subTest(asked):
                self.assertIn('class="notes" role="alert"', self.text(status, **asked))

    def test_a_wrong_number_stays_in_its_field_with_its_sentence(self) -> None:
        page = self.text(hold='6"00')
        self.assertIn('value="6"00" aria-invalid="true" aria-describedby="note-hold"', page)
        self.assertIn('<p id="note-hold">A hold lasts 0.1 to 600 s', page)

    def test_htmx_gets_the_part_and_the_address_of_the_view(self) -> None:
        asked = {"body": "pellow-wren-10", "format": "heif", "hold": "x"}
        response = self.client.get(reverse("desk"), asked, headers=HTMX)
        self.assertNotContains(response, "<html")
        self.assertEqual(
            "/?body=pellow-wren-10&format=lossless-raw&fps=6&hold=x&card1=tarn-90-128",
            response["HX-Push-Url"],
        )
        self.assertIn("HX-Request", response["Vary"])

    def test_history_and_plain_requests_get_the_whole_page(self) -> None:
        for headers in (HTMX | {"HX-History-Restore-Request": "true"}, {}):
            response = self.client.get(reverse("desk"), headers=headers)
            self.assertContains(response, "<html")
            self.assertNotIn("HX-Push-Url", response)

    def test_figures_that_contradict_each_other_are_told(self) -> None:
        Body.objects.filter(slug="varnholt-vx-3").update(resume_free_frames=50)
        self.assertIn(
            "can't be predicted: What the body waits for once full must fit in the buffer",
            self.text(),
        )

    def test_no_card_and_no_body(self) -> None:
        Card.objects.filter(form="CFexpress B").delete()
        self.assertIn("Nothing in the kit fits slot 1", self.text(body="varnholt-vx-3"))
        Body.objects.all().delete()
        self.assertIn("There is no body to shoot with yet", self.text())

    def test_queries_do_not_grow_with_the_kit(self) -> None:
        Change.objects.create()  # so that the kit is fetched anew
        for asked, queries in (({}, 16), ({"was": "to=mirror"}, 1)):
            with self.assertNumQueries(queries):
                self.text(**asked)

    def test_changes_nothing(self) -> None:
        self.assertEqual(405, self.client.post(reverse("desk")).status_code)

    def test_each_shown_burst_is_of_the_order_of_its_class(self) -> None:
        # Seconds at full speed as first shown, and frames a second after that.
        for body, (shortest_s, longest_s), (slowest_fps, fastest_fps) in (
            ("varnholt-vx-3", (1, 6), (5, 20)),
            ("pellow-meridian-61", (3, 12), (2, 8)),
            ("quillon-swift-7", (0.8, 3), (5, 12)),
            ("pellow-wren-10", (2, 8), (1, 4)),
            ("quillon-heron-4-firmware-1-3", (5, 20), (5, 9)),
            ("quillon-heron-4-firmware-2-0", (5, 200), (5, 9)),
        ):
            with self.subTest(body):
                asked = {"body": body, "hold": "300"}
                shown = self.client.get(reverse("desk"), asked).context["prediction"]
                self.assertTrue(shortest_s <= shown.shot.full_speed_s <= longest_s)
                self.assertTrue(slowest_fps <= shown.bottleneck.sustained_fps <= fastest_fps)

    def test_the_page_of_a_long_burst_is_small(self) -> None:
        page = self.text(fps="120", hold="600", format="jpeg-normal")
        self.assertLess(len(page), 100_000)


class Elsewhere(TestCase):
    def test_an_unknown_address_gets_the_page_that_says_so(self) -> None:
        response = self.client.get("/nothing")
        self.assertContains(response, "There is nothing at this address", status_code=404)
        self.assertIn("default-src 'none'", response["Content-Security-Policy"])


class Exports(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()

    def test_json_is_a_scenario_file_and_its_result(self) -> None:
        response = self.client.get(reverse("burst-json"), {"to": "mirror"})
        self.assertEqual('attachment; filename="burst.json"', response["Content-Disposition"])
        burst = response.json()
        result = simulate(read_scenario(json.dumps(burst["scenario"])))
        self.assertEqual(48, result.frames)
        self.assertEqual(result_values(result), burst["result"])

    def test_csv_has_a_line_a_frame(self) -> None:
        response = self.client.get(reverse("frames-csv"), {"to": "mirror"})
        lines = response.getvalue().decode().splitlines()
        self.assertEqual(["frame,taken_s,written_s", "1,0,0.275510996"], lines[:2])
        self.assertEqual(49, len(lines))

    def test_svg_is_one_well_formed_drawing(self) -> None:
        response = self.client.get(reverse("burst-svg"), {"to": "mirror"})
        drawing = ElementTree.fromstring(response.content)  # noqa: S314 - our own drawing
        self.assertIn("29 frames at full speed", "".join(drawing.itertext()))

    def test_there_is_nothing_to_take_along_without_a_burst(self) -> None:
        Card.objects.all().delete()
        for name in ("burst-json", "burst-svg", "frames-csv"):
            self.assertEqual(404, self.client.get(reverse(name)).status_code)
