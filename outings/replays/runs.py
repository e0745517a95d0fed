"""Runs for the Bench out of a day's long bursts."""

from collections.abc import Iterator
from dataclasses import replace
from urllib.parse import urlencode

import numpy as np
from django.contrib.auth.base_user import AbstractBaseUser

from bench.forms import RunForm
from bench.found_bursts import FoundBurst
from bench.measured import predicted_of
from bench.models import Run
from bench.run_file import Received, save_runs
from engine.measurement.capture_times import day_of
from engine.measurement.strokes import Strokes
from outings.replays.day import DayReplay
from outings.words import has_day
from pages.refusals import Refused
from setups.prediction import predict

MOST_RUNS_OF_DAY = 12
FEWEST_FRAMES = 8  # of a burst that tells more than its rate


def runs_of(day: DayReplay, owner: AbstractBaseUser) -> list[Run]:
    """The longest bursts of one press each that began on an empty buffer, as runs, not saved.

    They keep what is predicted for such a burst, so that the track record of the body has them.
    """
    setup, found = day.reading.setup, []
    for burst in _long_bursts(day):
        run = Run(body=setup.body, owner_id=owner.pk)
        form = RunForm(burst.filled, instance=run, fps=setup.rate.fps)
        if form.is_valid():
            run = form.save(commit=False)
            shot = replace(setup, hold_s=form.cleaned_data["hold_s"])
            run.setup, run.predicted = urlencode(shot.address), predicted_of(predict(shot))
            found.append(run)
    return found


def keep_runs(day: DayReplay, owner: AbstractBaseUser) -> Received:
    """Saves them; those that are there already are left out. Raises Refused where there is none."""
    if not (runs := runs_of(day, owner)):
        raise Refused(
            [
                "No burst of this day tells more of the body: it takes one of "
                f"{FEWEST_FRAMES} frames or more, by one press, on an empty buffer."
            ]
        )
    return save_runs(runs, owner)


def _long_bursts(day: DayReplay) -> Iterator[FoundBurst]:
    bursts, taken = day.was.bursts, day.pictures.taken
    first_frames = np.cumsum([0, *(burst.frames for burst in bursts)])
    presses = np.diff(np.append(day.was.first_presses, len(day.was.presses.press_ns)))
    clear_s = day.predicted.day.clear_s
    rested = [
        number
        for number, burst in enumerate(bursts)
        if burst.frames >= FEWEST_FRAMES
        and presses[number] == 1
        and (number == 0 or clear_s[number - 1] <= (bursts[number - 1].next_press_s or 0))
    ]
    longest = sorted(rested, key=lambda number: bursts[number].frames, reverse=True)
    for number in sorted(longest[:MOST_RUNS_OF_DAY]):
        frames = slice(first_frames[number], first_frames[number + 1])
        times_s = (taken.times_s[frames] - taken.times_s[frames.start]).tolist()
        press_s = bursts[number].press_s
        yield FoundBurst(
            "files", "", times_s, Strokes(tuple(times_s), taken.resolution_s),
            float(taken.mb[frames].mean()),
            day=day_of(press_s).isoformat() if has_day(press_s) else "",
        )  # fmt: skip
