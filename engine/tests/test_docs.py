"""The examples in docs/formats.md are true."""

import json
import re
from pathlib import Path
from unittest import TestCase

from engine.burst.simulate import simulate
from engine.files.learn_file import learnt_values, read_learn_file
from engine.files.scenario_file import read_scenario, result_values

FORMATS = Path(__file__).parents[2] / "docs" / "formats.md"


class Formats(TestCase):
    def test_the_scenario_shown_gives_the_result_shown(self) -> None:
        given, shown = re.findall(
            r"```json\n(.*?)```", FORMATS.read_text(encoding="utf-8"), re.DOTALL
        )
        answer = result_values(simulate(read_scenario(given)))
        self.assertEqual(json.loads(shown), answer | {"memory_mb": []})

    def test_the_learn_file_shown_is_one_and_is_answered(self) -> None:
        (given,) = re.findall(r"```learn\n(.*?)```", FORMATS.read_text(encoding="utf-8"), re.DOTALL)
        answer = learnt_values(read_learn_file(given))
        self.assertEqual({"figures", "coupling", "runs", "predictions"}, set(answer))
        memory = answer["figures"]["memory"]
        self.assertLess(memory["high"] / memory["low"], 1.5)
        self.assertEqual(3, len(answer["runs"]))
        self.assertGreater(answer["predictions"][0]["frames"]["low"], 100)
        json.dumps(answer)
