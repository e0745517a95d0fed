"""Recordings as browsers and recorders make them, read in pieces: WAV, FLAC, OGG, MP3, WebM, MP4.

A file says what it likes of itself, so that nothing is taken on trust: the formats are told by
their first bytes, and no more is decoded at a time than a few seconds.
"""

import io
from collections.abc import Iterator
from dataclasses import dataclass

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

from engine.quantities import Range

Samples = NDArray[np.float32]

RATE_HZ = Range(8_000, 192_000, "Hz")
MOST_CHANNELS = 8
PIECE_S = 5
LARGEST_BYTES = 24_000_000
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
    sound = _by_container(content) if _container_of(content) else _by_soundfile(content)
    if fault := RATE_HZ.fault(sound.rate_hz):
        raise NoSound(f"Its samples a second {fault}.")
    return sound


def _by_soundfile(content: bytes) -> Sound:
    try:
        file = soundfile.SoundFile(io.BytesIO(content))
    except (soundfile.SoundFileError, OSError, ValueError, TypeError) as error:
        raise NoSound(DAMAGED) from error
    if file.channels > MOST_CHANNELS:
        raise NoSound(f"It has {file.channels} channels; {MOST_CHANNELS} are the most.")

    def pieces() -> Iterator[Samples]:
        try:
            size = PIECE_S * file.samplerate
            for piece in file.blocks(size, dtype="float32", always_2d=True):
                yield piece.mean(axis=1)
        except (soundfile.SoundFileError, OSError, ValueError) as error:
            raise NoSound(DAMAGED) from error

    return Sound(file.samplerate, pieces())


def _container_of(content: bytes) -> str:
    """WebM and MP4, which browsers record in, by their first bytes; empty: neither."""
    if content[:4] == b"\x1aE\xdf\xa3":
        return "matroska"
    return "mov" if content[4:8] == b"ftyp" else ""


def _by_container(content: bytes) -> Sound:
    # With the format given nothing is guessed: some that could be guessed name other files to open.
    try:
        container = av.open(io.BytesIO(content), "r", format=_container_of(content))
        stream = next(iter(container.streams.audio), None)
    except (av.FFmpegError, ValueError) as error:
        raise NoSound(DAMAGED) from error
    # A stream of a codec that nobody knows has no context.
    if stream is None or stream.codec_context is None or not stream.rate:
        raise NoSound("There is no sound in the file.")
    rate_hz = int(stream.rate)

    def pieces() -> Iterator[Samples]:
        to_mono = av.AudioResampler(format="flt", layout="mono", rate=rate_hz)
        try:
            for frame in container.decode(stream):
                for mono in to_mono.resample(frame):
                    yield np.asarray(mono.to_ndarray()[0], dtype=np.float32)
        except (av.FFmpegError, ValueError) as error:
            raise NoSound(DAMAGED) from error

    return Sound(rate_hz, pieces())
