"""Outings as tables and for the command line: a line a burst, an outing, a note; a replay file."""

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from engine.files.scenario_file import scenario_values
from outings.models import FieldNote
from outings.plans.against_plan import NAMES
from outings.records.record import CardNames
from outings.records.totals import Totals
from outings.replays.day import DayReplay
from outings.words import clock_words

HEADINGS = (
    "began", "hold_s", "frames", "frames_at_full_speed", "missed", "mb", "next_press_s",
    "missed_as_predicted",
)  # fmt: skip

OF_OUTING = (
    "on", "outing", "notes", "setup", "frames", "gb", "bursts", "bursts_missing", "missed", "cards",
    "failures",
)  # fmt: skip
OF_NOTE = ("moment", "kind", "slot", "card", "words")


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
    if day.told_s:
        first_s = float(taken.times_s[0])
        values["holds"] = [
            {"press_s": round(first_s + after_s, decimals), "hold_s": hold_s}
            for after_s, hold_s in day.told_s.items()
        ]
    others = {one.change.words: one.set_up.scenario for one in day.others}
    if others:
        values["others"] = [{"name": name} | scenario_values(one) for name, one in others.items()]
    return values


def outing_rows(totals: Totals) -> Iterator[Sequence[Any]]:
    """A line an outing, headings first: what was shot, and what was planned, if it was."""
    planned = [f"planned_{name}_{end}" for name in NAMES for end in ("low", "middle", "high")]
    yield [*OF_OUTING, *planned]
    for record, came_to in totals.records:
        outing, day, plan = record.outing, record.day, getattr(record.outing, "plan", None)
        came = came_to.came if came_to else {}
        used = [slug for slug, frames in came_to.frames.items() if frames] if came_to else []
        predicted = [
            end
            for name in NAMES
            for end in (plan.predicted.get(name) if plan else None) or [None] * 3
        ]
        yield [
            outing.on, outing.name, outing.notes, outing.setup,
            day.frames if day else None, round(day.gb, 3) if day else None,
            came.get("bursts"), came.get("bursts_missing"), came.get("missed"),
            "; ".join(map(record.card_names.name, used)), len(record.failures), *predicted,
        ]  # fmt: skip


def note_rows(notes: Iterable[FieldNote], names: CardNames) -> Iterator[Sequence[Any]]:
    """The field notes of an outing, a line each, headings first."""
    yield OF_NOTE
    for one in notes:
        card = names.name(one.card) if one.card else None
        yield [one.moment, one.get_kind_display(), one.slot, card, one.words]
