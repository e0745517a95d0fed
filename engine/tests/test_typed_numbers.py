"""Numbers as they are typed: read right, or refused with what they may mean."""

from unittest import TestCase

from babel.numbers import format_decimal
from hypothesis import given
from hypothesis import strategies as st

from engine.quantities import Range
from engine.typed_numbers import NotANumber, as_typed, quantity_in, readings

NUMBERS = st.floats(1e-6, 1e9) | st.integers(0, 10**9) | st.decimals(0, 10**6, places=3)
LOCALES = st.sampled_from(["en", "de", "de_AT", "fr", "it", "es", "sv", "pl"])


class TypedNumbers(TestCase):
    @given(NUMBERS.map(float))
    def test_what_is_shown_in_a_field_is_read_as_the_same_number(self, value) -> None:
        self.assertEqual(value, quantity_in(as_typed(value), ""))

    @given(NUMBERS, LOCALES)
    def test_no_way_of_writing_a_number_is_read_as_another_one(self, number, locale) -> None:
        text = format_decimal(number, locale=locale, decimal_quantization=False)
        try:
            self.assertAlmostEqual(float(number), quantity_in(text, ""))
        except NotANumber as refused:
            self.assertGreater(len(readings(text)), 1, f"{text}: {refused}")

    def test_units_behind_a_number_count(self) -> None:
        for text, unit, value in (
            ("2 GB/s", "MB/s", 2_000), ("240 Mb/s", "MB/s", 30), ("1,5 TB", "GB", 1_500),
            ("500ms", "s", 0.5), ("10 %", "%", 10), ("95", "MB/s", 95), ("1 000 mbps", "MB/s", 0),
            ("1'700.5 MB", "MB", 1_700.5), ("0,125 s", "s", 0.125), ("1e3", "s", 1_000),
        ):  # fmt: skip
            with self.subTest(text):
                if value:
                    self.assertAlmostEqual(value, quantity_in(text, unit))
                else:
                    with self.assertRaisesRegex(NotANumber, "bytes .* or bits"):
                        quantity_in(text, unit)

    def test_what_is_no_number_is_a_sentence(self) -> None:
        for text in ("", "nan", "inf", "1e999", "a lot", "1.7.0", "--1", "9" * 10_000, "5 bananas",
                     "12,34,567", "1_000_0", "MB"):  # fmt: skip
            with self.subTest(text[:20]), self.assertRaisesRegex(NotANumber, "is not a number"):
                quantity_in(text, "MB")
        with self.assertRaisesRegex(NotANumber, "may mean 1700 or 1.7"):
            quantity_in("1.700", "MB/s")
        self.assertEqual(1.7, quantity_in("1.700", "s", Range(0.1, 600, "s")))
