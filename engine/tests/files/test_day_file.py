"""The day file: what is refused, and in which words."""

import json
from typing import Any
from unittest import TestCase

from engine.files.day_file import planned_values, read_day_file
from engine.files.json_keys import InvalidFile
from engine.tests.files.test_replay_file import SET_UP

PERIOD = {"name": "heat", "minutes": 30, "bursts_an_hour": 20}
CARD = {"free_mb": 60_000}
DESK = {"frames": 5, "within_min": 10, "send_mb_s": 1, "file_mb": 8}


def text(**changes: Any) -> str:
    named = SET_UP | {"name": "RAW"}
    keys = {"set_ups": [named], "periods": [PERIOD], "cards": [CARD]} | changes
    return json.dumps({key: value for key, value in keys.items() if value is not None})


class Reading(TestCase):
    def test_each_fault_is_one_sentence_at_its_key(self) -> None:
        for given, key, fault in (
            ("[]", "The day file", "one JSON object"),
            (text(set_ups=None), "set_ups", "is missing"),
            (text(set_ups=[]), "set_ups", "one at least"),
            (text(set_ups=[SET_UP | {"name": "a"}] * 2), "set_ups", "a name of its own, not a"),
            (text(periods=[]), "periods", "1 to 48"),
            (text(periods=[PERIOD | {"minutes": 0}]), "periods[0].minutes", "from 1"),
            (text(periods=[PERIOD | {"long_hold_s": 0.5}]), "periods[0].long_hold_s", "shorter"),
            (text(periods=[PERIOD | {"listed_s": [1, "x"]}]), "periods[0].listed_s[1]", "a number"),
            (text(periods=[PERIOD | {"listed_s": 1}]), "periods[0].listed_s", "a list"),
            (text(periods=[PERIOD | {"gps": 1}]), "periods[0].gps", "not a key"),
            (text(periods=[PERIOD | {"copies": True}]), "copy_mb_s", "must be given"),
            (text(cards=[]), "cards", "1 to 50"),
            (text(cards=[CARD | {"slot": 3}]), "cards[0].slot", "from 1 to 2"),
            (text(cards=[CARD | {"slot": 2}]), "cards", "for each slot"),
            (text(cards=[{"free_mb": 0}]), "cards", "full from the start"),
            (text(desk={"frames": 5}), "desk.within_min", "is missing"),
            (text(desk=DESK | {"send_mb_s": 0}), "desk.send_mb_s", "from 0.001"),
        ):
            with self.subTest(key), self.assertRaises(InvalidFile) as caught:
                read_day_file(given)
            self.assertIn(fault, caught.exception.faults.get(key, str(caught.exception.faults)))

    def test_periods_are_shot_with_the_set_ups_that_they_name(self) -> None:
        light = SET_UP | {"name": "lossy", "files": [{"name": "raw", "mb": 10}]}
        periods = [PERIOD, PERIOD | {"set_up": "lossy"}]
        both = [SET_UP | {"name": "RAW"}, light]
        raw, lossy = planned_values(read_day_file(text(set_ups=both, periods=periods)))["periods"]
        self.assertEqual(0, lossy["missed"]["high"])
        self.assertGreater(raw["missed"]["low"], 10)
        self.assertGreater(lossy["frames"]["middle"], raw["frames"]["middle"])

    def test_a_card_may_write_as_that_of_another_set_up(self) -> None:
        slow = SET_UP | {"name": "slow", "slots": [{"write_mb_s": 60}]}
        both, full = [SET_UP | {"name": "RAW"}, slow], CARD | {"free_mb": 1}
        files = [
            text(set_ups=both, cards=[full, CARD | {"set_up": "slow"}]),
            text(set_ups=both[::-1]),
            text(set_ups=both, cards=[CARD, CARD | {"set_up": "slow"}]),
        ]
        on_slow, alone, on_first = (planned_values(read_day_file(one))["missed"] for one in files)
        self.assertEqual(alone, on_slow)
        self.assertLess(on_first["middle"], alone["middle"])
