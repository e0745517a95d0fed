"""A run as shapes on one time axis: what the subject did, strokes, presses, the buffer filling."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

from engine.burst.scenario import Hold
from engine.practice.score import Score
from engine.practice.subjects import StageKind
from engine.quantities import NS_IN_S
from pages.axes import round_steps
from practice.subject_words import WORDS_OF_SUBJECT
from setups.drawing import LABEL_TURNS_AT, MOST_TICKS, WIDTH, bars, filling, percent_of

STROKE = 0.45  # of the time from one to the next
WIDEST_STROKE = 4.0


@dataclass(frozen=True)
class Band:
    """A stretch of the axis, in per cent, and what it is called; `is_back`: as it was at first."""

    words: str
    percent: float
    width_percent: float
    is_moment: bool = False
    is_back: bool = False

    @property
    def turned(self) -> bool:
        """Whether its words end where it ends, so that they stay within a phone."""
        return self.percent > LABEL_TURNS_AT

    @property
    def words_percent(self) -> float:
        """Where its words begin, or end."""
        return self.percent + self.width_percent if self.turned else self.percent


@dataclass(frozen=True)
class PracticeDrawing:
    """A run that was scored."""

    subject: str
    score: Score

    @property
    def ends_s(self) -> float:
        """The end of the axis."""
        return self.score.shot.run.ends_s

    @cached_property
    def stages(self) -> list[Band]:
        """What the subject did."""
        stages = self.score.shot.run.stages
        ends = [*(one.starts_s for one in stages[1:]), self.ends_s]
        words = WORDS_OF_SUBJECT[self.subject]
        return [
            Band(
                words.does[one.kind].rstrip("."),
                percent_of(one.starts_s, self.ends_s),
                percent_of(end_s - one.starts_s, self.ends_s),
                one.kind == StageKind.MOMENT,
                one.kind == StageKind.WAITING and one.starts_s > 0,
            )
            for one, end_s in zip(stages, ends, strict=True)
        ]

    @property
    def moment(self) -> Band | None:
        """Where the moment lies."""
        return next((one for one in self.stages if one.is_moment), None)

    @property
    def strokes(self) -> str:
        """The frames that were taken."""
        scale = WIDTH / self.ends_s
        apart = scale / self.score.shot.scenario.frame_rate_fps
        lefts = self.score.shot.taken_ns / NS_IN_S * scale
        return bars(lefts, min(STROKE * apart, WIDEST_STROKE))

    @property
    def buffer(self) -> str:
        """The buffer filling."""
        moments_ns, used_bytes = self.score.shot.memory
        scenario = self.score.shot.scenario
        within = moments_ns / NS_IN_S < self.ends_s
        lefts = (moments_ns[within] / NS_IN_S).clip(0) * WIDTH / self.ends_s
        return filling(lefts, used_bytes[within], scenario.memory_bytes, WIDTH)

    @property
    def presses(self) -> list[Band]:
        """When the button was down."""
        return list(self._bands(self.score.shot.played.presses))

    @property
    def best(self) -> list[Band]:
        """When it would best have been down."""
        return list(self._bands(self.score.best.played.presses))

    def _bands(self, presses: Sequence[Hold]) -> Iterator[Band]:
        for one in presses:
            yield Band(
                "", percent_of(one.press_s, self.ends_s), percent_of(one.hold_s, self.ends_s)
            )

    @property
    def walls(self) -> list[float]:
        """Where a press met the wall, in per cent."""
        return [percent_of(wall / NS_IN_S, self.ends_s) for wall in self.score.shot.walls_ns]

    @property
    def ticks(self) -> list[tuple[float, float]]:
        """Round seconds, and where they lie."""
        return [(one, percent_of(one, self.ends_s)) for one in round_steps(self.ends_s, MOST_TICKS)]
