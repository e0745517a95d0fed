"""What a set-up of the kit is as a scenario, and how sure its numbers are."""

import math

from django.contrib.auth.models import AnonymousUser
from django.test import TestCase

from engine.estimates.write_speed import ELSEWHERE
from engine.figures.uncertainty import EXACT, JointSamples
from engine.uncertainty.model_error import OF_PACE, OF_PACE_TESTED
from kit import sample
from kit.models import Body, Card, LearntFigure, LearntSpeed, RecordingFormat, Slot
from setups.engine_adapter import scenario_of, sources_of
from setups.kit import Kit
from setups.reader import read_address
from setups.setup import Setup


class EngineAdapter(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        sample.load()

    def setup(self, **asked: str) -> Setup:
        reading = read_address(asked, Kit(AnonymousUser()))
        assert reading is not None
        return reading.setup

    def test_a_compressed_raw_never_exceeds_the_uncompressed_one_and_a_jpeg_is_free_to(
        self,
    ) -> None:
        def mb(recording: str, **scene: str) -> float:
            setup = self.setup(body="pellow-meridian-61", format=recording, **scene)
            return scenario_of(setup).files[0].mb

        noisy = {"iso": "51200", "over": "busy foliage", "isorule": "20"}
        uncompressed = mb("uncompressed-raw")
        self.assertLess(mb("lossless-raw"), uncompressed)
        self.assertEqual(uncompressed, mb("lossless-raw", **noisy))
        self.assertEqual(uncompressed, mb("uncompressed-raw", **noisy))
        self.assertGreater(mb("jpeg-fine", **noisy), 1.5 * mb("jpeg-fine"))

    def test_what_a_card_was_learnt_to_write_is_less_sure_in_another_body(self) -> None:
        card, here = Card.objects.get(slug="tarn-90-128"), self.setup(body="quillon-swift-7")
        samples = "0.8 0.9 1.1 1.3"
        LearntSpeed.objects.create(
            card=card, value=200, own_mb_s=230, spread=0.2, samples=samples, runs=3,
            learnt_on="2026-11-01", learnt_in=str(here.body),
        )  # fmt: skip
        same, other = (
            self.setup(body=body, card1=card.slug)
            for body in (here.body.slug, "pellow-meridian-61")
        )
        self.assertEqual(card, other.sides[0].card)
        for setup in (same, other):
            self.assertEqual(230, scenario_of(setup).slots[0].write_mb_s)
        self.assertEqual(JointSamples((0.8, 0.9, 1.1, 1.3)), sources_of(same).slots[0].write_mb_s)
        self.assertAlmostEqual(
            math.hypot(JointSamples((0.8, 0.9, 1.1, 1.3)).spread, ELSEWHERE),
            sources_of(other).slots[0].write_mb_s.spread,
        )

    def test_what_a_slot_makes_of_one_card_it_makes_of_cards_never_tested_in_it(self) -> None:
        asked = {"body": "varnholt-vx-3", "card1": "gravelock-tide-256"}
        before = scenario_of(self.setup(**asked)).slots[0]
        LearntFigure.objects.create(
            body=Body.objects.get(slug="varnholt-vx-3"), number=1, kind="slot share", of="1",
            value=0.4, spread=0.05, samples="0.95 1.05", runs=3, learnt_on="2026-11-01",
        )  # fmt: skip
        setup = self.setup(**asked)
        after = scenario_of(setup).slots[0]
        self.assertEqual(before.write_mb_s, after.write_mb_s)
        self.assertAlmostEqual(before.effective_mb_s / 2, after.effective_mb_s)
        self.assertEqual(JointSamples((0.95, 1.05)), sources_of(setup).slots[0].slot_share)
        self.assertAlmostEqual(after.effective_mb_s, setup.sides[0].fit.usable_mb_s or 0)

    def test_what_nobody_has_noted_is_estimated_and_what_was_measured_is_kept(self) -> None:
        measured = {"card1": "gravelock-tide-512"}
        known = sources_of(self.setup(body="varnholt-vx-3", **measured)).slots[0]
        self.assertEqual((EXACT, OF_PACE_TESTED), (known.slot_share, known.pace))
        slot = Slot.objects.filter(body__slug="varnholt-vx-3", number=1)
        slot.update(cap_mb_s=None, cap_source="", overhead_source="estimated")
        RecordingFormat.objects.update(process_fps=None, process_source="")
        setup = self.setup(body="varnholt-vx-3", card1="gravelock-breaker-1000")
        scenario, sources = scenario_of(setup), sources_of(setup)
        self.assertEqual(0.55 * 2_000, scenario.slots[0].slot_limit_mb_s)
        self.assertEqual((0.0015, 50), (scenario.slots[0].overhead_s, scenario.process_fps))
        self.assertGreater(sources.slots[0].slot_limit_mb_s.spread, 0.3)
        self.assertEqual(OF_PACE, sources.slots[0].pace)
