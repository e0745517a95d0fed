"""Bodies from six answers: a claim solved backwards is met, and ranges hold what is true."""

import math
import re
import unittest
from dataclasses import replace
from random import Random

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from engine.burst.scenario import File, LoadedSlot, Scenario
from engine.burst.simulate import simulate
from engine.cards.standards import CEILING_MB_S, Bus
from engine.estimates.body import Answers, BodyEstimate, estimated, write_ends
from engine.estimates.file_sizes import FILES_OF_FORMAT, FormatKind, KnownSize
from engine.estimates.memory import Claim, Contradiction, Frame, solved
from engine.figures.figure import Figure
from engine.figures.uncertainty import PRINTED, LogNormal, LogUniform
from engine.uncertainty.intervals import confidence
from engine.uncertainty.sources import SlotSources, Sources

RAW = FormatKind.LOSSLESS_RAW
CARD = Figure(100.0, LogNormal(0.5))


def answers(**changes: object) -> Answers:
    usual = {"frame_rates_fps": (20.0,), "megapixels": 24.0, "buses": (Bus.UHS_II,)}
    return Answers(**usual | changes)  # type: ignore[arg-type]


def scenario(body: BodyEstimate, frame_rate_fps: float, hold_s: float, card: Figure) -> Scenario:
    """A hold in lossless RAW on one card."""
    recording, cap = body.format(RAW), body.slots[0]
    return Scenario(
        frame_rate_fps=frame_rate_fps, hold_s=hold_s, memory_mb=body.memory.value,
        files=(File(name="raw", mb=recording.files[0].value),), held_mb=recording.held.value,
        slots=(LoadedSlot(write_mb_s=card.value, slot_limit_mb_s=cap.value,
                    bus_mb_s=CEILING_MB_S[body.buses[0]]),),
    )  # fmt: skip


def sources(body: BodyEstimate, card: Figure) -> Sources:
    """How sure the figures of such a hold are."""
    recording = body.format(RAW)
    limit = body.slots[0].uncertainty
    return Sources(
        slots=(SlotSources(write_mb_s=card.uncertainty, slot_limit_mb_s=limit),),
        frame_rate_fps=PRINTED,
        held_mb=recording.held.uncertainty,
        files=recording.files[0].uncertainty,
        file_to_file=FILES_OF_FORMAT[RAW][0].variation,
        memory_mb=body.memory.uncertainty,
    )


