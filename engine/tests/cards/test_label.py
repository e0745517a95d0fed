"""Reading a card's marks: the table of docs/marks.md, and laws that hold for any text."""

import re
from pathlib import Path
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from engine.cards.label.checks import NoteKind
from engine.cards.label.face import PCIE_OF_BUS, Face
from engine.cards.label.parser import LONGEST_TEXT, read_marks
from engine.cards.standards import (
    BUSES_OF_FORM,
    CEILING_MB_S,
    GUARANTEED_MB_S,
    SD_FORMS,
    Bus,
    Form,
    forms_of_class,
    standard_of,
)
from engine.estimates.write_speed import estimate_write

TABLE = Path(__file__).parents[3] / "docs" / "marks.md"
WORTH_A_LOOK = (NoteKind.CONTRADICTS, NoteKind.WARNS)


def row_of(text: str) -> str:
    """What docs/marks.md says of `text`."""
    reading = read_marks(text)
    estimate = estimate_write(reading.face)
    write = f"{estimate.low_mb_s:.0f} to {estimate.high_mb_s:.0f}" if estimate else "-"
    notes = " ".join(note.says for note in reading.notes if note.finding in WORTH_A_LOOK)
    cells = (
        text,
        str(reading.face) or "nothing",
        write,
        notes or "-",
        " ".join(reading.unread) or "-",
    )
    return f"| {' | '.join(cells)} |"


@st.composite
def faces(draw: st.DrawFn) -> Face:
    form = draw(st.sampled_from(Form))
    capacity_gb = draw(st.sampled_from([0.5, 2, 16, 32, 64, 120, 512, 1000, 2000, 4000]))
    printed = [
        bus for bus in BUSES_OF_FORM[form]
        if bus in PCIE_OF_BUS or bus.startswith(("UHS", "XQD", "UDMA"))
    ]  # fmt: skip
    if form is Form.CFEXPRESS_B:
        printed = [bus for bus in printed if bus in PCIE_OF_BUS]
    of_cfast = {Form.CFAST_1: Bus.SATA_2, Form.CFAST_2: Bus.SATA_3}
    bus = of_cfast.get(form) or draw(st.sampled_from([None, *printed]))
    of_form = [one for one in GUARANTEED_MB_S if form in forms_of_class(one)]
    mb_s = st.none() | st.integers(1, 9999).map(float) | st.sampled_from([12.5, 66.5])
    # A lone figure without its direction is one for reading, and a printed one always has it.
    return Face(
        form=form,
        standard=standard_of(capacity_gb) if form in SD_FORMS else None,
        bus=bus,
        capacity_gb=capacity_gb,
        classes=tuple(draw(st.lists(st.sampled_from(of_form), unique=True, max_size=3)))
        if of_form
        else (),
        application=draw(st.sampled_from([None, "A1", "A2"])),
        read_mb_s=draw(mb_s),
        write_mb_s=draw(mb_s),
        sustained_mb_s=draw(mb_s),
        times=draw(st.none() | st.integers(10, 9999)),
        adapter=draw(st.booleans()),
    )


WORDS = """SDXC micro SD XC II I UHS- U3 V60 V C10 A1 MB/s Mb/s 280 150, /W R: 1867x x2 TB 4.0 EX
CFexpress Type B + adapter PCIe Gen4 min. sustained write 0 ١٢ ß 😀 \0"""
PIECES = st.sampled_from(WORDS.split())


class ReadingMarks(TestCase):
    def test_the_table_in_the_docs_is_what_is_read(self) -> None:
        rows = re.findall(r"^\| .* \|$", TABLE.read_text(encoding="utf-8"), re.MULTILINE)[1:]
        self.assertGreaterEqual(len(rows), 175)
        for row in rows:
            text = row.removeprefix("| ").split(" | ")[0]
            with self.subTest(text):
                self.assertEqual(row_of(text), row)

    @given(st.text(max_size=300) | st.lists(PIECES).map(" ".join) | st.lists(PIECES).map("".join))
    def test_any_text_is_survived_and_every_mark_is_where_it_says(self, text: str) -> None:
        reading = read_marks(text)
        end = 0
        for mark in reading.marks:
            self.assertEqual(mark.text, text[mark.start : mark.start + len(mark.text)])
            self.assertGreaterEqual(mark.start, end)
            end = mark.start + len(mark.text)
        estimate_write(reading.face)

    @given(faces())
    def test_printed_marks_read_as_the_same_card(self, face: Face) -> None:
        self.assertEqual(face, read_marks(str(face)).face)

    @given(faces())
    def test_an_estimate_has_a_width_and_its_middle_is_no_more_than_the_bus(
        self, face: Face
    ) -> None:
        estimate = estimate_write(face)
        assert estimate
        assert face.least_bus
        self.assertLessEqual(estimate.low_mb_s, estimate.middle_mb_s)
        self.assertLessEqual(estimate.middle_mb_s, estimate.high_mb_s)
        self.assertLess(estimate.low_mb_s, estimate.high_mb_s)
        self.assertLessEqual(estimate.middle_mb_s, CEILING_MB_S[face.least_bus])

    def test_a_page_of_text_is_read_at_its_start_and_said_to_be(self) -> None:
        reading = read_marks("SDXC " + "x" * 1_000_000)
        self.assertTrue(reading.cut)
        self.assertEqual(LONGEST_TEXT, len(reading.text))
        self.assertEqual(Form.SD, reading.face.form)
