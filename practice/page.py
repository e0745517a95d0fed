"""What the pages of practice ask: where a session begins, and the session itself."""

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Self
from urllib.parse import urlencode

import numpy as np
from django.contrib.auth.base_user import AbstractBaseUser
from django.core.paginator import Page, Paginator
from django.http import HttpRequest

from engine import InvalidScenario
from engine.burst.file_size import DETAIL_OF_SCENE, ISO_STEPS
from engine.burst.scenario import Hold, Scenario
from engine.formats import figure
from engine.practice.reaction import TRIES, USUAL_S
from engine.practice.score import Score
from engine.practice.shot_run import LONGEST_RUN_S, PlayedRun, ShotRun, full_after_s
from engine.practice.subject_run import RUNS, RUNS_WITH_MOMENT, subject_run
from engine.practice.subjects import SUBJECTS
from engine.quantities import NS_IN_S
from kit.views.shared import ITEMS_ON_A_PAGE
from practice.answer import Answer
from practice.drawing import PracticeDrawing
from practice.forms import FIRST, BeginForm
from practice.models import PracticeSession
from practice.playing import NewSession, Playing, level_reached, playable, practised
from practice.subject_words import WORDS_OF_SUBJECT, SubjectWords
from practice.trend import Trend
from setups import keys
from setups.in_view import remembered
from setups.kit import Kit
from setups.prediction_words import fault_words
from setups.reader import Reading, read_address, read_query

EXAMPLE_SEED, EXAMPLE_RUN = 14, 1  # a run with a false start and a moment
EXAMPLE_EARLY_S, EXAMPLE_LATE_S = 0.4, 0.2
MOST_STEPS = 2_000  # of memory, in an answer to a press
STEP_NS = 10_000_000  # changes that follow each other sooner are told as one there


@dataclass(frozen=True)
class SessionRow:
    """A session in the list; the best is that which reached the highest level, and kept most."""

    session: PracticeSession
    playing: Playing
    is_best: bool

    @property
    def is_finished(self) -> bool:
        """Whether all of its runs were played."""
        return self.playing.next_number is None

    @property
    def levels(self) -> str:
        """Its levels, from the first run to the last."""
        first = self.session.first_level
        last = self.playing.rows[-1].level if self.playing.rows else first
        return str(first) if first == last else f"{first} to {last}"


