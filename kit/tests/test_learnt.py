"""What runs teach is laid over what was entered, and taken back without a trace."""

from copy import deepcopy
from dataclasses import replace
from datetime import date
from random import Random
from typing import Any

from django.contrib.auth import get_user_model
from django.test import SimpleTestCase, TestCase
from hypothesis import given, settings
from hypothesis import strategies as st

from engine.figures.key import FigureKey, FigureKind
from kit import edit, learnt
from kit.detached import detached
from kit.document import BadDocument, document_of
from kit.earlier_documents import brought_up_to_date, key_of_name
from kit.figure_places import place_of
from kit.learnt import Lesson, NewCoupling, NewFigure
from kit.models import Body, Card, Source
from kit.models.body import MEMORY
from kit.tests import random_items

KEYS = [
    MEMORY, FigureKey(FigureKind.SLOT, "1"), FigureKey(FigureKind.SLOT, "2"),
    FigureKey(FigureKind.HELD, "format-0"), FigureKey(FigureKind.ENCODER, "format-1"),
    FigureKey(FigureKind.FILES, "format-0", "raw"), FigureKey(FigureKind.FILES, "format-9", "raw"),
    FigureKey(FigureKind.FRAME_RATE, "20"),
]  # fmt: skip
NAMES = {
    MEMORY: "memory_mb", KEYS[1]: "slot 1 cap_mb_s", KEYS[3]: "format-0 held_mb",
    KEYS[4]: "format-1 process_fps", KEYS[5]: "format-0 raw", KEYS[7]: "rate 20",
}  # fmt: skip
FIRST, SECOND = Lesson(2, date(2026, 5, 1)), Lesson(3, date(2026, 6, 1))
new_figures = st.dictionaries(
    st.sampled_from(KEYS),
    st.builds(
        NewFigure, key=st.just(MEMORY), ratio=st.floats(0.5, 2), spread=st.floats(0, 1),
        usual=st.floats(1, 1_000),
    ),
).map(lambda found: [replace(one, key=key) for key, one in found.items()])  # fmt: skip
new_couplings = st.lists(
    st.builds(
        NewCoupling, kind=st.sampled_from(("mirror", "split")),
        coupling=st.sampled_from(("parallel", "serial")), odds=st.floats(0.5, 1),
    ),
    unique_by=lambda one: one.kind,
)  # fmt: skip
seeded = st.randoms(use_true_random=False)


def stored(model: type[Body] | type[Card], document: dict[str, Any]) -> dict[str, Any]:
    """A document as it is read back, all fields and lists in it; raises BadDocument."""
    return document_of(detached(model(), {"slug": "it"} | document))


