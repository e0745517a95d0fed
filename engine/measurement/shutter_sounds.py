"""Strokes heard in a recording: high-pass, power of each millisecond, and its peaks.

The recording comes in pieces, so that a long one takes no more memory than a short one.

Two passes: the first finds the rhythm, the second the strokes, no closer to each other than that
rhythm allows, so that echoes and the two clicks of one shutter are not taken for frames.
"""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
import scipy  # which imports what is used of it then: a second that no start need wait for
from numpy.typing import NDArray

Real = NDArray[np.float64]
Samples = NDArray[np.float32] | Real

LOWEST_HZ = 2_000.0  # wind, voices and handling lie below; the click of a shutter above
STEP_S = 0.001  # as near to it as whole samples allow
SMOOTHED = 3  # steps: a click lasts a few milliseconds
FASTEST_FPS = 60.0
LONGEST_S = 300.0
LOUD = 7.0  # times the usual deviation of the noise
LEAST_RATIO = 1.6  # of a stroke to the floor: what rises less is the noise itself, or music
SOME = 0.3  # of the usual peak: a softer one is an echo or somebody else's camera
APART = 0.65  # of the rhythm: what is closer is the same stroke
FEWEST = 3
SHORTEST_S = 0.2


@dataclass(frozen=True)
class Heard:
    """Strokes in seconds of the recording, and the share of them that stand out clearly.

    `loudness` has one value for each `step_s`, for the drawing.
    """

    strokes_s: tuple[float, ...]
    sure: float
    loudness: Real
    step_s: float


class NothingHeard(ValueError):
    """A recording without strokes, told in a sentence."""


def hear(pieces: Iterable[Samples], rate_hz: int) -> Heard:
    """The strokes of a recording in mono, whose pieces follow each other.

    Raises :class:`NothingHeard` for silence, music, and what is too long.
    """
    step = max(1, round(STEP_S * rate_hz))
    step_s = step / rate_hz
    loudness = _loudness(pieces, rate_hz, step)
    if len(loudness) * step_s < SHORTEST_S or not np.all(np.isfinite(loudness)):
        raise NothingHeard("The recording is too short, or damaged.")
    closest = 1 / FASTEST_FPS / step_s
    floor, noise = _floor(loudness)
    peaks, _ = scipy.signal.find_peaks(loudness, height=floor + LOUD * noise, distance=closest)
    usual = float(np.quantile(loudness[peaks], 0.75)) if len(peaks) else 0.0
    if len(peaks) < FEWEST or usual < LEAST_RATIO * floor:
        raise NothingHeard(
            "No strokes can be heard. An electronic shutter makes none: switch on the camera's "
            "artificial sound, or use the files."
        )
    peaks = peaks[loudness[peaks] - floor > SOME * (usual - floor)]
    rhythm = _rhythm(peaks)
    peaks, _ = scipy.signal.find_peaks(
        loudness,
        height=floor + max(LOUD * noise, SOME * (usual - floor)),
        distance=max(APART * rhythm, closest),
    )
    clear = loudness[peaks] > floor + 2 * LOUD * noise
    onsets = tuple(place * step_s for place in _onsets(loudness, peaks, floor))
    return Heard(onsets, float(clear.mean()), loudness, step_s)


def _loudness(pieces: Iterable[Samples], rate_hz: int, step: int) -> Real:
    """Power of the high-passed signal around each step."""
    lowest = min(LOWEST_HZ, rate_hz / 4)
    sections = scipy.signal.butter(4, lowest, "highpass", fs=rate_hz, output="sos")
    state = np.zeros((len(sections), 2))
    powers, left, length = [], np.zeros(0), 0
    for piece in pieces:
        if not len(piece):
            continue
        length += len(piece)
        if length > LONGEST_S * rate_hz:
            raise NothingHeard(f"A recording of more than {LONGEST_S:g} s is not looked through.")
        samples = np.asarray(piece, dtype=np.float64)
        high, state = scipy.signal.sosfilt(sections, samples, zi=state)
        signal = np.concatenate([left, high])
        whole = len(signal) // step * step
        powers.append((signal[:whole].reshape(-1, step) ** 2).mean(axis=1))
        left = signal[whole:]
    power = np.concatenate(powers) if powers else np.zeros(0)
    return np.convolve(power, np.ones(SMOOTHED) / SMOOTHED, mode="same") if len(power) else power


def _floor(loudness: Real) -> tuple[float, float]:
    """The usual loudness without strokes, and its deviation (by the lower half, as peaks rise)."""
    middle = float(np.quantile(loudness, 0.4))
    below = middle - float(np.quantile(loudness, 0.1))
    return middle, below / 1.03  # of a normal distribution, between these two quantiles


def _rhythm(peaks: NDArray[np.intp]) -> float:
    """The usual distance of strokes in steps: the shortest that many keep to."""
    gaps = np.diff(peaks)
    return float(np.quantile(gaps, 0.3)) if len(gaps) else 0.0


def _onsets(loudness: Real, peaks: NDArray[np.intp], floor: float) -> list[float]:
    """The middle of each stroke in steps, by the weight of the loudness around it."""
    found = []
    for peak in peaks:
        around = np.arange(max(peak - 1, 0), min(peak + 2, len(loudness)))
        weights = np.maximum(loudness[around] - floor, 1e-12)
        found.append(float((around * weights).sum() / weights.sum() + 0.5))
    return found
