"""Pasted text of a maker's page: what is read of it, and that nothing breaks it."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from engine.cards.standards import Bus, Form
from engine.estimates.file_sizes import FormatKind
from engine.estimates.spec_text import LONGEST_TEXT, Taken, read_spec

PAGE = """The new Varnholt VX-4
Effective pixels: 43.1 million pixels (44.9 MP in all)
Continuous shooting: up to 12 fps with the mechanical shutter, 30 fps with the electronic shutter
Video: 8K at 60 fps
Buffer: 85 frames (lossless compressed RAW) at 20 fps; 1,000 frames JPEG fine
Storage: slot 1 CFexpress Type B or XQD; slot 2 SD (UHS-II)
"""
B = Taken(Form.CFEXPRESS_B, Bus.PCIE_3_X2)


class ReadingPages(unittest.TestCase):
    def test_a_page_gives_rates_pixels_claims_and_slots(self) -> None:
        found = read_spec(PAGE)
        self.assertEqual({"mechanical": 12, "electronic": 30}, found.fps_of_shutter)
        self.assertEqual(43.1, found.megapixels)
        self.assertEqual(
            [(85, FormatKind.LOSSLESS_RAW, 20), (1000, FormatKind.JPEG_FINE, 20)],
            [claim[:3] for claim in found.claims],
        )
        self.assertEqual(
            [[B, Taken(Form.XQD, Bus.XQD_1)], [Taken(Form.SD, Bus.UHS_II)]], found.slots
        )
        self.assertIn("43.1 million pixels", found.words["megapixels"])

    def test_pixels_however_they_are_written(self) -> None:
        for text in ("22.6 MP", "22,6 megapixels", "22.6 effective megapixels",
                     "22.6 million effective pixels", "approx. 22.6 million pixels"):  # fmt: skip
            self.assertEqual(22.6, read_spec(text).megapixels)

    def test_slots_are_told_apart_however_they_are_written(self) -> None:
        sd = Taken(Form.SD, Bus.UHS_II)
        for text, slots in (
            ("Dual SD UHS-II card slots", [[sd], [sd]]),
            ("Memory card slots: 1x CFexpress Type B, 1x SD (UHS-II)", [[B], [sd]]),
            ("Cards: CFexpress Type B and SDXC UHS-II", [[B], [sd]]),
            (
                "Slots: 1 x CFexpress Type B (PCIe 4.0), 1 x SD UHS-II. Buffer: 170 lossless RAW.",
                [[Taken(Form.CFEXPRESS_B, Bus.PCIE_4_X2)], [sd]],
            ),
            ("One slot for SD cards, UHS-I", [[Taken(Form.SD, Bus.UHS_I)]]),
            ("Weight: 900 g with an SD battery", []),
        ):
            with self.subTest(text):
                self.assertEqual(slots, read_spec(text).slots)

    def test_formats_of_claims(self) -> None:
        for text, kind in (
            ("Slots: 1 x SD UHS-II. Buffer: 40 lossless RAW", FormatKind.LOSSLESS_RAW),
            ("Slots: 1 x SD, buffer 40 lossless RAW", FormatKind.LOSSLESS_RAW),
            ("Buffer: 40 uncompressed RAW", FormatKind.UNCOMPRESSED_RAW),
            ("Buffer: 40 lossless RAW", FormatKind.LOSSLESS_RAW),
            ("Buffer: 40 compressed RAW", FormatKind.LOSSY_RAW),
            ("Buffer: 40 RAW", FormatKind.LOSSLESS_RAW),
            ("40 shots RAW+JPEG", FormatKind.RAW_AND_JPEG),
            ("40 images in HEIF", FormatKind.HEIF),
        ):
            with self.subTest(text):
                self.assertEqual([(40, kind)], [claim[:2] for claim in read_spec(text).claims])

    @given(
        st.text(alphabet="0123456789 .,;:()/x\nRAWJPEGfpsMSDUHI-I slotframesburst", max_size=300)
    )
    def test_any_text_is_read(self, text: str) -> None:
        found = read_spec(text)
        self.assertLessEqual(len(found.slots), 2)
        self.assertTrue(all(claim.frames >= 1 for claim in found.claims))

    def test_no_text_takes_long_to_read(self) -> None:
        """Each of these took minutes or seconds once."""
        for piece in ("1", "111,111,", "12 fps ", "85 frames RAW;", "1 million ", "slot SD;"):
            self.assertIsNone(read_spec(piece * (LONGEST_TEXT // len(piece))).megapixels)

    def test_of_a_novel_only_the_start_is_read(self) -> None:
        self.assertTrue(read_spec("It was a dark night. " * LONGEST_TEXT).cut)
