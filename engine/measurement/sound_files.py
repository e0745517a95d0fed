"""Recordings as browsers and recorders make them, read in pieces: WAV, FLAC, OGG, MP3, WebM, MP4.

A file says what it likes of itself, so that nothing is taken on trust: the formats are told by
their first bytes, and no more is decoded at a time than a few seconds.
"""

import io
import re
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import chain

import av
import numpy as np
from av.audio.stream import AudioStream
from av.container import InputContainer
from numpy.typing import NDArray

from engine.quantities import Range

Samples = NDArray[np.float32]

RATE_HZ = Range(8_000, 192_000, "Hz")
PIECE_S = 5
LARGEST_BYTES = 24_000_000
MOST_SAMPLES = 30_000_000  # of all channels: five minutes of stereo at 48 kHz
# The first bytes of each kind of file, by the name that the decoder has for it.
_STARTS = {
    "wav": re.compile(rb"RIFF.{4}WAVE", re.DOTALL),
    "flac": re.compile(rb"fLaC"),
    "ogg": re.compile(rb"OggS"),
    "aiff": re.compile(rb"FORM.{4}AIF[FC]", re.DOTALL),
    "matroska": re.compile(rb"\x1aE\xdf\xa3"),
    "mov": re.compile(rb".{4}ftyp", re.DOTALL),
    "mp3": re.compile(rb"ID3|\xff[\xe2-\xff]"),
}
TOO_LONG = (
    "That is more sound than is looked through: cut out the burst, or save it in mono, at 48 kHz."
)
DAMAGED = "The file can't be read as a sound: it is damaged, or something else."


@dataclass(frozen=True)
class Sound:
    """A recording in mono: samples a second, and its pieces one after the other.

    Taking a piece raises :class:`NoSound` where the file is damaged there.
    """

    rate_hz: int
    pieces: Iterator[Samples]


class NoSound(ValueError):
    """A file that is no recording, told in a sentence."""


def read_sound(content: bytes) -> Sound:
    """The recording in a file; raises :class:`NoSound`."""
    if not content:
        raise NoSound("The file is empty.")
    if len(content) > LARGEST_BYTES:
        raise NoSound(
            f"The file has more than {LARGEST_BYTES // 1_000_000} MB: cut out the burst, or save "
            "it as FLAC or MP3."
        )
    kind = next((kind for kind, starts in _STARTS.items() if starts.match(content)), None)
    if kind is None:
        raise NoSound(DAMAGED)
    # With the format given nothing is guessed: some that could be guessed name other files to open.
    try:
        container = av.open(io.BytesIO(content), "r", format=kind)
        stream = next(iter(container.streams.audio), None)
    except (av.FFmpegError, ValueError) as error:
        raise NoSound(DAMAGED) from error
    # A stream of a codec that nobody knows has no context.
    if stream is None or stream.codec_context is None or not stream.rate:
        raise NoSound("There is no sound in the file.")
    if fault := RATE_HZ.fault(stream.rate):
        raise NoSound(f"Its samples a second {fault}.")
    if _told_samples(stream) > MOST_SAMPLES:
        raise NoSound(TOO_LONG)
    return Sound(stream.rate, _pieces(container, stream))


def _told_samples(stream: AudioStream) -> float:
    """Of all channels, as the file says; 0 where it doesn't. A piece is counted as it comes."""
    if stream.duration is None or stream.time_base is None:
        return 0.0
    return float(stream.duration * stream.time_base) * stream.rate * stream.channels


def _pieces(container: InputContainer, stream: AudioStream) -> Iterator[Samples]:
    to_mono = av.AudioResampler(
        format="flt", layout="mono", rate=stream.rate, frame_size=PIECE_S * stream.rate
    )
    decoded = 0
    try:
        for frame in chain(container.decode(stream), [None]):  # None: what is left in it
            if frame is not None:
                decoded += frame.samples * len(frame.layout.channels)
            if decoded > MOST_SAMPLES:
                raise NoSound(TOO_LONG)
            for mono in to_mono.resample(frame):
                yield np.asarray(mono.to_ndarray()[0], dtype=np.float32)
    except (av.FFmpegError, ValueError) as error:
        raise NoSound(DAMAGED) from error