@dataclass
class StartPage:
    """The page on which a session is begun; `refusals` say why it could not be."""

    request: HttpRequest
    reading: Reading | None
    form: BeginForm
    refusals: list[str] = field(default_factory=list)

    @classmethod
    def asked(cls, request: HttpRequest) -> Self:
        """As an address asks for it."""
        kit = Kit.of(request.user)
        told = {key: value for key, value in request.GET.items() if key in BeginForm.base_fields}
        usual = {name: one.initial for name, one in BeginForm.base_fields.items()}
        form = BeginForm(usual | told)
        return cls(request, read_address(request.GET.dict(), kit), form)

    @classmethod
    def sent(cls, request: HttpRequest) -> Self:
        """As its form sends it."""
        kit = Kit.of(request.user)
        address = keys.sent_with(request.POST) or remembered(request)
        return cls(request, read_address(address, kit), BeginForm(request.POST))

    def begin(self, keeper: Callable[[HttpRequest], AbstractBaseUser]) -> PracticeSession | None:
        """The session that the form asks for; None where it can't be had, and the page says why."""
        reading = self.reading
        if not self.form.is_valid() or reading is None:
            return None
        told, raced = self.form.cleaned_data, None
        if told["race"]:
            made = PracticeSession.objects.made_by(self.request.user)
            raced = made.finished().filter(pk=told["race"]).first()
            again = read_query(raced.setup, Kit.of(self.request.user)) if raced else None
            if again is None or again.notes:
                self.refusals.append("The session that you want to race, or its set-up, is gone.")
                return None
            self.reading = reading = again
        if reading.notes or not self.can_shoot:  # which the page tells of any set-up
            return None
        new = NewSession(
            subject=raced.subject if raced else told["subject"],
            setup=reading.setup,
            seed=raced.seed if raced else told["seed"],
            level=raced.first_level if raced else told["level"],
            raced=raced,
            reaction_s=told["tries"] or self.last_reaction_s,
        )
        return new.begin(keeper(self.request))

    @property
    def subject(self) -> str:
        """The subject that is chosen."""
        chosen = self.form.data.get("subject", FIRST)
        return chosen if chosen in SUBJECTS else FIRST

    @property
    def given_runs(self) -> dict[str, str]:
        """The number and level of somebody else's runs; empty: they will be new."""
        if not self.form.is_valid() or self.form.cleaned_data["seed"] is None:
            return {}
        return {name: str(self.form.cleaned_data[name]) for name in ("seed", "level")}

    @property
    def query(self) -> str:
        """The query that gives this page again."""
        address = self.reading.address if self.reading else ""
        return f"{address}&{urlencode({'subject': self.subject} | self.given_runs)}"

    @cached_property
    def listed(self) -> Page:  # type: ignore[type-arg]
        """A page of the visitor's sessions, the latest first."""
        made = PracticeSession.objects.made_by(self.request.user).prefetch_related("runs")
        return Paginator(made, ITEMS_ON_A_PAGE).get_page(self.request.GET.get("page"))

    @property
    def sessions(self) -> list[SessionRow]:
        """The same as rows of a list, the best of those like the one that would begin marked."""
        played = [(session, Playing(session)) for session in self.listed]
        setup = practised(self.reading.setup) if self.reading else ""
        alike = [
            playing for session, playing in played
            if session.subject == self.subject and session.setup == setup and playing.possible
            and playing.next_number is None
        ]  # fmt: skip
        best = max(alike, key=lambda one: (one.rows[-1].level, one.share), default=None)
        return [SessionRow(session, playing, playing is best) for session, playing in played]

    @property
    def last_reaction_s(self) -> float | None:
        """The reaction time that was measured last."""
        made = PracticeSession.objects.made_by(self.request.user)
        last = made.filter(reaction_s__isnull=False).first()
        return last.reaction_s if last else None

    @cached_property
    def trend(self) -> Trend | None:
        """That of the subject with the set-up in hand."""
        if self.reading is None:
            return None
        made = PracticeSession.objects.made_by(self.request.user)
        alike = made.alike(self.subject, practised(self.reading.setup)).adaptive()
        return Trend.of(list(alike.values_list("pk", flat=True)))

    @property
    def level(self) -> int:
        """The level that a new session begins at."""
        assert self.reading is not None  # noqa: S101 - there is nothing to begin without a body
        return level_reached(self.request.user, self.subject, practised(self.reading.setup))

    @cached_property
    def full_after_s(self) -> float | None:
        """Seconds at full speed that an empty buffer lasts; None: longer than any run."""
        scenario = self._scenario
        return full_after_s(scenario) if scenario else None

    @cached_property
    def example(self) -> dict[str, Any] | None:
        """An answer as it will look, with the set-up in hand; None without one."""
        scenario = self._scenario
        if scenario is None:
            return None
        run = subject_run(SUBJECTS[self.subject], EXAMPLE_SEED, EXAMPLE_RUN, 1)
        assert run.moment_s is not None  # noqa: S101 - as EXAMPLE_SEED was chosen
        starts_s, ends_s = run.moment_s
        burns_s = (self.full_after_s or 0.0) + EXAMPLE_EARLY_S  # the wall comes before the moment
        press_s = max(0.0, starts_s - burns_s)
        press = Hold(press_s=press_s, hold_s=ends_s + EXAMPLE_LATE_S - press_s)
        score = Score(ShotRun(scenario, [], PlayedRun(run, (press,))), USUAL_S)
        return {
            "answer": Answer(EXAMPLE_RUN, self.subject, score, self.reading),
            "drawing": PracticeDrawing(self.subject, score),
        }

    @property
    def faults(self) -> list[str]:
        """All that is wrong, a sentence each."""
        _, of_setup = self._playable
        of_form = [str(fault) for faults in self.form.errors.values() for fault in faults]
        return [*of_form, *self.refusals, *of_setup]

    @property
    def can_shoot(self) -> bool:
        """Whether there is a set-up to practise with."""
        return self._scenario is not None

    @property
    def _scenario(self) -> Scenario | None:
        scenario, _ = self._playable
        return scenario

    @cached_property
    def _playable(self) -> tuple[Scenario | None, list[str]]:
        """The set-up in hand, or why it can't be practised with."""
        if self.reading is None or not self.reading.setup.complete:
            return None, []
        try:
            return playable(self.reading.setup), []
        except InvalidScenario as error:
            return None, list(fault_words(error))

    @property
    def context(self) -> dict[str, Any]:
        """What its templates ask."""
        setup = self.reading.setup if self.reading else None
        return {
            "page": self, "reading": self.reading, "setup": setup, "sentence_at": "practice",
            "whole_day": True, "scenes": DETAIL_OF_SCENE, "isos": ISO_STEPS,
            "subjects": [(key, WORDS_OF_SUBJECT[key]) for key in SUBJECTS], "runs": RUNS,
            "with_moment": RUNS_WITH_MOMENT, "tries": TRIES, "usual_s": USUAL_S,
            "longest_s": LONGEST_RUN_S,
        }  # fmt: skip