class Claims(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        st.floats(200, 8_000), st.floats(5, 60), st.floats(1, 2), st.floats(3, 60),
        st.floats(20, 2_000),
    )  # fmt: skip
    def test_memory_solved_from_a_true_claim_holds_the_true_one(
        self, memory_mb: float, file_mb: float, held: float, fps: float, write_mb_s: float
    ) -> None:
        frame = Frame(file_mb, file_mb * held)
        if frame.mb > memory_mb:
            return
        burst = simulate(Scenario(
            frame_rate_fps=fps, hold_s=60, memory_mb=memory_mb, held_mb=frame.held_mb,
            files=(File(name="raw", mb=file_mb),), slots=(LoadedSlot(write_mb_s=write_mb_s),),
        ))  # fmt: skip
        depth = burst.frames_at_full_speed
        if depth is None or depth >= 1_000:
            return
        claim = Claim(frames=depth, kind=RAW, frame_rate_fps=fps,
                      write_mb_s=(write_mb_s, write_mb_s * (1 + 1e-9)))  # fmt: skip
        try:
            found = solved(claim, frame, (0, 0)).memory
        except Contradiction:
            seconds = memory_mb / frame.mb / fps
            self.assertFalse(0.5 < seconds < 10, "a body of usual size is no contradiction")
            return
        self.assertAlmostEqual(memory_mb, found.value, delta=frame.mb)

    @settings(max_examples=60, deadline=None)
    @given(st.integers(40, 900), st.floats(5, 60), st.floats(10, 60), st.floats(0.3, 0.7))
    def test_any_number_of_frames_is_solved_on_a_card_slower_than_the_camera(
        self, frames: int, fps: float, file_mb: float, share: float
    ) -> None:
        assume(0.5 < frames * (1 - share) / fps < 10)
        write_mb_s = file_mb * fps * share
        claim = Claim(frames=frames, kind=RAW, frame_rate_fps=fps,
                      write_mb_s=(write_mb_s, write_mb_s * 1.001))  # fmt: skip
        memory_mb = solved(claim, Frame(file_mb, file_mb), (0, 0)).memory.value
        self.assertAlmostEqual(frames * (1 - share), memory_mb / file_mb, delta=1 + frames / 10)

    def test_memory_solved_from_claims_is_neither_too_large_nor_too_small_on_the_whole(
        self,
    ) -> None:
        random, frame, off = Random(5), Frame(30, 30), []
        for _ in range(120):
            memory_mb, write_mb_s = random.uniform(600, 3_000), random.uniform(100, 400)
            burst = simulate(Scenario(
                frame_rate_fps=20, hold_s=60, memory_mb=memory_mb,
                files=(File(name="raw", mb=30),), slots=(LoadedSlot(write_mb_s=write_mb_s),),
            ))  # fmt: skip
            claim = Claim(frames=burst.frames_at_full_speed, kind=RAW, frame_rate_fps=20,
                          write_mb_s=(write_mb_s, write_mb_s * (1 + 1e-9)))  # fmt: skip
            off.append((solved(claim, frame, (0, 0)).memory.value - memory_mb) / frame.mb)
        self.assertAlmostEqual(0, sum(off) / len(off), delta=0.1)

    def test_a_claim_is_a_burst_with_a_card_and_not_memory_over_the_size_of_a_frame(self) -> None:
        claim = Claim(frames=85, kind=RAW, frame_rate_fps=20)
        body = estimated(answers(claim=claim))
        self.assertLess(body.memory.value, 0.6 * 85 * body.formats[0].frame.mb)
        self.assertEqual((), body.contradictions)

    @settings(max_examples=60, deadline=None)
    @given(
        st.integers(20, 400), st.sampled_from((8, 12, 20, 30)), st.sampled_from((20, 24, 45, 60)),
        st.sampled_from([(Bus.UHS_II,), (Bus.PCIE_3_X2,), (Bus.PCIE_4_X2,)]),
        st.sampled_from((RAW, FormatKind.JPEG_FINE)),
    )  # fmt: skip
    def test_a_body_comes_to_what_its_maker_claims_or_the_contradiction_is_told(
        self, frames: int, fps: float, megapixels: float, buses: tuple[Bus, ...], kind: FormatKind
    ) -> None:
        claim = Claim(frames=frames, kind=kind, frame_rate_fps=fps)
        body = estimated(answers(frame_rates_fps=(fps,), megapixels=megapixels, buses=buses,
                                 formats=(kind,), claim=claim, known=None))  # fmt: skip
        if body.solved is None:
            self.assertTrue(body.contradictions)
            return
        recording = body.format(kind)
        burst = simulate(Scenario(
            frame_rate_fps=fps, hold_s=60, memory_mb=body.memory.value,
            held_mb=recording.held.value,
            files=(File(name="any", mb=recording.frame.files_mb),),
            slots=(LoadedSlot(write_mb_s=body.slots[0].value),),
        ))  # fmt: skip
        depth = burst.frames_at_full_speed
        # A slot nearly as fast as the camera is beyond what claims tell: a hair more, and no wall.
        near = body.slots[0].value > 0.9 * recording.frame.files_mb * fps
        self.assertTrue(near or (depth and abs(depth - frames) <= 2 + 0.15 * frames), depth)

    def test_what_contradicts_the_other_answers_is_told_with_what_would_fit(self) -> None:
        for changes, sentence in (
            ({"frames": 900}, "It fits frames of"),
            ({"frames": 3}, "It fits larger files, or"),
            ({"frames": 5_000}, "until the card is full"),
            ({"frames": 85, "write_mb_s": (900, 1_000)}, "would never fill"),
        ):
            claim = replace(Claim(frames=1, kind=RAW, frame_rate_fps=20), **changes)
            with self.subTest(sentence):
                told = estimated(answers(claim=claim)).contradictions
                self.assertEqual(1, len(told))
                self.assertIn(sentence, told[0])

    def test_the_frame_rate_that_is_said_to_fit_does(self) -> None:
        claim = Claim(frames=3, kind=RAW, frame_rate_fps=20, write_mb_s=(100.0, 150.0))
        with self.assertRaises(Contradiction) as caught:
            solved(claim, Frame(30, 30), (0, 0))
        (fps,) = map(float, re.findall(r"larger files, or (\d+)", str(caught.exception)))
        solved(replace(claim, frame_rate_fps=fps), Frame(30, 30), (0, 0))

    def test_the_frames_that_are_said_to_fit_do_and_no_larger_ones(self) -> None:
        claim, ends = Claim(frames=900, kind=RAW, frame_rate_fps=20), (78.0, 296.0)
        with self.assertRaises(Contradiction) as caught:
            solved(claim, Frame(30, 45), ends)
        (mb,) = map(float, re.findall(r"fits frames of (\d+)", str(caught.exception)))
        solved(claim, Frame(0.97 * mb / 1.5, 0.97 * mb), ends)
        with self.assertRaises(Contradiction):
            solved(claim, Frame(1.05 * mb / 1.5, 1.05 * mb), ends)

    def test_a_claim_on_a_bus_that_would_never_fill_says_that_the_slot_is_slower(self) -> None:
        claim = Claim(frames=85, kind=RAW, frame_rate_fps=20)
        body = estimated(answers(megapixels=45, buses=(Bus.PCIE_3_X2,), claim=claim))
        self.assertEqual((), body.contradictions)
        self.assertLess(body.slots[0].value, 0.4 * CEILING_MB_S[Bus.PCIE_3_X2])


