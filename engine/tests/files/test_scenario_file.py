"""The scenario file and its command line: what is refused, and in which words."""

import json
import subprocess
import sys
from typing import Any
from unittest import TestCase

import hypothesis

from engine import InvalidScenario
from engine.burst.simulate import simulate
from engine.figures.uncertainty import ESTIMATED, PRINTED, LogNormal
from engine.files.scenario_file import (
    range_values,
    read_scenario,
    read_with_sources,
    result_values,
    scenario_values,
)
from engine.tests.builders import scenario, scenarios
from engine.uncertainty.sources import SlotSources, Sources

MINIMAL = {
    "frame_rate_fps": 20,
    "hold_s": 6,
    "memory_mb": 1200,
    "files": [{"name": "raw", "mb": 50}],
    "slots": [{"write_mb_s": 230}],
}


def text(**changes: Any) -> str:
    return json.dumps(MINIMAL | changes)


def series(*holds: tuple[float, float], **changes: Any) -> str:
    """A scenario file with these presses and holds."""
    values = MINIMAL | changes
    del values["hold_s"]
    return json.dumps(values | {"series": [{"press_s": p, "hold_s": h} for p, h in holds]})


class Reading(TestCase):
    def test_keys_left_out_take_their_defaults(self) -> None:
        self.assertEqual(scenario(), read_scenario(text()))

    def test_each_fault_is_one_sentence_at_its_key(self) -> None:
        slot, file = MINIMAL["slots"][0], MINIMAL["files"][0]
        for given, key, fault in (
            ("{", "The scenario file", "not valid JSON"),
            ("[1]", "The scenario file", "one JSON object"),
            ("[" * 100_000, "The scenario file", "nested too deeply"),
            ('{"hold_s": NaN}', "The scenario file", "NaN is not a number"),
            ('{"hold_s": 1, "hold_s": 2}', "The scenario file", "given twice"),
            (text(holds=1), "holds", "not a key"),
            (text(slots=[slot | {"speed": 1}]), "slots[0].speed", "not a key"),
            (text(hold_s="6"), "hold_s", "must be a number"),
            (text(hold_s=True), "hold_s", "must be a number"),
            (text(hold_s=None), "hold_s", "must be a number"),
            (text(hold_s=3601), "hold_s", "0.001 to 3,600 s, got 3601"),
            (text(hold_s=10**400), "hold_s", "got inf"),
            (text(frame_rate_fps=0), "frame_rate_fps", "from 0.001"),
            (text(memory_mb=-1), "memory_mb", "got -1"),
            (text(memory_mb=49), "memory_mb", "hold one frame of 50 MB, got 49"),
            (text(held_mb=1300), "memory_mb", "one frame of 1300 MB"),
            (text(process_fps=0), "process_fps", "from 0.001"),
            (text(resume_free_frames=1.5), "resume_free_frames", "whole number"),
            (text(resume_free_frames=25), "resume_free_frames", "fit in the buffer"),
            (text(files=[]), "files", "1 or 2 files, got 0"),
            (text(files=[file | {"mb": 0}]), "files[0].mb", "from 0.001"),
            (text(files=[{"mb": 5}]), "files[0].name", "missing"),
            (text(files=[5]), "files[0]", "an object"),
            (text(files=5), "files", "a list"),
            (text(slots=[slot | {"free_mb": -1}]), "slots[0].free_mb", "from 0 "),
            (text(slots=[slot] * 3), "slots", "1 or 2 slots, got 3"),
            (text(slots=[]), "slots", "got 0"),
            (text(slots=[slot | {"cache_mb": 5}]), "slots[0].cache_write_mb_s", "with cache_mb"),
            (
                text(slots=[slot | {"slow_below_free_mb": 5}]),
                "slots[0].slow_below_free_mb",
                "free_mb",
            ),
            (
                text(slots=[slot | {"cache_mb": 5, "cache_write_mb_s": 200}]),
                "slots[0].cache_write_mb_s",
                "not be below write_mb_s, 230, got 200",
            ),
            (series(), "series", "at least one hold"),
            (series((0, 3), (2.9, 3)), "series[1].press_s", "before the finger is up"),
            (series((0, 3), (3, 3), (5.9, 3)), "series[2].press_s", "before the finger is up"),
            (series((5, 1), (1, 3)), "series", "presses in order"),
            (series((0, 0)), "series[0].hold_s", "from 0.001"),
            (series(*((number, 0.5) for number in range(1_001))), "series", "at most 1,000 holds"),
            (series((0, 3600), (3600, 3600), frame_rate_fps=1000), "series", "3,600,000 frames"),
            (text(series=[{"press_s": 0, "hold_s": 1}]), "hold_s", "not a key"),
            (text(slots=[slot, slot], arrangement="split"), "arrangement", "needs two files"),
            (text(arrangement="mirror"), "arrangement", "needs two slots"),
            (text(arrangement="both"), "arrangement", "must be one of single"),
            (text(coupling="loose"), "coupling", "must be one of parallel"),
            (text(sources=1), "sources", "an object"),
            (text(sources={"memory": 0.1}), "sources.memory", "not a key"),
            (text(sources={"memory_mb": "guessed"}), "sources.memory_mb", "one of measured_here"),
            (text(sources={"memory_mb": -1}), "sources.memory_mb", "from 0 to 2"),
            (text(sources={"coupling": 0.5}), "sources.coupling", "one of measured_here"),
            (
                text(slots=[slot | {"sources": {"write_mb_s": 9}}]),
                "slots[0].sources.write_mb_s",
                "from 0 to 2",
            ),
        ):
            with self.subTest(given[:60]):
                with self.assertRaises(InvalidScenario) as caught:
                    read_scenario(given)
                self.assertEqual([key], list(caught.exception.faults))
                self.assertIn(fault, caught.exception.faults[key])

    def test_faults_are_told_all_at_once(self) -> None:
        with self.assertRaises(InvalidScenario) as caught:
            read_scenario(text(hold_s=-1, files=[{"name": 1, "mb": 0}], slots=[{}]))
        self.assertEqual(
            {"hold_s", "files[0].name", "files[0].mb", "slots[0].write_mb_s"},
            set(caught.exception.faults),
        )


