"""What a choice says, in words."""

from collections.abc import Iterator
from functools import partial

from django.template.defaultfilters import pluralize

from engine import Result
from engine.formats import figure
from engine.quantities import NOTICED_S
from engine.selection.choice import Choice, Miss, Step
from engine.selection.goals import GOALS, goals_of
from engine.selection.requirements import Need
from prices.amounts import amount
from setups.words import light_words


def goal_lines(choice: Choice, place: int, currency: str) -> Iterator[tuple[str, str, str]]:
    """For each goal what is asked, what is reached, and how often."""
    reached, money = choice.reached(place), partial(amount, currency=currency)
    for goal in goals_of(choice.need):
        share = float(choice.options.chance[place, GOALS.index(goal)])
        yield (
            goal.wanted_words(choice.need, money),
            goal.reached_words(reached, choice.need, money),
            goal.odds_words(share, choice.draws(place, goal), choice.need) if goal.has_odds else "",
        )


def miss_words(miss: Miss, need: Need, currency: str) -> str:
    """Why an option fails: the first goal that it misses, and by how much."""
    often, money = (
        miss.goal.odds_words(miss.share, miss.draws, need),
        partial(amount, currency=currency),
    )
    return miss.goal.missed_words(miss.wanted, miss.reached, often, need, money)


def step_words(step: Step) -> str:
    """What the money of a step buys in the camera; empty for nothing that can be told."""
    said = []
    if step.more_frames:
        way = "more" if step.more_frames > 0 else "fewer"
        frames = abs(step.more_frames)
        said.append(f"{figure(frames)} frame{pluralize(frames)} {way} at full speed")
    if round(step.sooner_s, 1):
        said.append(light_words(step.sooner_s))
    return ", ".join(said)


def safety_words(two_copies: Result, one_copy: Result) -> str:
    """What writing everything twice costs against once."""
    before, after = (_full_speed(shot) for shot in (one_copy, two_copies))
    later_s = two_copies.clear_s - one_copy.clear_s
    said = []
    if after < before:
        said.append(f"{figure(before - after)} of {figure(before, 'frames')} at full speed")
    if later_s > NOTICED_S:
        said.append(f"{figure(later_s, 's')} until the light is out")
    return (
        f"The second copy costs {' and '.join(said)}." if said else "The second copy costs nothing."
    )


def _full_speed(shot: Result) -> int:
    return shot.frames if shot.frames_at_full_speed is None else shot.frames_at_full_speed
