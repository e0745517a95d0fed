"""The learn file: what is refused, and in which words."""

import json
import subprocess
import sys
from typing import Any
from unittest import TestCase

from engine.burst.scenario import File, LoadedSlot, Scenario
from engine.burst.simulate import simulate
from engine.estimates.side import AssumedCard, AssumedSlot
from engine.files.json_keys import InvalidFile
from engine.files.learn_file import learnt_values, read_learn_file

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
            (
                text(cards=[{"name": "A", "write_mb_s": 400, "sources": {"write_mb_s": 0.02}}]),
                "cards[0].write_mb_s",
                "what the bus carries, 312, got 400",
            ),
            (text(cards=[{"name": "A", "write_mb_s": 3_000}]), "cards[0]", "check its numbers"),
            (text(cards=[{"name": "A", "label": "512 GB W 1700 MB/s"}]), "cards[0]", "its label"),
        ):
            with self.subTest(key), self.assertRaises(InvalidFile) as caught:
                read_learn_file(given)
            self.assertIn(fault, caught.exception.faults.get(key, str(caught.exception.faults)))
            self.assertIn(key, caught.exception.faults)

    def test_a_card_is_known_by_its_words_its_speed_or_both(self) -> None:
        def card(**keys: Any) -> AssumedCard:
            return read_learn_file(text(cards=[{"name": "A", **keys}])).body.cards["A"]

        def mb_s(**keys: Any) -> float:
            figure = card(**keys).write_mb_s
            assert figure
            return figure.value

        label = "128 GB SDXC UHS-II V60"
        self.assertIsNone(card().write_mb_s)
        self.assertIsNone(card(label="no mark at all").write_mb_s)
        self.assertEqual(mb_s(label=f"{label} 250 MB/s W"), mb_s(label=label, write_mb_s=250))
        self.assertTrue(mb_s(label=label) < mb_s(label=label, write_mb_s=250) < 250)
        for measured in ("measured_here", 0.1):
            here = card(label=label, write_mb_s=90, sources={"write_mb_s": measured})
            self.assertEqual((90, True), (mb_s(label=label, write_mb_s=90,
                                               sources={"write_mb_s": measured}),
                                          here.has_share))  # fmt: skip
        for word in ("printed", "estimated", "measured_elsewhere"):
            self.assertFalse(card(write_mb_s=90, sources={"write_mb_s": word}).is_tested)

    def test_what_is_said_to_be_estimated_is_and_no_other_source_is_said_of_nothing(self) -> None:
        def slot(**keys: Any) -> AssumedSlot:
            body = BODY | {"slots": [{"bus_mb_s": 312, **keys}]}
            return read_learn_file(text(body=body)).body.slots[0]

        for nothing in (0, None):
            said = slot(overhead_s=nothing, sources={"overhead_s": "estimated"})
            self.assertIsNone(said.overhead_s)
        self.assertEqual(0, slot(overhead_s=0).overhead_s.value)
        with self.assertRaises(InvalidFile) as caught:
            slot(slot_limit_mb_s=None, sources={"slot_limit_mb_s": "measured_here"})
        fault = caught.exception.faults["body.slots[0].sources.slot_limit_mb_s"]
        self.assertIn("not there", fault)

    def test_two_formats_that_are_shot_at_once_have_sizes_too(self) -> None:
        both = {"name": "compact RAW + JPEG fine"}
        body = BODY | {"formats": [both], "megapixels": 24}
        run = RUN | {"format": both["name"]}
        (shot,) = read_learn_file(text(run, body=body)).runs
        self.assertEqual([16.8, 10.08], [round(file.mb, 2) for file in shot.scenario.files])

    def test_what_is_assumed_does_not_hang_on_how_many_rates_are_listed(self) -> None:
        def scenario(*rates: int) -> Scenario:
            body = BODY | {"rates": [{"fps": fps} for fps in rates]}
            return read_learn_file(text(body=body)).runs[0].scenario

        self.assertEqual(scenario(10), scenario(10, 20, 120))

    def test_the_command_exits_with_2_and_a_sentence_for_bad_input(self) -> None:
        ran = subprocess.run(
            [sys.executable, "-m", "engine", "learn", "-"], input=b'{"runs": 3}',
            capture_output=True, check=False,
        )  # fmt: skip
        self.assertEqual(2, ran.returncode)
        self.assertIn(b"body is missing.", ran.stderr)


class WhatDoesNotGoTogether(TestCase):
    """Odd input is learnt from, and told: a sentence, ranges with a width, and no NaN."""

    def runs(self, keeps_mb_s: float, memory_mb: float) -> list[dict[str, Any]]:
        """Four noiseless runs of a body with files of 30 MB that shoots 10 fps."""
        found = []
        for hold_s in (6.0, 8.0, 10.0, 12.0):
            shot = simulate(Scenario(
                frame_rate_fps=10, hold_s=hold_s, memory_mb=memory_mb,
                files=(File(name="raw", mb=30),), slots=(LoadedSlot(write_mb_s=keeps_mb_s),),
            ))  # fmt: skip
            depth = shot.frames_at_full_speed
            slowed = {"did_not_slow": True} if depth is None else {"frames_at_full_speed": depth}
            seen = {"hold_s": hold_s, "frames": shot.frames, "clear_s": shot.clear_s}
            found.append(RUN | seen | slowed)
        return found

    def told(self, runs: list[dict[str, Any]], **changes: Any) -> tuple[dict[str, str], list[str]]:
        """The surprising figures, and what is wrong with which run."""
        values = learnt_values(read_learn_file(text(*runs, **changes)))
        self.assertNotIn("NaN", json.dumps(values))
        for figure in values["figures"].values():
            self.assertLess(figure["low"], figure["high"])
        figures = values["figures"].items()
        surprising = {name: one["surprising"] for name, one in figures if "surprising" in one}
        return surprising, [one["because"] for one in values["runs"] if one["flagged"]]

    def test_a_label_that_the_runs_contradict_is_named(self) -> None:
        cards = [{"name": "A", "label": "128 GB SDXC II V90 W 280 MB/s"}]
        slow, _ = self.told(self.runs(4, 900), cards=cards)
        self.assertIn("a fake", slow["card A"])
        self.assertEqual(({}, []), self.told(self.runs(150, 900), cards=cards))

    def test_a_rate_that_is_ten_times_off_is_named(self) -> None:
        body = BODY | {"rates": [{"fps": 100}]}
        surprising, _ = self.told([one | {"fps": 100} for one in self.runs(300, 900)], body=body)
        self.assertIn("check the rate that was typed", surprising["rate 100"])

    def test_runs_of_two_bodies_mixed_are_told_as_contradicting(self) -> None:
        _, against = self.told(self.runs(60, 900)[:3] + self.runs(60, 4_000)[3:])
        self.assertEqual(1, len(against))
        self.assertIn("where the other runs let expect", against[0])