class Writing(TestCase):
    @hypothesis.given(scenarios(series=True))
    def test_a_scenario_written_reads_back_as_itself(self, burst) -> None:
        self.assertEqual(burst, read_scenario(json.dumps(scenario_values(burst))))

    def test_the_result_has_the_documented_keys(self) -> None:
        answer = result_values(simulate(scenario(hold_s=1.6)))
        self.assertEqual([0, 0.05], answer["holds"][0].pop("frame_times_s")[:2])
        self.assertEqual([0, 0.05], answer.pop("frame_times_s")[:2])
        self.assertEqual([[0, 50], [0.05, 100]], answer.pop("memory_mb")[:2])
        self.assertEqual(
            {
                "frames": 31, "frames_at_full_speed": 30, "full_speed_s": 1.5,
                "sustained_fps": 4.6, "clear_s": 5.139130455, "card_full_s": None,
                "card_full_slot": None, "overflow_s": None,
                "narrowest": "slot 1", "fills": ["slot 1"], "limits": ["slot 1"],
                "holds": [{"frames": 31, "frames_at_full_speed": 30, "clear_s": 5.139130455}],
            },
            answer,
        )  # fmt: skip

    def test_each_hold_of_a_series_has_its_own_figures(self) -> None:
        answer = result_values(simulate(read_scenario(series((5, 2), (9, 2), (30, 2)))))
        # At the second press 18 of 33 frames are written: room for 9, and 2 more on the way.
        self.assertEqual(
            [(33, 30, None), (18, 11, 5.086956555), (33, 30, 5.173913065)],
            [(h["frames"], h["frames_at_full_speed"], h["clear_s"]) for h in answer["holds"]],
        )
        self.assertEqual(4, answer["holds"][1]["frame_times_s"][0])
        self.assertEqual(sum(h["frames"] for h in answer["holds"]), answer["frames"])
        self.assertEqual(71, answer["frames_at_full_speed"])


class Ranges(TestCase):
    def test_a_word_or_a_number_tells_how_sure_each_key_is(self) -> None:
        slot = {"write_mb_s": 230, "slot_limit_mb_s": 250,
                "sources": {"write_mb_s": "estimated", "slot_limit_mb_s": 0.05}}  # fmt: skip
        told = {"memory_mb": "printed", "files": 0.1, "file_to_file": 0.08, "coupling": "estimated"}
        _, sources = read_with_sources(text(slots=[slot], sources=told))
        self.assertEqual(
            Sources(
                slots=(SlotSources(write_mb_s=ESTIMATED, slot_limit_mb_s=LogNormal(0.05)),),
                memory_mb=PRINTED,
                files=LogNormal(0.1),
                file_to_file=0.08,
                knows_coupling=False,
            ),
            sources,
        )

    def test_without_sources_everything_is_known(self) -> None:
        ranges = range_values(*read_with_sources(text()))
        self.assertEqual({"low": 51, "middle": 51, "high": 51}, ranges["frames"])
        self.assertEqual((1, None, None), tuple(
            ranges[key] for key in ("wall_share", "widest_input", "too_close_to_call")
        ))  # fmt: skip


class CommandLine(TestCase):
    def predict(self, given: bytes, file: str = "-") -> subprocess.CompletedProcess[bytes]:
        command = [sys.executable, "-m", "engine", "predict", file]
        return subprocess.run(command, input=given, capture_output=True, check=False)

    def test_good_input_gives_json_and_0(self) -> None:
        answer = self.predict(text().encode())
        self.assertEqual((0, b""), (answer.returncode, answer.stderr))
        self.assertEqual(51, json.loads(answer.stdout)["frames"])

    def test_ranges_are_added_when_asked_for(self) -> None:
        command = [sys.executable, "-m", "engine", "predict", "--ranges", "-"]
        given = text(sources={"memory_mb": "estimated"}).encode()
        answer = subprocess.run(command, input=given, capture_output=True, check=True)
        frames = json.loads(answer.stdout)["ranges"]["frames"]
        self.assertTrue(frames["low"] < 51 < frames["high"], frames)

    def test_bad_input_gives_sentences_and_2(self) -> None:
        for given, file, sentence in (
            (text(hold_s=0).encode(), "-", b"hold_s must be from 0.001 to 3,600 s, got 0."),
            (b"\xff", "-", b"not text in UTF-8."),
            (b" " * 1_000_001, "-", b"The file must not be larger than 1,000,000 bytes."),
            (b"", "no such file", b"can't be read: No such file or directory."),
        ):
            with self.subTest(sentence):
                answer = self.predict(given, file)
                self.assertEqual((2, b""), (answer.returncode, answer.stdout))
                self.assertIn(sentence, answer.stderr)
                self.assertEqual(1, answer.stderr.count(b"\n"))
