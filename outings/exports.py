"""A replayed day as files: a line a burst, and the replay file of the command line."""

from collections.abc import Iterator, Sequence
from typing import Any

from engine.files.scenario_file import scenario_values
from outings.day import DayReplay
from outings.words import clock_words

HEADINGS = (
    "began", "hold_s", "frames", "frames_at_full_speed", "missed", "mb", "next_press_s",
    "missed_as_predicted",
)  # fmt: skip


def burst_rows(day: DayReplay) -> Iterator[Sequence[Any]]:
    """The rows of a table, its headings first; set-ups that were tried have a column each."""
    others = [one.change.words for one in day.others]
    yield [*HEADINGS, *(f"missed with {words}" for words in others)]
    columns = [day.predicted.day.missed_of_bursts.tolist()]
    columns += [one.day.missed_of_bursts.tolist() for one in day.others]
    for burst, missed in zip(day.was.bursts, zip(*columns, strict=True), strict=True):
        yield [
            clock_words(burst.press_s, "%H:%M:%S"), round(burst.hold_s, 3), burst.frames,
            burst.frames_at_full_speed, burst.missed, round(burst.mb, 3),
            None if burst.next_press_s is None else round(burst.next_press_s, 3), *missed,
        ]  # fmt: skip


def replay_file(day: DayReplay) -> dict[str, Any]:
    """What `python -m engine replay` reads."""
    taken = day.pictures.taken
    pictures = zip(taken.times_s.tolist(), taken.mb.tolist(), strict=True)
    decimals = day.pictures.decimals
    values = {
        "scenario": scenario_values(day.as_assumed.scenario),
        "resolution_s": round(taken.resolution_s, decimals),
        "pictures": [
            {"taken_s": round(taken_s, decimals), "mb": round(mb, 3)} for taken_s, mb in pictures
        ],
    }
    others = {one.change.words: one.set_up.scenario for one in day.others}
    if others:
        values["others"] = [{"name": name} | scenario_values(one) for name, one in others.items()]
    return values
