"""The replay file: what is refused, and in which words."""

import json
from typing import Any
from unittest import TestCase

from engine.files.json_keys import InvalidFile
from engine.files.replay_file import AS_IT_WAS, read_replay_file, replayed_values

SET_UP = {
    "frame_rate_fps": 20, "memory_mb": 300, "files": [{"name": "raw", "mb": 50}],
    "slots": [{"write_mb_s": 250}],
}  # fmt: skip
PICTURES = [{"taken_s": frame / 20, "mb": 50} for frame in range(5)]


def text(**changes: Any) -> str:
    keys = {"scenario": SET_UP, "pictures": PICTURES} | changes
    return json.dumps({key: value for key, value in keys.items() if value is not None})


class Reading(TestCase):
    def test_each_fault_is_one_sentence_at_its_key(self) -> None:
        press = {"press_s": 0, "hold_s": 1}
        for given, key, fault in (
            ("[]", "The replay file", "one JSON object"),
            (text(scenario=None), "scenario", "is missing"),
            (text(scenario=SET_UP | {"memory_mb": 0}), "scenario.memory_mb", "from 0.001"),
            (text(others=[SET_UP]), "others[0].name", "is missing"),
            (text(others=[SET_UP | {"name": "a"}] * 2), "others", "a name of its own, not a"),
            (text(others=[SET_UP | {"name": AS_IT_WAS}]), "others", "not as it was"),
            (text(others=[SET_UP | {"name": f"{n}"} for n in range(21)]), "others", "20 set-ups"),
            (text(pictures=None), "pictures", "or presses in their place"),
            (text(presses=[press]), "pictures", "or presses in their place"),
            (text(pictures=[]), "pictures", "1 to 20,000"),
            (text(pictures=[{"taken_s": 0, "mb": 0}]), "pictures[0].mb", "0.001 to 1,000"),
            (text(pictures=[{"taken_s": 0, "mb": 1, "gps": ""}]), "pictures[0].gps", "not a key"),
            (
                text(pictures=[{"taken_s": years * 3e7, "mb": 1} for years in range(2)]),
                "pictures",
                "within 12 days",
            ),
            (text(pictures=None, presses=[]), "presses", "1 to 20,000"),
            (text(pictures=None, presses=[press, press]), "presses", "before the finger is up"),
            (text(holds=[{"press_s": 0, "hold_s": 0}]), "holds[0].hold_s", "from 0.001"),
            (text(day=1), "day", "not a key"),
        ):
            with self.subTest(key), self.assertRaises(InvalidFile) as caught:
                read_replay_file(given)
            self.assertIn(fault, caught.exception.faults.get(key, str(caught.exception.faults)))

    def test_a_day_of_pictures_or_of_presses_is_replayed_on_each_set_up(self) -> None:
        light = SET_UP | {"name": "lossy RAW", "files": [{"name": "raw", "mb": 10}]}
        day = replayed_values(read_replay_file(text(others=[light])))
        self.assertEqual([5], [burst["frames"] for burst in day["bursts"]])
        self.assertEqual([AS_IT_WAS, "lossy RAW"], list(day["set_ups"]))
        held = [{"press_s": 0, "hold_s": 4}]
        told = replayed_values(read_replay_file(text(pictures=None, presses=held, others=[light])))
        was, would = told["set_ups"].values()
        self.assertNotIn("frames", told)
        self.assertEqual((80, 0), (would["frames"], would["missed"]))
        self.assertEqual(80, was["frames"] + was["missed"])
        self.assertGreater(was["missed"], 50)
