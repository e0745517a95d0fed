"""A made-up camera for trying the test bench: what a real one would write, sound and show.

It gives files with capture times and true sizes, and the sound of its shutter in a noisy hide, for
a burst that was simulated. Everything follows from a seed.
"""

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy.io import wavfile

from engine.burst.result import Result
from engine.measurement.capture_times import Picture, seconds_of
from engine.quantities import BYTES_IN_MB, NS_IN_S

Samples = NDArray[np.float32]
Moments = Sequence[float] | NDArray[np.float64]

MAKER, NAME = "Skerry", "Stand-in 1"
FIRST_MOMENT = datetime(2026, 5, 1, 6, 30)  # cameras write no zone
SAMPLE_RATE_HZ = 48_000
BYTES_OF_SAMPLE = 2
PIECE_S = 5
WIND = 64  # samples that it is averaged over, which leaves low tones
CLICK_S, ECHO_S, ECHO_RATIO = 0.006, 0.019, 0.3
CLICK_HZ = (3_200.0, 5_100.0)
LEAD_S, TAIL_S = 0.5, 1.0  # of silence before and after
MAKE, MODEL, TAKEN, SUBSECONDS = 0x010F, 0x0110, 0x9003, 0x9291
EXIF_PART = 0x8769


@dataclass(frozen=True)
class Shot:
    """One file that the camera writes: its name, when it was taken, and its size."""

    name: str
    moment: datetime
    size_bytes: int

    def picture(self, decimals: int = 2) -> Picture:
        """What reading the file tells."""
        digits = f"{self.moment.microsecond:06d}"[:decimals]
        return Picture(
            name=self.name,
            mb=self.size_bytes / BYTES_IN_MB,
            taken_s=seconds_of(self.moment.replace(microsecond=0), digits),
            decimals=decimals,
            body=f"{MAKER} {NAME}",
        )


def shots(result: Result, seed: int = 0, *, spread: float = 0.06, first: int = 1) -> Iterator[Shot]:
    """A file for each frame of a burst.

    Sizes differ from frame to frame by `spread`, the standard deviation of their logarithm.
    """
    random = np.random.default_rng(seed)
    mb = sum(file.mb for file in result.scenario.files)
    for number, taken_ns in enumerate(result.taken_ns, first):
        moment = FIRST_MOMENT + timedelta(microseconds=round(int(taken_ns) / 1_000))
        size_bytes = round(mb * BYTES_IN_MB * float(np.exp(spread * random.standard_normal())))
        yield Shot(f"SKR_{number:04d}.JPG", moment, size_bytes)


def picture_files(result: Result, seed: int = 0, **options: Any) -> Iterator[tuple[str, bytes]]:
    """Name and content of a JPEG for each of the `shots`, as large as the camera would write it."""
    for shot in shots(result, seed, **options):
        yield shot.name, jpeg_of(shot.moment, shot.size_bytes)


def jpeg_of(moment: datetime, size_bytes: int, decimals: int = 2) -> bytes:
    """A small picture with its moment in EXIF, filled up with zeros behind its end."""
    exif = Image.Exif()
    exif[MAKE], exif[MODEL] = MAKER, NAME
    part = exif.get_ifd(EXIF_PART)
    part[TAKEN] = moment.strftime("%Y:%m:%d %H:%M:%S")
    if decimals:
        part[SUBSECONDS] = f"{moment.microsecond:06d}"[:decimals]
    file = io.BytesIO()
    Image.new("RGB", (16, 12), (90, 120, 110)).save(file, "JPEG", exif=exif)
    return file.getvalue().ljust(size_bytes, b"\0")


def shutter_sound(times_s: Moments, seed: int = 0, **how: Any) -> Samples:
    """All `shutter_pieces` as one sound."""
    return np.concatenate(list(shutter_pieces(times_s, seed, **how)))


def shutter_pieces(
    times_s: Moments, seed: int = 0, *, snr_db: float = 15.0, rate_hz: int = SAMPLE_RATE_HZ
) -> Iterator[Samples]:
    """The shutter at `times_s`, with an echo, over noise; mono samples between -1 and 1.

    `snr_db` is the power of a full click to that of the noise of leaves, which has all frequencies;
    wind comes on top, at low ones. Clicks differ in loudness. It comes in pieces, so that a long
    sound takes no more memory than a short one.
    """
    random = np.random.default_rng(seed)
    click = _click(rate_hz)
    noise = np.sqrt((click**2).mean() / 10 ** (snr_db / 10))
    moments_s = LEAD_S + np.asarray(times_s, dtype=np.float64)
    starts = np.rint(np.concatenate([moments_s, moments_s + ECHO_S]) * rate_hz).astype(np.int64)
    ratios = np.repeat([1.0, ECHO_RATIO], len(moments_s)) * random.uniform(0.75, 1, len(starts))
    length, piece = _length(times_s, rate_hz), PIECE_S * rate_hz
    gusts = np.zeros(WIND)
    for begin in range(0, length, piece):
        count = min(piece, length - begin)
        samples = np.zeros(len(click) + count + len(click))
        place = begin - len(click)  # of the first sample: a click may have begun before the piece
        for here in np.flatnonzero((starts >= place) & (starts < begin + count)):
            samples[starts[here] - place :][: len(click)] += click * ratios[here]
        samples = samples[len(click) :][:count]
        gusts = np.concatenate([gusts[-WIND:], random.standard_normal(count)])
        wind = np.convolve(gusts, np.ones(WIND) / np.sqrt(WIND), mode="valid")[1:]
        samples += (random.standard_normal(count) + 2 * wind) * noise
        yield np.asarray(samples.clip(-1, 1), dtype=np.float32)


def shutter_wav(times_s: Moments, seed: int = 0, **how: Any) -> bytes:
    """The `shutter_sound` as a WAV file of 16 bits."""
    return b"".join(wav_pieces(times_s, seed, **how))


def wav_pieces(times_s: Moments, seed: int = 0, **how: Any) -> Iterator[bytes]:
    """The same file in pieces."""
    header = io.BytesIO()
    wavfile.write(header, SAMPLE_RATE_HZ, np.zeros(0, dtype=np.int16))
    sound_bytes = BYTES_OF_SAMPLE * _length(times_s, SAMPLE_RATE_HZ)
    begin = bytearray(header.getvalue())
    begin[4:8] = (len(begin) - 8 + sound_bytes).to_bytes(4, "little")  # after "RIFF"
    begin[-4:] = sound_bytes.to_bytes(4, "little")  # after "data"
    yield bytes(begin)
    for piece in shutter_pieces(times_s, seed, **how):
        yield np.rint(0x7FFF * piece).astype("<i2").tobytes()


def _length(times_s: Moments, rate_hz: int) -> int:
    return round((LEAD_S + float(max(times_s, default=0)) + TAIL_S) * rate_hz)


def strokes_s(result: Result) -> NDArray[np.float64]:
    """The moments of a burst's frames in seconds."""
    return np.asarray(result.taken_ns / NS_IN_S)


def _click(rate_hz: int) -> NDArray[np.float64]:
    moments = np.arange(round(CLICK_S * rate_hz)) / rate_hz
    tones = sum(np.sin(2 * np.pi * hz * moments) for hz in CLICK_HZ)
    return np.asarray(tones / len(CLICK_HZ) * np.exp(-moments / (CLICK_S / 4)))
