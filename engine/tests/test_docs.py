"""The examples in docs/formats.md are true."""

import json
import re
from pathlib import Path
from unittest import TestCase

from engine.burst.simulate import simulate
from engine.scenario_file import read_scenario, result_values

FORMATS = Path(__file__).parents[2] / "docs" / "formats.md"


class Formats(TestCase):
    def test_the_scenario_shown_gives_the_result_shown(self) -> None:
        given, shown = re.findall(
            r"```json\n(.*?)```", FORMATS.read_text(encoding="utf-8"), re.DOTALL
        )
        answer = result_values(simulate(read_scenario(given)))
        self.assertEqual(json.loads(shown), answer | {"memory_mb": []})
