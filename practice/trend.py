"""Whether the visitor gets better at a subject with a set-up: in words, and as points to draw."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from engine.formats import TRUE_MINUS, figure
from engine.practice.progress import FEWEST_DAYS, ScoredRun, SkillProgress, progress
from engine.practice.subject_run import LEVEL
from engine.quantities import NOTICED_SHARE
from pages.axes import round_steps
from practice.models import PracticeRun, PracticeSession
from setups.drawing import percent_of

HEIGHT = 120
MOST_RUNS = 600  # the newest, of 60 sessions
MOST_TICKS = 4


class SessionPoint(NamedTuple):
    """A session: its place in per cent of the width, its height, and its level."""

    percent: float
    y: float
    level: int


@dataclass(frozen=True)
class Trend:
    """Sessions whose difficulty followed skill, of one subject on one set-up."""

    rows: Sequence[PracticeRun]

    @classmethod
    def of(cls, sessions: "Sequence[int]") -> "Trend":
        """That of the sessions of these numbers."""
        found = PracticeRun.objects.filter(session__in=sessions).select_related("session")
        return cls(list(found.order_by("-session__made_at", "-number")[:MOST_RUNS])[::-1])

    @cached_property
    def scored(self) -> list[ScoredRun]:
        """The runs that had something to keep."""
        return [
            ScoredRun(row.session.on, row.level, row.succeeded)
            for row in self.rows
            if row.succeeded is not None
        ]

    @cached_property
    def progress(self) -> SkillProgress | None:
        """What they tell; None while there is none."""
        return progress(self.scored) if self.scored else None

    @property
    def level_words(self) -> str:
        """The level that is mastered now."""
        if self.progress is None:
            return ""
        level = min(max(round(self.progress.level), int(LEVEL.lowest)), int(LEVEL.highest))
        return f"You master level {level}: three runs in four succeed."

    @property
    def change_words(self) -> str:
        """How that changes."""
        told = self.progress
        if told is None:
            return ""
        if told.low is None or told.high is None:
            days = len({run.day for run in self.scored})
            return f"It takes {FEWEST_DAYS} days to tell a change; so far {days}."
        ends = f"{_signed(told.low)} to {_signed(told.high)} a week"
        if not told.is_sure:
            return f"No change yet: {ends} in four of five."
        way = "Better" if told.change_a_week > 0 else "Worse"
        return f"{way}: {_signed(told.change_a_week)} levels a week ({ends} in four of five)."

    @cached_property
    def points(self) -> list[SessionPoint]:
        """The last level of each session, over time."""
        lasts: dict[PracticeSession, PracticeRun] = {row.session: row for row in self.rows}
        if not lasts:
            return []
        moments = [session.made_at.timestamp() for session in lasts]
        first, lasted = min(moments), max(max(moments) - min(moments), 1.0)
        return [
            SessionPoint(
                percent_of(0.08 * lasted + 0.9 * (moment - first), lasted),
                y_of(row.level),
                row.level,
            )
            for moment, row in zip(moments, lasts.values(), strict=True)
        ]

    @property
    def levels(self) -> list[tuple[float, float]]:
        """Round levels, and how high they lie."""
        return [(one, y_of(one)) for one in round_steps(LEVEL.highest, MOST_TICKS)]


def y_of(level: float) -> float:
    """How high a level lies in a box of HEIGHT."""
    return round(HEIGHT * (1 - level / LEVEL.highest), 1)


def _signed(value: float) -> str:
    said = figure(abs(value))
    if abs(value) < NOTICED_SHARE / 2:
        return "0"
    return f"+{said}" if value > 0 else f"{TRUE_MINUS}{said}"
