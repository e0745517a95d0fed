"""A card on which the cache is used up, and one that is nearly full."""

from dataclasses import replace
from unittest import TestCase

from engine import LoadedSlot
from engine.burst.simulate import simulate
from engine.burst.wear import cache_back_s, nearly_full, wear_sentences, worn
from engine.tests.builders import scenario

CACHED = {"cache_mb": 3_000, "cache_write_mb_s": 460, "cache_flush_mb_s": 100}
SLOWS = {"free_mb": 64_000, "slow_below_free_mb": 8_000, "slow_factor": 0.4}


class Wear(TestCase):
    def test_worn_is_the_burst_without_its_cache_and_nearly_full_at_the_slower_speed(self) -> None:
        burst = scenario(hold_s=20, **CACHED, **SLOWS)
        for tried, write_mb_s in ((worn(burst), 230), (nearly_full(burst), 0.4 * 230)):
            plain = simulate(scenario(hold_s=20, write_mb_s=write_mb_s))
            self.assertEqual(plain.taken_ns.tolist(), simulate(tried).taken_ns.tolist())

    def test_where_nothing_would_change_there_is_no_such_burst(self) -> None:
        for words, burst in (
            ("a plain card", scenario()),
            ("nearly full already", scenario(**CACHED, **SLOWS | {"free_mb": 7_000})),
            ("a slot that passes no more", scenario(slot_limit_mb_s=50, **CACHED, **SLOWS)),
        ):
            with self.subTest(words):
                self.assertIsNone(worn(burst))
                self.assertIsNone(nearly_full(burst))

    def test_in_two_slots_the_plain_card_stays_as_it_is(self) -> None:
        plain, slows = LoadedSlot(write_mb_s=300), LoadedSlot(write_mb_s=230, **SLOWS)
        burst = scenario(slots=(plain, slows), arrangement="mirror")
        self.assertEqual((plain, LoadedSlot(write_mb_s=92)), nearly_full(burst).slots)

    def test_the_sentences_have_every_speed_and_the_rest_that_a_cache_takes(self) -> None:
        slot = scenario(**CACHED, **SLOWS).slots[0]
        self.assertEqual(30, cache_back_s(slot))
        self.assertEqual(60, cache_back_s(replace(slot, cache_flush_mb_s=None, write_mb_s=100)))
        fresh, full = wear_sentences(slot)
        self.assertIn("first 3 GB go at 460 MB/s; after that it writes 230 MB/s", fresh)
        self.assertIn("30 s of rest", fresh)
        self.assertEqual("with less than 8 GB free it writes 92 MB/s", full)
        self.assertEqual([], list(wear_sentences(LoadedSlot(write_mb_s=100))))
