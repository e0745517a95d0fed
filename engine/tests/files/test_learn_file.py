"""The learn file: what is refused, and in which words."""

import json
import subprocess
import sys
from typing import Any
from unittest import TestCase

from engine.files.json_keys import InvalidFile
from engine.files.learn_file import read_learn_file

FORMAT = {"name": "raw", "files": [{"mb": 30}]}
BODY = {"rates": [{"fps": 10}], "formats": [FORMAT], "slots": [{"bus_mb_s": 312}]}
RUN = {"format": "raw", "fps": 10, "cards": ["A"], "hold_s": 5, "frames": 40}


def text(*runs: dict[str, Any], **changes: Any) -> str:
    usual = {"body": BODY, "cards": [{"name": "A"}], "runs": list(runs) or [RUN]}
    return json.dumps(usual | changes)


class Reading(TestCase):
    def test_each_fault_is_one_sentence_at_its_key(self) -> None:
        for given, key, fault in (
            ("[]", "The learn file", "one JSON object"),
            (text(body=BODY | {"rates": [{"fps": -1}]}), "body.rates[0].fps", "0.001 to 1,000"),
            (text(body=BODY | {"formats": [{"name": "x"}]}), "body.formats[0].files", "estimated"),
            (text(body=BODY | {"slots": [{}]}), "body.slots[0].bus_mb_s", "must be there"),
            (text(body=BODY | {"memory": 5}), "body.memory", "not a key"),
            (text(RUN | {"format": "tiff"}), "runs[0].format", "must be a format of the body"),
            (text(RUN | {"fps": 11}), "runs[0].fps", "must be a frame rate"),
            (text(RUN | {"cards": ["Z"]}), "runs[0].cards", "must be among the cards"),
            (text(RUN | {"cards": ["A", "A"]}), "runs[0].cards", "no more than the slots"),
            (text(RUN | {"frames": 0}), "runs[0].frames", "1 to 3,600,000"),
            (text(RUN | {"frames_at_full_speed": 50}), "runs[0].frames_at_full_speed", "more than"),
            (text(RUN | {"light_out_s": 4}), "runs[0].light_out_s", "before finger up"),
            (text({k: v for k, v in RUN.items() if k != "frames"}), "runs[0].frames", "or another"),
            (text(RUN | {"method": "guess"}), "runs[0].method", "must be one of"),
            (text(*[RUN] * 61), "runs", "60 at most"),
            (text(runs=[]), "runs", "at least one"),
            (text(ask=[RUN]), "ask[0].frames", "not a key"),
        ):
            with self.subTest(key), self.assertRaises(InvalidFile) as caught:
                read_learn_file(given)
            self.assertIn(fault, caught.exception.faults.get(key, str(caught.exception.faults)))
            self.assertIn(key, caught.exception.faults)

    def test_the_command_exits_with_2_and_a_sentence_for_bad_input(self) -> None:
        ran = subprocess.run(
            [sys.executable, "-m", "engine", "learn", "-"], input=b'{"runs": 3}',
            capture_output=True, check=False,
        )  # fmt: skip
        self.assertEqual(2, ran.returncode)
        self.assertIn(b"body is missing.", ran.stderr)
