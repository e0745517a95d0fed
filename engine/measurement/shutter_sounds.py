"""Strokes heard in a recording: high-pass, power of each millisecond, and its peaks.

Two passes: the first finds the rhythm, the second the strokes, no closer to each other than that
rhythm allows, so that echoes and the two clicks of one shutter are not taken for frames.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, find_peaks, sosfilt

Real = NDArray[np.float64]

LOWEST_HZ = 2_000.0  # wind, voices and handling lie below; the click of a shutter above
STEP_S = 0.001
SMOOTHED = 3  # steps: a click lasts a few milliseconds
FASTEST_FPS = 60.0
LONGEST_S = 600.0
LOUD = 7.0  # times the usual deviation of the noise
LEAST_RATIO = 1.6  # of a stroke to the floor: what rises less is the noise itself, or music
SOME = 0.3  # of the usual peak: a softer one is an echo or somebody else's camera
APART = 0.65  # of the rhythm: what is closer is the same stroke
FEWEST = 3


@dataclass(frozen=True)
class Heard:
    """Strokes in seconds of the recording, and the share of them that stand out clearly.

    `loudness` has one value a millisecond, for the drawing.
    """

    strokes_s: tuple[float, ...]
    sure: float
    loudness: Real


class NothingHeard(ValueError):
    """A recording without strokes, told in a sentence."""


def hear(samples: NDArray[np.float32] | Real, rate_hz: int) -> Heard:
    """The strokes of a recording in mono.

    Raises :class:`NothingHeard` for silence, music, and what is too long.
    """
    if len(samples) > LONGEST_S * rate_hz:
        raise NothingHeard(f"A recording of more than {LONGEST_S:g} s is not looked through.")
    if len(samples) < rate_hz * 0.2 or not np.all(np.isfinite(samples)):
        raise NothingHeard("The recording is too short, or damaged.")
    loudness = _loudness(np.asarray(samples, dtype=np.float64), rate_hz)
    floor, noise = _floor(loudness)
    peaks, _ = find_peaks(loudness, height=floor + LOUD * noise, distance=1 / FASTEST_FPS / STEP_S)
    usual = float(np.quantile(loudness[peaks], 0.75)) if len(peaks) else 0.0
    if len(peaks) < FEWEST or usual < LEAST_RATIO * floor:
        raise NothingHeard(
            "No strokes can be heard. An electronic shutter makes none: switch on the camera's "
            "artificial sound, or use the files."
        )
    peaks = peaks[loudness[peaks] - floor > SOME * (usual - floor)]
    rhythm = _rhythm(peaks)
    peaks, _ = find_peaks(
        loudness,
        height=floor + max(LOUD * noise, SOME * (usual - floor)),
        distance=max(APART * rhythm, 1 / FASTEST_FPS / STEP_S),
    )
    clear = loudness[peaks] > floor + 2 * LOUD * noise
    return Heard(tuple(_onsets(loudness, peaks, floor)), float(clear.mean()), loudness)


def _loudness(samples: Real, rate_hz: int) -> Real:
    """Power of the high-passed signal around each millisecond."""
    step = max(1, round(STEP_S * rate_hz))
    lowest = min(LOWEST_HZ, rate_hz / 4)
    high = sosfilt(butter(4, lowest, "highpass", fs=rate_hz, output="sos"), samples)
    whole = len(high) // step * step
    power = (high[:whole].reshape(-1, step) ** 2).mean(axis=1)
    return np.convolve(power, np.ones(SMOOTHED) / SMOOTHED, mode="same")


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
    """The middle of each stroke between two steps, by the weight of the loudness around it."""
    found = []
    for peak in peaks:
        around = np.arange(max(peak - 1, 0), min(peak + 2, len(loudness)))
        weights = np.maximum(loudness[around] - floor, 1e-12)
        found.append(float((around * weights).sum() / weights.sum() + 0.5) * STEP_S)
    return found
