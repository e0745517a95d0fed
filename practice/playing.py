"""A session as the engine plays it: its runs, what was pressed so far, and what comes next."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from urllib.parse import urlencode

from django.contrib.auth.base_user import AbstractBaseUser
from django.db import transaction
from django.utils.crypto import get_random_string

from engine.burst.scenario import Hold, Scenario
from engine.files.scenario_file import read_scenario, scenario_values
from engine.practice.score import Score, share_kept
from engine.practice.shot_run import PlayedRun, ShotRun, never_full
from engine.practice.staircase import FIRST_LEVEL, next_level
from engine.practice.subject_run import RUNS, SubjectRun, subject_run
from engine.practice.subjects import SUBJECTS
from kit import edit
from kit.models import Visitor
from pages.refusals import Refused
from practice.models import LONGEST_SETUP_NAME, PracticeRun, PracticeSession
from setups import keys
from setups.engine_adapter import scenario_of
from setups.setup import Setup

NOT_OF_PRACTICE = (keys.HOLD, keys.free(1), keys.free(2))  # the hold is the player's


def practised(setup: Setup) -> str:
    """The query of a set-up as far as practice with it depends on it."""
    said = {key: value for key, value in setup.address.items() if key not in NOT_OF_PRACTICE}
    return urlencode(said)


def playable(setup: Setup) -> Scenario:
    """A set-up as it is practised with. Raises InvalidScenario where it can't shoot."""
    return never_full(scenario_of(setup))


def new_seed() -> int:
    """The number of runs that nobody has seen."""
    return 1 + int(get_random_string(8, "0123456789"))


def level_reached(visitor: Visitor, subject: str, setup: str) -> int:
    """The level that the visitor's next session of that subject begins at, on that set-up."""
    alike = PracticeSession.objects.made_by(visitor).alike(subject, setup).adaptive()
    last = PracticeRun.objects.filter(session__in=alike).order_by("session__made_at", "pk").last()
    return next_level(last.level, last.succeeded) if last else FIRST_LEVEL


@dataclass(frozen=True, kw_only=True)
class NewSession:
    """What a session begins with; without a `level` its difficulty follows skill."""

    subject: str
    setup: Setup
    seed: int | None = None
    level: int | None = None
    raced: PracticeSession | None = None
    reaction_s: float | None = None

    def begin(self, owner: AbstractBaseUser) -> PracticeSession:
        """Keeps it, on runs that nobody has seen unless there is a seed.

        Raises Refused where there is no room, InvalidScenario where it can't shoot.
        """
        query = practised(self.setup)
        level = self.level
        if level is None:
            level = level_reached(owner, self.subject, query)
        session = PracticeSession(
            owner_id=owner.pk,
            subject=self.subject,
            seed=new_seed() if self.seed is None else self.seed,
            setup=query,
            name=self.setup.name_for_any_hold[:LONGEST_SETUP_NAME],
            scenario=json.dumps(scenario_values(playable(self.setup))),
            first_level=level,
            is_adaptive=self.level is None,
            raced=self.raced,
            reaction_s=self.reaction_s,
        )
        with transaction.atomic():
            edit.lock(owner)
            if words := PracticeSession.objects.made_by(owner).no_room_words():
                raise Refused([words])
            session.full_clean(exclude=["owner"])
            session.save()
        return session


@dataclass(frozen=True)
class Playing:
    """A session with the runs that were played."""

    session: PracticeSession

    @cached_property
    def rows(self) -> list[PracticeRun]:
        """The runs, in order."""
        return list(self.session.runs.all())

    @cached_property
    def scenario(self) -> Scenario:
        """The set-up in hand."""
        return read_scenario(self.session.scenario)

    @property
    def next_number(self) -> int | None:
        """The number of the run that comes next; None once all were played."""
        return len(self.rows) + 1 if len(self.rows) < RUNS else None

    @property
    def next_level(self) -> int:
        """How difficult that is."""
        if self.raced is not None:
            return self.raced.level_of(len(self.rows) + 1)
        if not self.session.is_adaptive or not self.rows:
            return self.session.first_level
        return next_level(self.rows[-1].level, self.rows[-1].succeeded)

    @cached_property
    def raced(self) -> "Playing | None":
        """The session that this one races."""
        return Playing(self.session.raced) if self.session.raced else None

    def level_of(self, number: int) -> int:
        """The level of a run that was played, or else what it would be."""
        return self.rows[number - 1].level if number <= len(self.rows) else self.next_level

    def subject_run(self, number: int) -> SubjectRun:
        """What the subject does in a run."""
        session = self.session
        subject = SUBJECTS[session.subject]
        return subject_run(subject, session.seed, number, self.level_of(number))

    def shot(self, number: int, presses: Sequence[Hold] | None = None) -> ShotRun:
        """A run as it was shot, or with other `presses`; the one that comes next has none yet."""
        earlier = [PlayedRun(self.subject_run(row.number), row.holds)
                   for row in self.rows[: number - 1]]  # fmt: skip
        if presses is None:
            presses = self.rows[number - 1].holds if number <= len(self.rows) else ()
        played = PlayedRun(self.subject_run(number), tuple(presses))
        return ShotRun(self.scenario, earlier, played)

    def score(self, number: int) -> Score:
        """What a run came to."""
        return Score(self.shot(number), self.session.reacts_in_s)

    def keep(self, presses: Sequence[Hold]) -> PracticeRun:
        """Keeps the presses of the run that comes next; there must be one."""
        number = len(self.rows) + 1
        score = Score(self.shot(number, presses), self.session.reacts_in_s)
        row = PracticeRun(
            session=self.session,
            number=number,
            level=self.next_level,
            presses=[[hold.press_s, hold.hold_s] for hold in presses],
            frames=score.shot.frames,
            kept=score.kept,
            possible=score.possible,
        )
        row.full_clean(exclude=["session"])
        row.save()
        self.rows.append(row)
        return row

    @property
    def kept(self) -> int:
        """Frames of all moments that were kept."""
        return sum(row.kept for row in self.rows)

    @property
    def share(self) -> float:
        """The share of the possible ones; 0 where there were none."""
        return share_kept(self.kept, self.possible) or 0.0

    @property
    def possible(self) -> int:
        """Frames of all moments that were possible."""
        return sum(row.possible for row in self.rows)
