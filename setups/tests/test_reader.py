"""The address of the Desk: what is chosen, what is replaced, and in which words."""

from urllib.parse import parse_qsl

from django.contrib.auth.models import AnonymousUser
from django.test import TestCase

from kit import sample
from setups.kit import Kit
from setups.reader import Reading, read_address


class Reading(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()

    def read(self, **asked: str) -> Reading:
        reading = read_address(asked, Kit(AnonymousUser()))
        assert reading is not None
        return reading

    def test_an_empty_address_gives_the_usual_set_up(self) -> None:
        reading = self.read()
        self.assertEqual(
            "body=varnholt-vx-3&format=lossless-raw&fps=20&hold=6&to=single"
            "&card1=gravelock-tide-512",
            reading.address,
        )
        self.assertEqual({}, reading.notes)

    def test_an_address_gives_itself_again(self) -> None:
        for asked in (
            {"body": "quillon-swift-7", "format": "jpeg-fine", "fps": "15", "hold": "2.5",
             "card1": "fennimore-mote-128", "free1": "12.5"},
            {"to": "mirror", "card2": "tarn-30-256", "free2": "9", "write1": "500", "iso": "1600",
             "over": "busy foliage", "format": "lossless-raw-and-jpeg-fine"},
            {"hold": "soon"},
            {"free1": "-3"},
        ):  # fmt: skip
            first = self.read(**asked)
            again = self.read(**dict(parse_qsl(first.address)))
            self.assertEqual(first, again)

    def test_what_cannot_be_had_is_replaced_with_a_sentence(self) -> None:
        for asked, key, words, unknown in (
            ({"body": "nikto"}, "body", "no body “nikto”; this is the Varnholt VX-3", True),
            ({"card1": "nikto"}, "card1", "no card “nikto”; this is the Gravelock Tide 512", True),
            (
                {"card1": "tarn-90-128"},
                "card1",
                "doesn't fit. It is SD; the slot takes CFexpress B",
                False,
            ),
            ({"format": "film"}, "format", "does not record “film”; this is lossless RAW", False),
            ({"fps": "33"}, "fps", "does not shoot 33 fps; this is 40 fps", False),
            ({"fps": "nan"}, "fps", "“nan” is not a frame rate", False),
            ({"fps": "fast"}, "fps", "“fast” is not a frame rate; this is 20 fps", False),
            ({"hold": "1e9"}, "hold", "0.1 to 600 s; “1e9” is not that, so this is 6 s", False),
            ({"hold": "nan"}, "hold", "0.1 to 600 s", False),
            ({"hold": "x" * 5000}, "hold", "“" + "x" * 40 + "…”", False),
            ({"to": "twice"}, "to", "does not offer “twice”; this is single", False),
            ({"to": "split"}, "to", "Split needs a format that writes two files", False),
            ({"body": "quillon-swift-7", "to": "mirror"}, "to", "it has one slot", False),
            ({"iso": "500"}, "iso", "full stops from 100 to 51200; “500”", False),
            ({"over": "the moon"}, "over", "“the moon” is not a scene here", False),
            ({"isorule": "-1"}, "isorule", "“-1” is not that, so this is 4 %", False),
            ({"write1": "-5"}, "write1", "a number of MB/s", False),
            ({"write1": "1800 Mb/s"}, "write1", "1800 Mb/s are 225 MB/s", False),
            ({"free1": "513"}, "free1", "room for 0 to 512 GB; “513” is not that", False),
        ):
            with self.subTest(key, asked=asked):
                reading = self.read(**asked)
                self.assertEqual([key], list(reading.notes))
                self.assertIn(words, reading.notes[key])
                self.assertEqual(unknown, reading.unknown)

    def test_numbers_are_read_as_photographers_type_them(self) -> None:
        for typed, hold_s in (("2,5", 2.5), (" 4 s ", 4), ("0.1", 0.1), ("600", 600)):
            with self.subTest(typed):
                self.assertEqual(hold_s, self.read(hold=typed).setup.hold_s)

    def test_another_body_keeps_the_choices_that_it_has(self) -> None:
        setup = self.read(
            body="pellow-meridian-61", format="jpeg-fine", fps="20", card1="tarn-90-128"
        ).setup
        self.assertEqual("jpeg-fine", setup.recording.slug)
        self.assertEqual("tarn-90-128", setup.sides[0].fitted.slug)
        self.assertEqual(10, setup.rate.fps)
