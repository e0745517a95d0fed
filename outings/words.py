"""What is said of days: differences and moments in words."""

from collections.abc import Callable, Iterable

from engine.day.odds import DayDifference
from engine.formats import day
from engine.measurement.capture_times import EPOCH, day_of, moment_of
from setups.difference import amount_words, range_words


def brings_words(of_day: DayDifference) -> str:
    """What a set-up brings on a day against another one."""
    missed, frames = of_day.missed, of_day.frames
    saves = "saves" if missed.predicted < 0 else "costs"
    if missed.noticed:
        fewer = frames.noticed and frames.predicted < 0 and saves == "saves"
        in_all = f", but takes {amount_words(frames, 'frames')} fewer" if fewer else ""
        return f"{saves} {amount_words(missed, 'frames')}{in_all}"
    if missed.is_too_uncertain:
        return f"too uncertain to call ({range_words(missed, 'fewer', 'more')} missed)"
    return "no difference that you would notice"


def clock_words(moment_s: float, pattern: str) -> str:
    """A moment by the camera's clock; without its day where it is seconds from a start."""
    moment = moment_of(moment_s)
    said = moment.strftime(pattern)
    return f"{day(moment.date())}, {said}" if has_day(moment_s) else said


def clock_among(moments_s: Iterable[float], pattern: str) -> Callable[[float], str]:
    """What tells a moment by the camera's clock, without its day where all moments are of one."""
    is_one_day = len(set(map(day_of, moments_s))) <= 1
    return lambda moment_s: (
        moment_of(moment_s).strftime(pattern) if is_one_day else clock_words(moment_s, pattern)
    )


def has_day(moment_s: float) -> bool:
    """Whether a moment is by a clock, not seconds from a start."""
    return day_of(moment_s).year > EPOCH.year