class Sizes(unittest.TestCase):
    def test_a_size_that_is_known_counts_and_the_others_follow_from_it(self) -> None:
        body = estimated(answers(megapixels=None, known=KnownSize(RAW, 50.0),
                                 formats=(RAW, FormatKind.JPEG_FINE)))  # fmt: skip
        raw, jpeg = (one.files[0] for one in body.formats)
        self.assertEqual(50, raw.value)
        self.assertAlmostEqual(50 / (0.62 * 14 / 8) * 0.42, jpeg.value)
        self.assertGreater(jpeg.uncertainty.spread, raw.uncertainty.spread)

    def test_a_size_that_no_such_sensor_has_is_doubted(self) -> None:
        odd = estimated(answers(known=KnownSize(RAW, 250.0)))
        self.assertIn("one of the two may be wrong", odd.contradictions[0])

    def test_little_is_needed_and_each_answer_makes_it_surer(self) -> None:
        bare = answers(megapixels=None, buses=())
        card = CARD
        widths = []
        for known in (bare, replace(bare, megapixels=24.0), answers(
                claim=Claim(frames=60, kind=RAW, frame_rate_fps=20))):  # fmt: skip
            body = estimated(known)
            depth = confidence(scenario(body, 20, 20, card), sources(body, card))
            frames = depth.frames_at_full_speed
            widths.append(math.log((frames.high or 400) / (frames.low or 1)))
        self.assertEqual(widths, sorted(widths, reverse=True))


