"""What is said after a run: what was kept, why, and what would have kept more."""

from dataclasses import dataclass
from functools import cached_property

from django.template.defaultfilters import pluralize

from engine import InvalidScenario
from engine.formats import figure
from engine.practice.rhythms import Rhythm, RhythmKind, better_rhythm
from engine.practice.score import Score
from engine.practice.shot_run import ShotRun, never_full
from engine.practice.subjects import StageKind
from practice.subject_words import PLURAL, WORDS_OF_SUBJECT
from setups.changes import Sacrifice, SetupChange, free_changes
from setups.engine_adapter import FiguresInCommon
from setups.reader import Reading
from setups.words import ready_words

OF_FORMAT_OR_RATE = (Sacrifice.FILE_SIZE, Sacrifice.KIND_OF_FILE, Sacrifice.FRAME_RATE)
MOST_MODES = 2
NOTICED_S = 0.05  # of a press: less is said to be in time


@dataclass(frozen=True)
class TriedMode:
    """Another format or rate, and the frames of the moment that it would have kept."""

    change: SetupChange
    kept: int


@dataclass(frozen=True)
class Answer:
    """The answer to run `number` of a subject; `reading` is its set-up, None where it is gone."""

    number: int
    subject: str
    score: Score
    reading: Reading | None

    @property
    def words(self) -> str:
        """What happened, in a sentence or two."""
        score, shot = self.score, self.score.shot
        if shot.run.moment_s is None:
            return self._nothing_came
        frames = f"{score.kept} of {score.possible} frames of the moment"
        if score.kept >= score.possible > 0:
            return (
                f"All {figure(score.kept)} frames of the moment."
                if score.kept > 1
                else ("The one frame of the moment that there was time for.")
            )
        if not shot.frames:
            return f"You took no frame: {frames}."
        if not score.possible:
            return f"The buffer was still full from before: there was no frame of {self._moment}."
        reasons = list(self._reasons)
        return f"You {', '.join(reasons)}: {frames}." if reasons else f"{frames}."

    @property
    def _moment(self) -> str:
        return WORDS_OF_SUBJECT[self.subject].moment

    @property
    def _nothing_came(self) -> str:
        frames = self.score.shot.frames
        if not frames:
            return "It never came, and you kept the buffer empty for the next."
        return f"It never came: {figure(frames)} frame{pluralize(frames)} for nothing."

    @property
    def _reasons(self) -> "list[str]":
        """Why frames were missed, in the order in which it happened."""
        score, run, said = self.score, self.score.shot.run, []
        assert run.moment_s is not None  # noqa: S101 - else nothing was missed
        starts_s, ends_s = run.moment_s
        early_s = score.early_s
        if early_s is None:
            said.append("had let go before it stirred")
        elif early_s > NOTICED_S and score.wall_s is not None:
            said.append(f"pressed {figure(early_s, 's')} early")
        elif early_s < -NOTICED_S:
            said.append(f"pressed {figure(-early_s, 's')} after {self._moment} began")
        if score.wall_s is not None and score.wall_s < ends_s:
            off_s = starts_s - score.wall_s
            when = f"before {self._moment}" if off_s > 0 else f"into {self._moment}"
            is_there = abs(off_s) <= NOTICED_S
            said.append(
                f"met the wall as {self._moment} began"
                if is_there
                else f"met the wall {figure(abs(off_s), 's')} {when}"
            )
        if score.let_go_early_s is not None and early_s is not None:
            said.append(f"let go {figure(score.let_go_early_s, 's')} before it was over")
        return said

    @cached_property
    def rhythm_words(self) -> str:
        """The rhythm that would have kept most more; empty: none would."""
        better = better_rhythm(self.score)
        if better is None:
            return ""
        return f"{self._rhythm_words(better.rhythm)} would have given {figure(better.kept)}."

    def _rhythm_words(self, rhythm: Rhythm) -> str:
        moment = self._moment
        if rhythm.kind == RhythmKind.LET_GO and rhythm.during is not None:
            return f"Letting go for {figure(rhythm.pause_s, 's')} {self._while(rhythm.during)}"
        only = "only " if (self.score.early_s or 0) > 0 else ""
        sign = StageKind.LEAD if StageKind.LEAD in self._stages else StageKind.MOMENT
        return {
            RhythmKind.HOLD_ON: f"Holding on until {moment} was over",
            RhythmKind.PRESS_EARLIER: f"Pressing {self._once(sign)}",
            RhythmKind.SKIP_FALSE_STARTS: "Waiting until it stirred for good",
            RhythmKind.WAIT_FOR_SIGN: f"Pressing {only}{self._once(sign)}",
            RhythmKind.WAIT_FOR_MOMENT: f"Pressing {only}as {moment} began",
        }[rhythm.kind]

    @property
    def _stages(self) -> set[StageKind]:
        return {stage.kind for stage in self.score.shot.run.stages}

    def _while(self, stage: StageKind) -> str:
        return f"while {self._they} {WORDS_OF_SUBJECT[self.subject].did[stage]}"

    def _once(self, stage: StageKind) -> str:
        return f"once {self._they} {WORDS_OF_SUBJECT[self.subject].did[stage]}"

    @property
    def _they(self) -> str:
        return "they" if self.subject in PLURAL else "it"

    @cached_property
    def modes(self) -> list[TriedMode]:
        """Other formats and rates that would have kept more with the same presses, best first."""
        if self.reading is None or self.score.shot.run.moment_s is None:
            return []
        shot, figures, tried = self.score.shot, FiguresInCommon(), []
        for change in free_changes(self.reading):
            if change.sacrifice not in OF_FORMAT_OR_RATE:
                continue
            try:
                scenario = never_full(figures.of(change.setup).scenario)
            except (InvalidScenario, ValueError):
                continue  # figures of the kit that contradict each other: nothing to try
            kept = ShotRun(scenario, shot.earlier, shot.played).kept
            if kept > self.score.kept:
                tried.append(TriedMode(change, kept))
        return sorted(tried, key=lambda one: (-one.kept, one.change.sacrifice))[:MOST_MODES]

    @property
    def ready_words(self) -> str:
        """When the buffer was ready again; empty where nothing was pressed."""
        shot = self.score.shot
        return ready_words(shot.result) if shot.result and shot.holds else ""