class LearntLaws(SimpleTestCase):
    @settings(max_examples=40, deadline=None)
    @given(seeded, new_figures, new_figures, new_couplings)
    def test_a_body_is_learnt_from_what_was_entered_and_taken_back_to_it(
        self, random: Any, first: Any, second: Any, couplings: Any
    ) -> None:
        document = stored(Body, random_items.body(random))
        before = learnt.body_document_as_assumed(document)
        once = stored(Body, learnt.body_document_with(document, first, couplings, FIRST))
        twice = stored(Body, learnt.body_document_with(once, second, couplings, SECOND))
        alone = stored(Body, learnt.body_document_with(document, second, couplings, SECOND))
        self.assertEqual(alone, twice)
        self.assertEqual(before, learnt.body_document_as_assumed(twice))
        body = detached(Body(), twice)
        for row in body.learnt_figures.all():
            self.assertEqual((row.value, row.why), (row.figure.value, row.figure.why))
            self.assertEqual(row.figure, body.figures[row.key])
        self.assertEqual(body.assumed.keys() - body.figures.keys(), set())

    @settings(max_examples=40, deadline=None)
    @given(seeded, st.floats(0.5, 4), st.floats(0.5, 4))
    def test_a_card_likewise_and_within_what_is_printed_on_it(
        self, random: Any, ratio: float, again: float
    ) -> None:
        body = Body(maker="Pellow", name="Wren")
        document = stored(Card, random_items.card(random))
        key = FigureKey(FigureKind.CARD, "it")
        first, second = (NewFigure(key, one, 0.03, 400) for one in (ratio, again))
        once = stored(Card, learnt.card_document_with(document, first, 300 * ratio, body, FIRST))
        twice = stored(Card, learnt.card_document_with(once, second, 300 * again, body, SECOND))
        self.assertEqual(
            learnt.card_document_as_assumed(document), learnt.card_document_as_assumed(twice)
        )
        card = detached(Card(), twice)
        self.assertEqual((Source.MEASURED_HERE, "Pellow Wren"),
                         (card.source_in(body), card.learnt.learnt_in))  # fmt: skip
        self.assertLessEqual(card.write_mb_s, card.printed_write_mb_s or float("inf"))

    @settings(max_examples=60, deadline=None)
    @given(seeded, st.sampled_from(list(NAMES)), st.booleans())
    def test_a_document_of_an_earlier_day_says_the_same(
        self, random: Any, key: FigureKey, holds: bool
    ) -> None:
        """What had overwritten the figure stands over it, unless it was changed by hand since."""
        document = learnt.body_document_as_assumed(stored(Body, random_items.body(random)))
        place = place_of(document, key)
        if place is None:
            return
        assumed, source = place.entered
        value = 7.0 if key.kind is not FigureKind.FRAME_RATE else 20.0
        row = {"figure": NAMES[key], "value": value, "spread": 0.1, "samples": "",
               "assumed_value": assumed, "assumed_source": source, **FIRST.row}  # fmt: skip
        figure = NewFigure(key, value / (assumed or 1), 0.1, 1)
        now = learnt.body_document_with(deepcopy(document), [figure], [], FIRST)
        place.put(value, (Source.MEASURED_HERE if holds else Source.ESTIMATED).value)
        found = brought_up_to_date(Body, document | {"learnt_figures": [row]})
        self.assertEqual(key, key_of_name(NAMES[key]))
        if not holds:
            self.assertEqual([], found["learnt_figures"])
            return
        self.assertEqual(_rounded(now), _rounded(found))


class Editing(TestCase):
    def test_a_figure_that_somebody_changes_by_hand_is_no_longer_a_learnt_one(self) -> None:
        ann, random, told = get_user_model().objects.create(email="ann@example.org"), Random(4), 0
        while told < 12:
            document = random_items.body(random) | {"learnt_figures": [], "estimates": []}
            figures = [NewFigure(key, 1.1, 0.03, 1) for key in KEYS[:6]]
            try:
                body = edit.add(Body, ann, document).changed
            except BadDocument:
                continue
            new = learnt.body_document_with(document_of(body), figures, [], FIRST)
            edit.rewrite(body, new, None)
            rows = document_of(Body.objects.get(pk=body.pk))["learnt_figures"]
            edit.rewrite(body, {"remarks": "another", "memory_source": body.memory_source}, None)
            self.assertEqual(rows, document_of(Body.objects.get(pk=body.pk))["learnt_figures"])
            undo = edit.rewrite(body, {"memory_mb": body.memory_mb + 1}, None)
            body = Body.objects.get(pk=body.pk)
            self.assertFalse(body.is_learnt(MEMORY))
            self.assertEqual(len(rows) - 1, body.learnt_figures.count())
            edit.undo(undo)
            self.assertEqual(rows, document_of(Body.objects.get(pk=body.pk))["learnt_figures"])
            told += 1


def _rounded(value: Any) -> Any:
    """Without what scaling a spread and back leaves in its last digits."""
    if isinstance(value, dict):
        return {
            key: float(f"{one:.6g}") if key in ("spread_mb", "value") else _rounded(one)
            for key, one in value.items()
        }
    return [_rounded(one) for one in value] if isinstance(value, list) else value
