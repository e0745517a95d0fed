"""Every key of every address takes nonsense: an answer, and never an error."""

import gc
import tracemalloc
from itertools import cycle
from urllib.parse import urlencode

from django.test import TestCase
from django.urls import reverse
from django.urls.converters import IntConverter

from kit import sample
from kit.document import document_of, write
from kit.models import Body
from ondata.tests.test_costs import MOST_BYTES
from ondata.tests.test_isolation import patterns

NONSENSE = ("nan", "inf", "-1", "0", "1e308", "1e-320", "9" * 10_000, "1" + "0" * 400, "\0",
            "1.700", "٣", "x=&#;%")  # fmt: skip
DESK = ("body", "format", "fps", "hold", "over", "iso", "isorule", "detailrule", "to", "card1",
        "card2", "free1", "free2", "write1", "write2", "was", "pin")  # fmt: skip
CHOOSE = ("lasts", "every", "minutes", "full", "frames", "within", "picture", "which", "light",
          "day", "free", "copied", "budget", "copies", "money", "sure", "form", "least", "among",
          "plain", "story", "page", "stop", "go")  # fmt: skip
CAMERA = ("name", "mechanical", "electronic", "megapixels", "file_mb", "slot1", "slot2", "formats",
          "claim_frames", "claim_format", "claim_fps", "claim_card", "card")  # fmt: skip
TABLE = (*DESK, "lead", "rates", "ways", "from")
COMPARE = ("at", "all-hold", "all-over", "all-iso", "all-card1")
KEYS = {
    "desk": DESK,
    "burst-json": DESK,
    "burst-svg": DESK,
    "frames-csv": DESK,
    "choose": (*DESK, *CHOOSE),
    "choice-csv": (*DESK, *CHOOSE),
    "compare": COMPARE,
    "camera": CAMERA,
    "bench-test": DESK,
    "replay": DESK,
    "plan": (*DESK, "day", "like"),
    "body-sheet": DESK,
    "bench-stand-in": (*DESK, "seed"),
    "stand-in-press": (*DESK, "seed", "held"),
    "three-minutes": (*DESK, "covered"),
    "bench": ("body", "card", "method", "words", "page"),
    "runs-json": ("body", "card", "method", "words"),
    "outings": ("page",),
    "outing-totals": ("begins",),
    "table": TABLE,
    "table-csv": TABLE,
    "table-json": TABLE,
}


RUN = ("setup", "hold_s", "frames_at_full_speed", "did_not_slow", "frames", "clear_s", "covered",
       "settings_checked", "battery_percent", "shot_on", "method", "notes", "frame_rate_fps",
       "files_mb", "taps_s", "strokes_s")  # fmt: skip
PLAN = ("setup", "start", "cards1", "cards2", "card2", "rooms1", "rooms2", "reader", "copy_mb_s",
        "desk_frames", "desk_min", "send_mb_s", "more", "periods-TOTAL_FORMS",
        "periods-0-name", "periods-0-minutes", "periods-0-bursts_an_hour", "periods-0-hold_s",
        "periods-0-long_hold_s", "periods-0-singles_an_hour", "periods-0-recording",
        "periods-0-frame_rate", "periods-0-arrangement")  # fmt: skip
REPLAY = ("table", "refused", "setup", "pin", "example", "of_files", "of_body", "camera", "kept")
SENT = {
    "bench-test": RUN,
    "bench-sound": ("times", "loudness"),
    "bench-files": ("table", "refused"),
    "replay": REPLAY,
    "plan": PLAN,
    "outing-keep-plan": (*PLAN, "name", "on"),
    "outing-keep": (*REPLAY, "name", "on", "notes"),
    "outing-keep-with": (*REPLAY, "outing"),
    "outing-begin": ("name", "on", "notes"),
    "bench-heads": ("size",),
    "bench-lines": ("body", "method", "table"),
}
LISTS = ("taps_s", "strokes_s", "times", "loudness")  # of numbers, as JSON
MOMENTS = (
    f"[1{'0' * 400}, 2]",
    "[1e999, 2]",
    "[[1], {}]",
    "[" * 10_000,
    "[null]",
    '["1"]',
    "[-1, 1e308, -1e308]",
)


class Memory(TestCase):
    def test_the_longest_burst_of_the_fastest_body_takes_little_memory(self) -> None:
        sample.load()
        body = Body.objects.get(slug="varnholt-vx-3")
        fastest = [{"fps": 1_000, "source": "printed"}]
        modes = [{"name": "electronic", "frame_rates": fastest}]
        write(body, document_of(body) | {"shutter_modes": modes})
        asked = {"body": body.slug, "hold": "600", "fps": "1000"}
        pins = {"pin": [urlencode(asked | {"hold": str(600 - n)}) for n in range(6)]}
        for name in KEYS:
            with self.subTest(name):
                gc.collect()
                tracemalloc.start()
                self.addCleanup(tracemalloc.stop)
                answer = self.client.get(reverse(name), pins if name == "compare" else asked)
                answer.getvalue()
                _, most_bytes = tracemalloc.get_traced_memory()
                tracemalloc.stop()
                self.assertLess(most_bytes, MOST_BYTES)


class Hostile(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()

    def test_nonsense_is_answered(self) -> None:
        for name, keys in KEYS.items():
            usual = {"pin": ["body=varnholt-vx-3&hold=3", "hold=4"]} if name == "compare" else {}
            for text in NONSENSE:
                with self.subTest(name, text=text[:10]):
                    everywhere = self.client.get(reverse(name), usual | dict.fromkeys(keys, text))
                    self.assertLess(everywhere.status_code, 500)
            for key in keys:
                with self.subTest(name, key=key):
                    one = self.client.get(reverse(name), usual | {key: "nan"})
                    self.assertLess(one.status_code, 500)

    def test_a_character_that_is_none_in_a_path_is_no_address(self) -> None:
        for pattern in patterns():
            if "str" in str(pattern.pattern):
                values = {name: 1 if isinstance(one, IntConverter) else "x"
                          for name, one in pattern.pattern.converters.items()}  # fmt: skip
                path = reverse(pattern.name, kwargs=values).replace("x", "%00")
                with self.subTest(path):
                    self.assertEqual(404, self.client.get(path).status_code)

    def test_nonsense_that_is_sent_is_answered_and_never_saved_in_part(self) -> None:
        usual = {"hold_s": "5", "frames": "9", "method": "tap", "setup": "body=pellow-wren-10"}
        periods = {"periods-TOTAL_FORMS": "1", "periods-INITIAL_FORMS": "0",
                   "periods-0-name": "heat", "periods-0-minutes": "9",
                   "periods-0-bursts_an_hour": "9", "name": "Weir"}  # fmt: skip
        fills = cycle(({}, {"fill": "1"}))  # every other time by a page that fills itself in
        for name, keys in SENT.items():
            for key in keys:
                for text in (*NONSENSE, *(MOMENTS if key in LISTS else ())):
                    with self.subTest(name, key=key, text=text[:10]):
                        of_form = {
                            "bench-test": usual,
                            "plan": periods,
                            "outing-keep-plan": periods,
                            "outing-begin": {"name": "Weir"},
                        }
                        sent = of_form.get(name, {}) | next(fills) | {key: text}
                        answer = self.client.post(reverse(name), sent)
                        self.assertLess(answer.status_code, 500)
