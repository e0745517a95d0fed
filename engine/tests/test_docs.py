"""What the docs say is true: the examples of formats.md, and the numbers of model.md."""

import json
import re
from pathlib import Path
from unittest import TestCase

from engine.burst import bottleneck, file_size
from engine.burst.scenario import File, Hold, LoadedSlot, Scenario
from engine.burst.simulate import simulate
from engine.estimates import body, encoder, frame_rate, memory, write_speed
from engine.figures.uncertainty import OF_SOURCE, Skewed
from engine.files.day_file import planned_values, read_day_file
from engine.files.learn_file import learnt_values, read_learn_file
from engine.files.replay_file import read_replay_file, replayed_values
from engine.files.scenario_file import read_scenario, result_values
from engine.quantities import HIGH, LOW, NOTICED_SHARE, ranges_of
from engine.selection import options
from engine.uncertainty import intervals, model_error, sensitivity, what_if
from engine.uncertainty.sources import ODDS_OF_COUPLING

DOCS = Path(__file__).parents[2] / "docs"
FORMATS = DOCS / "formats.md"


class Formats(TestCase):
    def test_the_scenario_shown_gives_the_result_shown(self) -> None:
        given, shown = re.findall(
            r"```json\n(.*?)```", FORMATS.read_text(encoding="utf-8"), re.DOTALL
        )
        answer = result_values(simulate(read_scenario(given)))
        self.assertEqual(json.loads(shown), answer | {"memory_mb": []})

    def test_every_range_of_a_scenario_stands_beside_its_key(self) -> None:
        rows = FORMATS.read_text(encoding="utf-8").splitlines()
        for kind in (Scenario, LoadedSlot, File, Hold):
            for name, allowed in ranges_of(kind).items():
                ends = f"{allowed.lowest:,} to {allowed.highest:,}"
                with self.subTest(key=name):
                    self.assertTrue(any(f"`{name}`" in row and ends in row for row in rows), ends)

    def test_the_learn_file_shown_is_one_and_is_answered(self) -> None:
        (given,) = re.findall(r"```learn\n(.*?)```", FORMATS.read_text(encoding="utf-8"), re.DOTALL)
        answer = learnt_values(read_learn_file(given))
        parts = {"figures", "effective_bodies", "error_ratio", "coupling", "runs", "predictions"}
        self.assertEqual(parts, set(answer))
        memory = answer["figures"]["memory"]
        before = memory["before"]
        self.assertLess(memory["high"] / memory["low"], before["high"] / before["low"] / 2)
        self.assertEqual(3, len(answer["runs"]))
        self.assertGreater(answer["predictions"][0]["frames"]["low"], 100)
        json.dumps(answer)

    def test_the_replay_file_shown_is_one_and_is_answered(self) -> None:
        (given,) = re.findall(
            r"```replay\n(.*?)```", FORMATS.read_text(encoding="utf-8"), re.DOTALL
        )
        answer = replayed_values(read_replay_file(given))
        self.assertEqual([(9, 7), (1, None)], [
            (burst["frames"], burst["frames_at_full_speed"]) for burst in answer["bursts"]
        ])  # fmt: skip
        missed = {name: day["missed"] for name, day in answer["set_ups"].items()}
        self.assertEqual({"as it was": 5, "lossy RAW": 0}, missed)
        json.dumps(answer)

    def test_the_day_file_shown_is_one_and_is_answered(self) -> None:
        (given,) = re.findall(r"```day\n(.*?)```", FORMATS.read_text(encoding="utf-8"), re.DOTALL)
        answer = planned_values(read_day_file(given))
        first, noon, last = answer["periods"]
        self.assertGreater(first["missed"]["middle"], last["missed"]["low"])
        self.assertEqual((0, 1), (noon["frames"]["high"], noon["ready_share"]))
        self.assertEqual([135], [one["swap_min"][0] for one in answer["slots"]])
        (copying,) = answer["copyings"]
        self.assertGreater(copying["in_time_share"], 0.9)
        json.dumps(answer)


