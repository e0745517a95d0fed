"""What all outings of somebody come to: by season, by card, and how well plans held."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from functools import cached_property

from engine.measurement.track_record import TrackRecord
from kit.models import Visitor
from outings.models import Outing
from outings.record import OutingRecord, records_of
from pages.background import results

FRAMES_AT_ONCE = 120_000  # that are replayed in a second


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
    outings: set[int] = field(default_factory=set)
    frames: int = 0
    gb: float = 0.0
    failures: int = 0


@dataclass(frozen=True)
class Totals:
    """The outings of a visitor; a season begins in the month `begins` (1 to 12).

    `came` is what their days came to, under what that follows from; so many days are `left` to be
    worked out.
    """

    records: Sequence[OutingRecord]
    begins: int
    came: Mapping[str, Mapping[str, float]]
    left: int

    @classmethod
    def of(cls, visitor: Visitor, begins: int) -> "Totals":
        """Of all outings that the visitor has kept.

        Days that no page has replayed yet are, as many as one request may.
        """
        outings = Outing.objects.made_by(visitor).select_related("day", "plan")
        records = list(records_of(outings.prefetch_related("field_notes"), visitor))
        key = f"outings-came-to:{visitor.pk}"
        known: dict[str, Mapping[str, float]] = results.get(key, {})
        came, frames, left = {}, 0, 0
        for record in records:
            if record.told_by in known:
                came[record.told_by] = known[record.told_by]
                continue
            frames += record.day.frames if record.day else 0
            if frames > FRAMES_AT_ONCE:
                left += 1
            else:
                came[record.told_by] = record.came
        if came != known:
            results.set(key, came)
        return cls(records, begins, came, left)

    @cached_property
    def seasons(self) -> list[SeasonTotal]:
        """The latest first; outings whose pictures were not replayed add no frames."""
        found: dict[str, SeasonTotal] = {}
        ordered = sorted(self.records, key=lambda one: one.outing.on or date.min, reverse=True)
        for record in ordered:
            name = season(record.outing.on, self.begins) if record.outing.on else "without a date"
            total = found.setdefault(name, SeasonTotal(name))
            total.outings += 1
            if record.day:
                total.frames += record.day.frames
                total.gb += record.day.gb
                total.missed += self._came(record).get("missed", 0)
        return list(found.values())

    @cached_property
    def cards(self) -> list[CardTotal]:
        """Those that most was written to first."""
        found: dict[str, CardTotal] = {}
        for record in self.records:
            for used in record.cards:
                total = found.setdefault(used.use.card, CardTotal(used.name))
                total.frames += used.use.frames
                total.gb += used.gb
                if used.use.frames:
                    total.outings.add(record.outing.pk)
            for note, name in record.failures:
                found.setdefault(note.card, CardTotal(name)).failures += 1
        written = [one for one in found.values() if one.frames or one.failures]
        return sorted(written, key=lambda one: one.gb, reverse=True)

    @cached_property
    def plans(self) -> TrackRecord:
        """How well the plans held of those outings that were shot, too."""
        of_each = (one.compared_with(self._came(one)) for one in self.records)
        return TrackRecord([figure for figures in of_each for figure in figures])

    def _came(self, record: OutingRecord) -> Mapping[str, float]:
        return self.came.get(record.told_by, {})


def season(on: date, begins: int) -> str:
    """The season that a day is of: "2026", or "2026/27" where one begins within a year."""
    first = on.year if on.month >= begins else on.year - 1
    return str(first) if begins == 1 else f"{first}/{(first + 1) % 100:02}"
