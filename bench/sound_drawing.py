"""A sound drawn: its strokes, and how loud it was behind them."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

from bench.drawings import HEIGHT, WIDTH, stroke_path
from engine.measurement.shutter_sounds import Heard

MARK_HEIGHT = 16  # so that what was heard is seen below the marks
ROW_S = 4.0  # of a sound: strokes a few pixels apart, so that one of them can be pointed at
SOUND_STEP_S = 0.008
LOUDEST = 9


@dataclass(frozen=True)
class SoundRow:
    """A few seconds of a sound: its loudness and its strokes."""

    from_s: float
    strokes: str
    loudness: str


@dataclass(frozen=True)
class SoundDrawing:
    """A sound in rows of ROW_S, from a little before the first stroke to a little after the last.

    `loudness` has a digit for each SOUND_STEP_S.
    """

    times_s: Sequence[float]
    loudness: str = ""
    row_s: float = field(default=ROW_S, init=False)

    @cached_property
    def rows(self) -> list[SoundRow]:
        """The rows."""
        if not self.times_s:
            return []
        first = math.floor(max(self.times_s[0] - 0.25, 0))
        count = max(1, math.ceil((self.times_s[-1] + 0.25 - first) / ROW_S))
        return [self._row(first + place * ROW_S) for place in range(count)]

    def _row(self, from_s: float) -> SoundRow:
        here = [one for one in self.times_s if from_s <= one < from_s + ROW_S]
        first, last = (round(moment / SOUND_STEP_S) for moment in (from_s, from_s + ROW_S))
        marks = stroke_path(here, from_s, ROW_S, MARK_HEIGHT)
        return SoundRow(from_s, marks, _hill(self.loudness[first:last]))


def loudness_digits(heard: Heard) -> str:
    """How loud a sound is, on a scale of ratios, in digits from 0 to 9."""
    each = max(1, round(SOUND_STEP_S / heard.step_s))
    peaks = [
        float(heard.loudness[place : place + each].max())
        for place in range(0, len(heard.loudness), each)
    ]
    low, high = sorted(peaks)[len(peaks) // 3], max(peaks)
    if not 0 < low < high:
        return "0" * len(peaks)
    scale = LOUDEST / math.log(high / low)
    levels = (scale * math.log(max(peak, low) / low) for peak in peaks)
    return "".join(str(min(round(level), LOUDEST)) for level in levels)


def _hill(digits: str) -> str:
    """A filled shape as high as the digits say."""
    if not digits.isascii() or not digits.isdigit():
        return ""
    step = WIDTH * SOUND_STEP_S / ROW_S
    tops = "".join(
        f"V{HEIGHT - HEIGHT * int(digit) / LOUDEST:.0f}H{step * place:.0f}"
        for place, digit in enumerate(digits, 1)
    )
    return f"M0 {HEIGHT}{tops}V{HEIGHT}Z"