def _range(uncertainty: Skewed) -> str:
    """Middle and ends as the tables have them."""
    low, high = (f"{end:.2g}" for end in uncertainty.ends)
    return f"{uncertainty.middle:g} ({low} to {high})"


class Model(TestCase):
    def test_the_numbers_of_the_model_are_those_of_the_code(self) -> None:
        text = " ".join((DOCS / "model.md").read_text(encoding="utf-8").split())
        percent = {source: f"{uncertainty.spread:.0%}" for source, uncertainty in OF_SOURCE.items()}
        percent = {source: words.replace("%", " %") for source, words in percent.items()}
        in_tenths = {name: round(10 * odds) for name, odds in ODDS_OF_COUPLING.items()}
        smoothed = (file_size.SMOOTHED_FROM_ISO, file_size.SMOOTHED_TO_ISO)
        shortest_s, longest_s = memory.PLAUSIBLE_S
        least_s, most_s = memory.USUAL_S
        for sentence in (
            f"a standard deviation of {percent['measured_here']} where it was measured in this "
            f"body, {percent['measured_elsewhere']} in another one, {percent['printed']} where it "
            f"is printed, {percent['estimated']} where it is estimated",
            f"independent {ODDS_OF_COUPLING['parallel']}, at the slower's pace "
            f"{ODDS_OF_COUPLING['slowest']}, in turn {ODDS_OF_COUPLING['serial']}",
            f"shot {intervals.DRAWS[0]:,} times",
            f"when it is long, {intervals.DRAWS[-1]} at least",
            f"made {bottleneck.BETTER - 1:.0%} better".replace("%", " %"),
            f"where {100 * sensitivity.SHARE:g} % in write time or file size either way move the "
            f"burst depth by a factor {sensitivity.FACTOR} or more",
            f"stated for ISO {file_size.BASE_ISO} and a mixed scene",
            f"From ISO {smoothed[0]} to {smoothed[1]} a JPEG does not grow",
            f"{least_s} to {most_s:g} s of full speed, at the geometric mean of its rates "
            f"| {memory.USUAL_RATIO:g}",
            f"what the cards leave open, {memory.CLAIM_RATIO} at least",
            f"down to {memory.SLOWEST} of that",
            "from {} to {} of the bus".format(*body.OF_MAKERS_CARD),
            f"of any card's own speed | {_range(write_speed.SLOT_SHARE)}",
            f"of its bus | {_range(write_speed.SLOT_CEILING)}",
            f"the slot's share in it | {_range(write_speed.KEPT_OF_WRITE)}",
            f"printed as sustained | likewise | {_range(write_speed.KEPT_OF_SUSTAINED)}",
            f"printed for reading | likewise | {_range(write_speed.KEPT_OF_READ)}",
            f"of what the class is made for | {_range(write_speed.KEPT_OF_CLASS)}",
            f"of the printed one | {_range(frame_rate.PRINTED_RATE)}",
            f"slower than it in one of six | {_range(encoder.OF_FULL_RATE)}",
            f"spread {model_error.OF_PACE.spread:g}; {_range(model_error.OF_PACE_OF_TWO)}; "
            f"{model_error.OF_BUFFER.spread:g}",
            f"What was measured in this body keeps {model_error.OF_PACE_TESTED.spread:g} of that",
            f"Tukey's h of {write_speed.TAIL} and {write_speed.SLOT_SHARE.tail}",
            f"a buffer under {shortest_s:g} s or above {longest_s:g} s of shooting",
            f"Draws: {options.DRAWS}, and as many as the Desk takes where a share is within "
            f"{100 * options.REDRAWN_WITHIN:g} in 100",
        ):
            with self.subTest(sentence):
                self.assertIn(sentence, text)
        # What the text says in words.
        self.assertEqual({"parallel": 5, "slowest": 3, "serial": 2}, in_tenths)
        self.assertEqual((1_000, 9), (memory.UNTIL_FULL, memory.CARDS_TRIED))
        self.assertEqual((0.8, 0.8, 0.1), (HIGH - LOW, what_if.IN_MOST, NOTICED_SHARE))
        self.assertEqual(0.5, file_size.RULE_SPREAD)