@dataclass(frozen=True)
class SessionPage:
    """The page of a session: the answer to a run, the next run, what they come to."""

    playing: Playing
    request: HttpRequest
    runs: int = RUNS

    @property
    def number(self) -> int | None:
        """The run that is answered: the one asked for, or the last one; None before the first."""
        rows = len(self.playing.rows)
        asked = self.request.GET.get("run", "")
        if asked.isascii() and asked.isdecimal() and len(asked) < 3 and 0 < int(asked) <= rows:
            return int(asked)
        return rows or None

    @cached_property
    def answer(self) -> Answer | None:
        """The answer to it."""
        if self.number is None:
            return None
        session = self.playing.session
        reading = read_query(session.setup, Kit.of(self.request.user))
        still_there = reading if reading and not reading.notes else None
        score = self.playing.score(self.number)
        return Answer(self.number, session.subject, score, still_there)

    @cached_property
    def drawing(self) -> PracticeDrawing | None:
        """The run that is answered, drawn."""
        if self.answer is None:
            return None
        return PracticeDrawing(self.playing.session.subject, self.answer.score)

    @property
    def words(self) -> SubjectWords:
        """Those of its subject."""
        return WORDS_OF_SUBJECT[self.playing.session.subject]

    @property
    def stage_words(self) -> str:
        """What the subject does in each stage, for the script."""
        return json.dumps({**self.words.does, "again": self.words.again})

    @property
    def score_words(self) -> str:
        """What all runs so far came to."""
        kept, possible = self.playing.kept, self.playing.possible
        return f"{figure(kept)} of {figure(possible)} frames of the moments" if possible else ""

    @property
    def raced_words(self) -> str:
        """The same of as many runs of the session that is raced; empty: none is."""
        if self.playing.raced is None:
            return ""
        rows = self.playing.raced.rows[: len(self.playing.rows)]
        kept, possible = sum(row.kept for row in rows), sum(row.possible for row in rows)
        return f"{figure(kept)} of {figure(possible)} then" if possible else ""

    @property
    def friends_query(self) -> str:
        """The query that gives somebody else the same runs, on the same set-up."""
        session = self.playing.session
        runs = {"subject": session.subject, "seed": session.seed, "level": session.first_level}
        return f"{session.setup}&{urlencode(runs)}"

    def next_run(self, presses: Sequence[Hold]) -> dict[str, Any]:
        """The next run for the canvas, as far as it was pressed: moments in s, shares of memory."""
        number = self.playing.next_number
        assert number is not None  # noqa: S101 - asked for by the view
        shot = self.playing.shot(number, presses)
        scenario = shot.scenario
        return {
            "stages": [[stage.kind, stage.starts_s] for stage in shot.run.stages],
            "ends_s": shot.run.ends_s,
            "interval_s": scenario.frame_interval_ns / NS_IN_S,
            "frame_share": scenario.frame_bytes / scenario.memory_bytes,
            "taken_s": (shot.taken_ns / NS_IN_S).tolist(),
            "walls_s": [wall / NS_IN_S for wall in shot.walls_ns],
            "memory": _memory_shares(shot),
            "raced_s": self._raced_s(number),
        }

    def _raced_s(self, number: int) -> list[float]:
        """The strokes of the same run in the session that is raced."""
        raced = self.playing.raced
        if raced is None or number > len(raced.rows):
            return []
        strokes_s: list[float] = (raced.shot(number).taken_ns / NS_IN_S).tolist()
        return strokes_s


def _memory_shares(shot: ShotRun) -> list[list[float]]:
    """Moments at which memory changed, and the share in use from each on."""
    moments_ns, used_bytes = shot.memory
    if len(moments_ns) > MOST_STEPS:
        _, firsts = np.unique(moments_ns[::-1] // STEP_NS, return_index=True)
        lasts = len(moments_ns) - 1 - firsts
        moments_ns, used_bytes = moments_ns[lasts], used_bytes[lasts]
    shares = np.round(used_bytes / shot.scenario.memory_bytes, 5)
    steps: list[list[float]] = np.column_stack((moments_ns / NS_IN_S, shares)).tolist()
    return steps
