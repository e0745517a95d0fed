"""Runs that contradict the other runs: each suspect is left out and held against the rest.

That a run is unusual is nothing against it: it may show a body that is unusual. So a run is judged
by what the other runs alone let expect of it (leave-one-out prediction), and only where all of them
together can't explain it either.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from engine.figures.uncertainty import Z_80
from engine.formats import figure, span
from engine.measurement.forward import Noted, Real, misfits, seen_by
from engine.measurement.learning import Learning
from engine.measurement.learnt import LearntBody
from engine.measurement.runs import ObservedRun
from engine.quantities import HIGH, LOW, MIDDLE

BODIES = 100  # are enough to judge a run by
SUSPECT = 2.0  # deviations from what all runs together let expect
MOST_SUSPECTS = 3  # at a time, the furthest off first
# In all that is learnt anew, some 20 s; what is found by then is for people, before the rest.
MOST_LEARNT_ANEW = 400
CONTRADICTS = 3.5  # deviations from what the other runs let expect
FEWEST_OTHERS = 2  # one other run tells too little of another set-up
SEED = 5
# What an observation is in words, and what may be wrong where it is less or more than expected.
_OBSERVATIONS = {
    "frames_at_full_speed": (
        "frames at full speed",
        "was it another format, or the slowing heard too early?",
        "was it another format or card, or the slowing heard too late?",
    ),
    "frames": (
        "frames",
        "was the button let go earlier, or the card full?",
        "were they counted twice, or the button held longer?",
    ),
    "clear_s": (
        "s from finger up until the light was out",
        "was another card in, or were the files smaller?",
        "was another card in, the card nearly full, or the time taken from the press?",
    ),
    "frame_rate_fps": (
        "fps",
        "was another rate set, or did a lens or the battery slow it?",
        "was another rate set?",
    ),
    "files_mb": (
        "MB a frame",
        "was it another format or scene?",
        "was it another format or scene?",
    ),
    "did_not_slow": ("no slowing", "", "was the slowing missed, or another format or card used?"),
}


@dataclass(frozen=True)
class ContradictingRun:
    """A run, by its place, that does not fit the others, by what was noted of it: `name`.

    That was `noted`, where the others let expect from `low` to `high`; `off` by so many deviations.
    """

    place: int
    name: str
    noted: float
    low: float
    high: float
    off: float

    @property
    def words(self) -> str:
        """What does not go together, and what could explain it."""
        what, less, more = _OBSERVATIONS[self.name]
        if self.name == "did_not_slow":
            return f"no slowing was noted, where the other runs let expect it: {more}"
        expected = span(self.low, self.high)
        why = less if self.noted < self.low else more
        return f"{figure(self.noted)} {what}, where the other runs let expect {expected}: {why}"


def contradictions(
    learnt: LearntBody, advanced: Callable[[], object] = lambda: None
) -> list[ContradictingRun]:
    """The runs that don't fit the others; whether to leave them out is for people.

    The one furthest off goes first, and the rest is judged without it, as it may have pulled the
    others along. Two that are left are held against each other where they are of one set-up, as no
    unusual body explains that they differ; both may be found. Of very many that contradict each
    other only those furthest off are found at a time. `advanced` is called after each step of
    learning, and ends it by raising.
    """
    places, found, left = list(range(len(learnt.runs))), [], MOST_LEARNT_ANEW
    while len(places) > FEWEST_OTHERS and left > 0:
        suspects = _suspects(learnt)
        left -= len(suspects) * len(places)
        rest = _learnt_without(learnt.runs, suspects, advanced)
        held = _held_against(learnt.runs, rest)
        worst = max(held, key=lambda one: one.off, default=None)
        if worst is None or worst.off < CONTRADICTS:
            break
        found.append(replace(worst, place=places.pop(worst.place)))
        learnt = rest[worst.place]
    if len(places) == FEWEST_OTHERS and _are_of_one_setup(learnt.runs):
        rest = _learnt_without(learnt.runs, range(FEWEST_OTHERS), advanced)
        found += [
            replace(one, place=places[one.place])
            for one in _held_against(learnt.runs, rest)
            if one.off >= CONTRADICTS
        ]
    return sorted(found, key=lambda one: one.place)


def _are_of_one_setup(runs: Sequence[ObservedRun]) -> bool:
    first, second = runs
    same_hold = replace(second.scenario, hold_s=first.scenario.hold_s)
    return first.figures == second.figures and first.scenario == same_hold


def _suspects(learnt: LearntBody) -> list[int]:
    worst = [max(map(abs, misfits.values()), default=0.0) for misfits in learnt.misfits]
    suspects = [place for place, off in enumerate(worst) if off > SUSPECT]
    return sorted(suspects, key=lambda place: -worst[place])[:MOST_SUSPECTS]


def _learnt_without(
    runs: Sequence[ObservedRun], suspects: Iterable[int], advanced: Callable[[], object]
) -> dict[int, LearntBody]:
    """What the other runs teach, by the place of each suspect."""
    others = {one: [run for place, run in enumerate(runs) if place != one] for one in suspects}
    return {one: LearntBody.of(Learning(rest, BODIES), advanced) for one, rest in others.items()}


def _held_against(
    runs: Sequence[ObservedRun], rest: Mapping[int, LearntBody]
) -> list[ContradictingRun]:
    """How far each suspect is off what the others let expect."""
    held = (_furthest_off(runs[suspect], suspect, others) for suspect, others in rest.items())
    return [one for one in held if one]


def _furthest_off(run: ObservedRun, place: int, others: LearntBody) -> ContradictingRun | None:
    """What was noted of a run that is furthest off what the others let expect; None: nothing was.

    In deviations of what the others do; the errors of noting are in these.
    """
    random = np.random.Generator(np.random.PCG64(SEED))
    noted, shot = Noted.of([run]), others.shooting(run, random)
    expected = misfits(noted, seen_by(shot, [run]))
    found = []
    for name, of_run in expected.items():
        if not np.isnan(of_run).any():
            errors = others.error_ratio * random.standard_normal(len(of_run))
            off = of_run[:, 0] + errors
            value, low, high = noted.range_of(name, off)
            found.append(ContradictingRun(place, name, value, low, high, _beyond(off)))
    return max(found, key=lambda one: one.off, default=None)


def _beyond(misfits: Real) -> float:
    """How far 0, which was seen, is from the middle, by the spread on that side of it."""
    low, middle, high = np.quantile(misfits, (LOW, MIDDLE, HIGH))
    spread = (high - middle if middle < 0 else middle - low) / Z_80
    return float(abs(middle) / spread)
