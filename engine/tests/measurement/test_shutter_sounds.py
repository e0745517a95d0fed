"""Shutter sounds: strokes in noise, in every kind of file, and what is no burst at all."""

import io
import unittest

import av
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from engine.burst.scenario import File, LoadedSlot, Scenario
from engine.burst.simulate import simulate
from engine.measurement.shutter_sounds import LONGEST_S, NothingHeard, hear
from engine.measurement.sound_files import NoSound, read_sound
from engine.measurement.strokes import counted
from engine.measurement.synthetic_camera import (
    LEAD_S,
    SAMPLE_RATE_HZ,
    shutter_sound,
    strokes_s,
)

BURST = simulate(Scenario(
    frame_rate_fps=20, hold_s=5, memory_mb=600, files=(File(name="raw", mb=25),),
    slots=(LoadedSlot(write_mb_s=150),),
))  # fmt: skip
TIMES = np.arange(40) / 20
CODECS = {
    "wav": "pcm_s16le", "flac": "flac", "ogg": "libopus", "mp3": "libmp3lame", "webm": "libopus",
}  # fmt: skip


def recorded(samples: np.ndarray, kind: str, rate_hz: int = SAMPLE_RATE_HZ) -> bytes:
    """A file of that kind."""
    file = io.BytesIO()
    with av.open(file, "w", format=kind) as container:
        stream = container.add_stream(CODECS[kind], rate=rate_hz, layout="mono")
        frame = av.AudioFrame.from_ndarray(samples[None, :], format="flt", layout="mono")
        frame.rate = rate_hz
        to_codec = av.AudioResampler(format=stream.format, layout="mono", rate=rate_hz)
        for each in to_codec.resample(frame):
            container.mux(stream.encode(each))
        container.mux(stream.encode())
    return file.getvalue()


class Sounds(unittest.TestCase):
    def test_every_stroke_is_heard_in_a_noisy_hide(self) -> None:
        for fps in (10, 20, 30, 40):
            for snr_db in (20, 10, 3):
                times = np.arange(4 * fps) / fps
                heard = hear([shutter_sound(times, seed=fps, snr_db=snr_db)], SAMPLE_RATE_HZ)
                with self.subTest(fps=fps, snr_db=snr_db):
                    self.assertEqual(len(times), len(heard.strokes_s))
                    errors = np.array(heard.strokes_s) - LEAD_S - times
                    self.assertLess(np.ptp(errors), 0.004)

    def test_a_simulated_burst_comes_back_from_its_sound(self) -> None:
        heard = hear([shutter_sound(strokes_s(BURST), snr_db=10)], SAMPLE_RATE_HZ)
        strokes = counted(heard.strokes_s, 0.002)
        self.assertEqual(BURST.frames, strokes.frames)
        self.assertAlmostEqual(BURST.frames_at_full_speed, strokes.wall, delta=1)

    def test_silence_noise_and_a_chord_are_no_burst(self) -> None:
        moments = np.arange(5 * SAMPLE_RATE_HZ) / SAMPLE_RATE_HZ
        noise = np.random.default_rng(1).standard_normal(len(moments))
        chord = sum(np.sin(2 * np.pi * hz * moments) for hz in (440, 3_000, 4_500))
        for samples in (0 * noise, noise / 9, chord / 3, noise[:99], np.full(99_999, np.nan)):
            with self.assertRaises(NothingHeard):
                hear([samples], SAMPLE_RATE_HZ)

    @settings(max_examples=20, deadline=None)
    @given(st.lists(st.integers(1, 90_000), max_size=6), st.sampled_from((16_000, 44_100, 96_000)))
    def test_strokes_do_not_depend_on_the_pieces_or_the_samples_a_second(
        self, sizes: list[int], rate_hz: int
    ) -> None:
        samples = shutter_sound(TIMES, rate_hz=rate_hz)
        whole = hear([samples], rate_hz)
        pieces = np.split(samples, np.cumsum(sizes).clip(max=len(samples)))
        self.assertEqual(whole.strokes_s, hear(pieces, rate_hz).strokes_s)
        self.assertEqual(len(TIMES), len(whole.strokes_s))
        errors = np.array(whole.strokes_s) - LEAD_S - TIMES
        self.assertLess(np.ptp(errors), 0.004)

    def test_files_of_every_kind_give_the_same_strokes(self) -> None:
        samples = shutter_sound(TIMES)
        for kind in CODECS:
            with self.subTest(kind):
                sound = read_sound(recorded(samples, kind))
                heard = hear(sound.pieces, sound.rate_hz)
                self.assertEqual(len(TIMES), len(heard.strokes_s))
                self.assertLess(np.ptp(np.array(heard.strokes_s) - TIMES), 0.01)

    def test_what_is_no_sound_gets_a_sentence(self) -> None:
        wav, webm = (recorded(shutter_sound(TIMES), kind) for kind in ("wav", "webm"))
        for content, words in (
            (b"", "empty"),
            (b"MZ" * 500, "damaged"),
            (wav[:30], "damaged"),
            (b"\x1aE\xdf\xa3" + b"\0" * 400, "damaged"),
            (b"\0\0\0\x20ftypisom" + b"\xff" * 400, "damaged"),
            (b"#EXTM3U\nfile:///etc/passwd\n", "damaged"),
            (webm.replace(b"A_OPUS", b"A_NONE"), "no sound in the file"),
            (wav + b"\0" * 24_000_000, "24 MB"),
            (recorded(shutter_sound(TIMES), "wav", 400), "samples a second"),
        ):
            with self.subTest(words), self.assertRaisesRegex(NoSound, words):
                list(read_sound(content).pieces)

    @settings(max_examples=60, deadline=None)
    @given(st.sampled_from(sorted(CODECS)), st.data())
    def test_a_damaged_file_is_refused_or_heard_but_never_more(
        self, kind: str, data: st.DataObject
    ) -> None:
        content = bytearray(recorded(shutter_sound(TIMES[:9]), kind))
        for _ in range(data.draw(st.integers(1, 30))):
            content[data.draw(st.integers(0, len(content) - 1))] = data.draw(st.integers(0, 255))
        try:
            sound = read_sound(bytes(content))
            hear(sound.pieces, sound.rate_hz)
        except (NoSound, NothingHeard) as error:
            self.assertTrue(str(error).endswith("."))

    def test_a_recording_that_is_too_long_is_not_decoded_to_its_end(self) -> None:
        taken = []

        def endless():
            while True:
                taken.append(1)
                yield np.zeros(SAMPLE_RATE_HZ)

        with self.assertRaisesRegex(NothingHeard, "more than 300 s"):
            hear(endless(), SAMPLE_RATE_HZ)
        self.assertEqual(LONGEST_S + 1, len(taken))
