"""What runs teach is written to bodies and cards, and taken back, without a trace."""

from dataclasses import replace
from datetime import date
from typing import Any

from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st

from kit import learnt
from kit.detached import detached
from kit.document import document_of
from kit.learnt import Lesson, NewCoupling, NewFigure
from kit.models import Body, Card, Source
from kit.tests import random_items

FIGURES = (
    "memory_mb", "slot 1 cap_mb_s", "slot 2 cap_mb_s", "format-0 held_mb", "format-1 process_fps",
    "format-0 raw", "format-1 jpeg", "rate 20", "format-9 raw", "slot raw",
)  # fmt: skip
FIRST, SECOND = Lesson(2, date(2026, 5, 1)), Lesson(3, date(2026, 6, 1))
new_figures = st.dictionaries(
    st.sampled_from(FIGURES),
    st.builds(
        NewFigure, figure=st.just(""), ratio=st.floats(0.5, 2), spread=st.floats(0, 1),
        usual=st.floats(1, 1_000),
    ),
).map(lambda found: [
    replace(one, figure=name, ratio=1.0 if name.startswith("rate") else one.ratio)
    for name, one in found.items()
])  # fmt: skip
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
    def test_a_body_is_learnt_from_what_was_assumed_and_taken_back_to_it(
        self, random: Any, first: Any, second: Any, couplings: Any
    ) -> None:
        document = stored(Body, random_items.body(random))
        before = learnt.body_document_as_assumed(document)
        once = stored(Body, learnt.body_document_with(document, first, couplings, FIRST))
        twice = stored(Body, learnt.body_document_with(once, second, couplings, SECOND))
        alone = stored(Body, learnt.body_document_with(document, second, couplings, SECOND))
        self.assertEqual(_rounded(alone), _rounded(twice))
        self.assertEqual(_rounded(before), _rounded(learnt.body_document_as_assumed(twice)))

    @settings(max_examples=40, deadline=None)
    @given(seeded, st.floats(0.5, 4), st.floats(0.5, 4))
    def test_a_card_likewise_and_within_what_is_printed_on_it(
        self, random: Any, ratio: float, again: float
    ) -> None:
        body = Body(maker="Pellow", name="Wren")
        document = stored(Card, random_items.card(random))
        before = learnt.card_document_as_assumed(document)
        first = NewFigure("card", ratio, 0.03, 1)
        second = NewFigure("card", again, 0.03, 1)
        once = stored(Card, learnt.card_document_with(document, first, body, FIRST))
        twice = stored(Card, learnt.card_document_with(once, second, body, SECOND))
        self.assertEqual(before, learnt.card_document_as_assumed(twice))
        self.assertEqual(Source.MEASURED_HERE, twice["sustained_source"])
        printed = twice["printed_write_mb_s"] or float("inf")
        self.assertLessEqual(twice["sustained_write_mb_s"], printed)

    @settings(max_examples=20, deadline=None)
    @given(seeded)
    def test_a_figure_that_somebody_changes_by_hand_is_no_longer_a_learnt_one(
        self, random: Any
    ) -> None:
        document = stored(Body, random_items.body(random) | {"learnt_couplings": []})
        figure = NewFigure("memory_mb", 1.1, 0.03, 1)
        changed = learnt.body_document_with(document, [figure], [], FIRST) | {"memory_mb": 7.5}
        body = detached(Body(), changed)
        self.assertEqual([], learnt.holding(body))
        self.assertEqual(7.5, learnt.body_as_assumed(body).memory_mb)


def _rounded(value: Any) -> Any:
    """Without what scaling a spread and back leaves in its last digits."""
    if isinstance(value, dict):
        return {
            key: float(f"{one:.6g}") if key == "spread_mb" else _rounded(one)
            for key, one in value.items()
        }
    return [_rounded(one) for one in value] if isinstance(value, list) else value
