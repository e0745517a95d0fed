"""The sessions of the sample account: somebody learns to wait for the gannet, over four weeks."""

from datetime import timedelta
from random import Random
from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser
from django.dispatch import receiver
from django.utils.timezone import now

from accounts.sample_account import made
from engine.burst.scenario import Hold
from engine.practice.presses import holds_of_presses
from engine.practice.subject_run import DECIMALS, RUNS, SubjectRun
from engine.practice.subjects import StageKind
from practice.models import PracticeSession
from practice.playing import NewSession, Playing
from setups.kit import Kit
from setups.reader import read_query

SETUP = "body=quillon-swift-7&format=lossless-raw&fps=30"
DAYS_AGO = (27, 24, 20, 15, 11, 6, 2)
FIRST_SEED = 31
REACTION_S = 0.24
PATIENCE = (0.65, 0.88)  # of the way from its stirring to the moment, in the first and last session
OFF_S = 0.2  # by which a press comes sooner or later than meant
FALSE_PRESS_S = 0.4


@receiver(made)
def keep_sessions(user: AbstractBaseUser, **_: Any) -> None:
    """Keeps them; nothing where the sample kit has no body to practise with."""
    reading = read_query(SETUP, Kit.of(user))
    if reading is None or reading.notes or not reading.setup.complete:
        return
    chance = Random(FIRST_SEED)  # noqa: S311 - a made-up player
    for number, days_ago in enumerate(DAYS_AGO):
        first, last = PATIENCE
        patience = first + (last - first) * number / (len(DAYS_AGO) - 1)
        new = NewSession(
            subject="gannet", setup=reading.setup, seed=FIRST_SEED + number, reaction_s=REACTION_S
        )
        session = new.begin(user)
        playing = Playing(session)
        for run in range(1, RUNS + 1):
            playing.keep(_presses(playing.subject_run(run), patience, chance))
        made_at = now() - timedelta(days=days_ago)
        PracticeSession.objects.filter(pk=session.pk).update(made_at=made_at)


def _presses(run: SubjectRun, patience: float, chance: Random) -> tuple[Hold, ...]:
    """Presses of somebody who waits for a part of the build-up, and falls for some false starts."""
    presses = []
    for stage in run.stages:
        is_last = run.moment_s is not None and stage.starts_s >= run.final_build_up_s
        if stage.kind != StageKind.BUILD_UP or is_last:
            continue
        if chance.random() > patience:
            presses.append((stage.starts_s + REACTION_S, stage.starts_s + FALSE_PRESS_S))
    if run.moment_s is not None:
        starts_s, ends_s = run.moment_s
        meant_s = run.final_build_up_s + patience * (starts_s - run.final_build_up_s)
        press_s = max(meant_s + chance.gauss(0, OFF_S), run.final_build_up_s)
        presses.append((min(press_s, ends_s - OFF_S), ends_s + OFF_S))
    rounded = [(round(down, DECIMALS), round(up, DECIMALS)) for down, up in presses]
    return holds_of_presses(rounded, run.ends_s)
