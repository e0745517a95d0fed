"""What all outings of somebody come to: by season, by card, and how well plans held."""

import hashlib
import time
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property

from engine.measurement.track_record import TrackRecord
from kit.models import Change, Visitor
from outings.models import FieldNoteKind, Outing
from outings.records.record import OutingRecord, records_of
from pages.background import results

CACHE_VERSION = 1  # raise it when the same pictures would come to something else
WORK_S = 1.0  # of a request


@dataclass
class SeasonTotal:
    """The outings of one season; without a day by the calendar they are of none."""

    name: str
    outings: int = 0
    frames: int = 0
    gb: float = 0.0
    missed: float = 0


@dataclass
class CardTotal:
    """What was written to one card on all outings, and how often it failed."""

    name: str
    outings: int = 0
    frames: int = 0
    gb: float = 0.0
    failures: int = 0


@dataclass(frozen=True)
class OutingSum:
    """What an outing came to: its figures, and frames and GB by the slugs of its cards."""

    came: Mapping[str, float]
    frames: Mapping[str, int]
    gb: Mapping[str, float]

    @classmethod
    def of(cls, record: OutingRecord) -> "OutingSum":
        """Its day replayed, and its swaps followed."""
        frames: defaultdict[str, int] = defaultdict(int)
        gb: defaultdict[str, float] = defaultdict(float)
        for one in record.cards:
            frames[one.use.card] += one.use.frames
            gb[one.use.card] += one.gb
        return cls(record.came, dict(frames), dict(gb))


@dataclass(frozen=True)
class Totals:
    """The outings of a visitor, with what each came to; so many are `left` to be worked out."""

    records: Sequence[tuple[OutingRecord, OutingSum | None]]
    left: int

    @classmethod
    def of(cls, visitor: Visitor) -> "Totals":
        """Of all outings that the visitor has kept.

        What has not been worked out since something changed is, as far as one request may.
        """
        until = time.monotonic() + WORK_S
        version = Change.version_for(visitor)
        outings = Outing.objects.listed(visitor).prefetch_related("field_notes")
        key = f"outings-came-to:{visitor.pk}"
        known: dict[str, OutingSum] = results.get(key, {})
        sums, records = {}, []
        for record in records_of(outings, visitor):
            told_by = _told_by(record, version)
            if told_by in known or time.monotonic() < until:
                sums[told_by] = known.get(told_by) or OutingSum.of(record)
            records.append((record, sums.get(told_by)))
        if sums != known:
            results.set(key, sums)
        return cls(records, sum(one is None for _, one in records))

    def seasons(self, begins: int) -> list[SeasonTotal]:
        """The latest first, each from the month `begins` on (1 to 12).

        Outings whose pictures were not replayed add no frames.
        """
        found: dict[str, SeasonTotal] = {}
        for record, came_to in sorted(
            self.records, key=lambda one: one[0].outing.on or date.min, reverse=True
        ):
            name = season(record.outing.on, begins) if record.outing.on else "without a date"
            total = found.setdefault(name, SeasonTotal(name))
            total.outings += 1
            if record.day:
                total.frames += record.day.frames
                total.gb += record.day.gb
            if came_to:
                total.missed += came_to.came.get("missed", 0)
        return list(found.values())

    @cached_property
    def cards(self) -> list[CardTotal]:
        """Those that most was written to first."""
        found: dict[str, CardTotal] = {}
        for record, came_to in self.records:
            for slug, frames in came_to.frames.items() if came_to else ():
                total = found.setdefault(slug, CardTotal(record.card_names.name(slug)))
                total.frames += frames
                total.gb += came_to.gb[slug] if came_to else 0
                total.outings += bool(frames)
            for note, name in record.failures:
                found.setdefault(note.card, CardTotal(name)).failures += 1
        written = [one for one in found.values() if one.frames or one.failures]
        return sorted(written, key=lambda one: one.gb, reverse=True)

    @cached_property
    def plans(self) -> TrackRecord:
        """How well the plans held of those outings that were shot, too."""
        of_each = (one.compared_with(came_to.came) for one, came_to in self.records if came_to)
        return TrackRecord([figure for figures in of_each for figure in figures])


def _told_by(record: OutingRecord, version: object) -> str:
    """What all that an outing came to follows from."""
    outing, day = record.outing, record.day
    of_day = (day.pk, day.ahead_min, day.holds) if day else ()
    notes = [(one.pk, one.card) for one in record.notes if one.kind == FieldNoteKind.SWAP]
    told = repr((CACHE_VERSION, version, outing.pk, outing.setup, of_day, notes))
    return hashlib.sha256(told.encode()).hexdigest()


def season(on: date, begins: int) -> str:
    """The season that a day is of: "2026", or "2026/27" where one begins within a year."""
    first = on.year if on.month >= begins else on.year - 1
    return str(first) if begins == 1 else f"{first}/{(first + 1) % 100:02}"