class StartingPoints(unittest.TestCase):
    """The table of docs/model.md, for 24 megapixels at 20 fps."""

    def test_sizes_and_how_far_off_they_may_be(self) -> None:
        body, packed_mb = estimated(answers(formats=tuple(FormatKind))), 24 * 14 / 8
        file_of = {one.kind: one.files[0] for one in body.formats}
        for kind, mb, ratio in (
            (FormatKind.UNCOMPRESSED_RAW, packed_mb + 1, 1.15),
            (RAW, 0.62 * packed_mb, 1.26),
            (FormatKind.LOSSY_RAW, 0.50 * packed_mb, 1.41),
            (FormatKind.COMPACT_RAW, 0.40 * packed_mb, 1.44),
            (FormatKind.JPEG_FINE, 0.42 * 24, 1.68),
            (FormatKind.JPEG_NORMAL, 0.21 * 24, 1.68),
            (FormatKind.HEIF, 0.27 * 24, 1.68),
        ):
            with self.subTest(kind):
                self.assertAlmostEqual(mb, file_of[kind].value)
                self.assertAlmostEqual(ratio, file_of[kind].uncertainty.ends[1])
        for one in body.formats:
            of_jpeg, ratio = (1, 1.36) if one.kind.is_raw else (0.71, 1.586)
            self.assertAlmostEqual(24 * 1.8 * of_jpeg, one.held.value)
            self.assertAlmostEqual(ratio, one.held.uncertainty.ends[1], places=2)
        given = estimated(answers(known=KnownSize(RAW, 26.0))).formats[0].files[0]
        self.assertAlmostEqual(1.1, given.uncertainty.ends[1])

    def test_memory_and_slot_where_nothing_tells_of_them(self) -> None:
        body, ceiling_mb_s = estimated(answers()), CEILING_MB_S[Bus.UHS_II]
        self.assertAlmostEqual(24 * 1.8 * 20 * math.sqrt(0.8 * 6), body.memory.value)
        self.assertAlmostEqual(2.5, body.memory.uncertainty.ends[1])
        slot = body.slots[0]
        np.testing.assert_allclose(
            (0.2, 0.55, 0.95), np.array([slot.low, slot.middle, slot.high]) / ceiling_mb_s
        )


class Coverage(unittest.TestCase):
    def test_true_bodies_lie_in_the_range_of_their_claim_four_times_in_five_or_more(self) -> None:
        """Bodies as the starting points of docs/model.md have them, and a claim with some card."""
        random, inside, counted = Random(3), 0, 0
        while counted < 100:
            bus = random.choice((Bus.UHS_II, Bus.PCIE_3_X1, Bus.XQD_1))
            megapixels, fps = random.uniform(18, 50), random.uniform(8, 30)
            file_mb = megapixels * 1.085 * math.exp(random.gauss(0, 0.174))
            held_mb = max(file_mb, megapixels * 1.8 * math.exp(random.gauss(0, 0.24)))
            slot = LoadedSlot(write_mb_s=_any_write(bus, random))
            true = Scenario(
                frame_rate_fps=fps * math.exp(random.gauss(0, 0.1)), hold_s=40, held_mb=held_mb,
                memory_mb=held_mb * fps * random.uniform(0.8, 6),
                files=(File(name="raw", mb=file_mb),), slots=(slot,),
            )  # fmt: skip
            depth = simulate(true).frames_at_full_speed
            if depth is None:
                continue
            claim = Claim(frames=depth, kind=RAW, frame_rate_fps=fps)
            body = estimated(answers(frame_rates_fps=(fps,), megapixels=megapixels, buses=(bus,),
                                     claim=claim))  # fmt: skip
            mine = replace(slot, write_mb_s=_any_write(bus, random))
            low_mb_s, high_mb_s = write_ends(bus)
            card = Figure(
                math.sqrt(low_mb_s * high_mb_s), LogUniform(low_mb_s, high_mb_s).around_middle
            )
            ranges = confidence(scenario(body, fps, 40, card), sources(body, card))
            true_depth = simulate(
                replace(true, slots=(replace(mine, slot_limit_mb_s=slot.write_mb_s),))
            ).frames_at_full_speed
            low = ranges.frames_at_full_speed.low or math.inf
            high = ranges.frames_at_full_speed.high or math.inf
            inside += low <= (true_depth or math.inf) <= high
            counted += 1
        self.assertGreater(inside / counted, 0.76)


def _any_write(bus: Bus, random: Random) -> float:
    """A speed anywhere between the ends, evenly on a scale of ratios."""
    low_mb_s, high_mb_s = write_ends(bus)
    return low_mb_s * (high_mb_s / low_mb_s) ** random.random()
