"""What a choice says, in words."""

from collections.abc import Iterator

from django.template.defaultfilters import pluralize

from engine import Result
from engine.formats import exact, figure, odds
from engine.quantities import NOTICED_S, NS_IN_S, S_IN_MINUTE
from engine.selection.choice import Choice, Miss, Step
from engine.selection.options import GOALS
from engine.selection.requirements import DAY_GOALS, Goal, Need
from prices.amounts import amount
from setups.words import light_words


def goal_odds(goal: Goal, share: float, draws: int) -> str:
    """In what part of all bursts, or days, `goal` is met."""
    return odds(share, draws, "days" if goal in DAY_GOALS else "bursts")


def wanted_words(goal: Goal, need: Need, currency: str) -> str:
    """One goal of a need, as it is asked for."""
    return {
        Goal.COPIES: "two copies",
        Goal.BUDGET: f"{amount(need.budget_cents or 0, currency)} at most",
        Goal.DAY: (
            f"{figure(need.frames_a_day)} frames a day"
            if need.frames_a_day
            else f"room for {exact(need.goes_on_min or 0)} min of it"
        ),
        Goal.COPIED: f"copied within {exact(need.copied_min or 0)} min",
        Goal.FULL_RATE: f"full speed for {exact(need.full_rate_s or 0)} s",
        Goal.FRAMES: f"{figure(need.frames or 0)} frames in {exact(need.counted_in_s)} s",
        Goal.PICTURE: f"{need.picture} picture to look at within {exact(need.picture_s or 0)} s",
        Goal.LIGHT_OUT: f"card light out within {exact(need.light_out_s or 0)} s",
    }[goal]


def reached_words(choice: Choice, place: int, goal: Goal, currency: str) -> str:
    """What the option at `place` reaches of `goal`, with everything as it is most likely to be."""
    options, need = choice.options, choice.need
    option = choice.option(place)
    full_s = int(options.full_speed[place]) / option.mode.frame_rate_fps
    price = int(options.price_cents[place])
    copy_s = float(options.copy_s[place])
    return {
        Goal.COPIES: "two copies" if option.use.arrangement == "mirror" else "one copy",
        Goal.BUDGET: "price not known" if price < 0 else amount(price, currency),
        Goal.DAY: f"room for {figure(int(options.day_frames[place]))} frames",
        Goal.COPIED: (
            "no reader takes it" if copy_s == float("inf") else figure(copy_s / S_IN_MINUTE, "min")
        ),
        Goal.FULL_RATE: (
            "all of it" if full_s >= need.lasts_s else f"full speed for {figure(full_s, 's')}"
        ),
        Goal.FRAMES: f"{figure(int(options.counted[place]))} frames",
        Goal.PICTURE: f"after {figure(int(options.ready_ns[place]) / NS_IN_S, 's')}",
        Goal.LIGHT_OUT: f"after {figure(int(options.clear_ns[place]) / NS_IN_S, 's')}",
    }[goal]


def goal_lines(choice: Choice, place: int, currency: str) -> Iterator[tuple[str, str, str]]:
    """For each goal what is asked, what is reached, and how often."""
    for goal in choice.need.goals:
        share = float(choice.options.chance[place, GOALS.index(goal)])
        certain = goal in (Goal.COPIES, Goal.BUDGET)
        yield (
            wanted_words(goal, choice.need, currency),
            reached_words(choice, place, goal, currency),
            "" if certain else goal_odds(goal, share, choice.draws(place, goal)),
        )


def miss_words(miss: Miss, need: Need, currency: str) -> str:
    """Why an option fails: the first goal that it misses, and by how much."""
    return "".join(_miss_parts(miss, need, currency))


def _miss_parts(miss: Miss, need: Need, currency: str) -> Iterator[str]:
    wanted = wanted_words(miss.goal, need, currency)
    if miss.goal is Goal.COPIES:
        yield "one copy only, where two are asked for"
        return
    if miss.reached is None:
        yield "no reader takes it" if miss.goal is Goal.COPIED else "its price is not known"
        return
    lacking = abs(miss.wanted - miss.reached)
    short = (miss.reached < miss.wanted) is (miss.goal in _MORE_IS_BETTER)
    if miss.goal is Goal.BUDGET:
        yield f"{amount(lacking, currency)} over {wanted.removesuffix(' at most')}"
        return
    reached = {
        Goal.DAY: f"{figure(miss.reached)} frames fit",
        Goal.COPIED: f"copying takes {figure(miss.reached, 'min')}",
        Goal.FULL_RATE: f"full speed lasts {figure(miss.reached, 's')}",
        Goal.FRAMES: f"{figure(miss.reached)} frames in {exact(need.counted_in_s)} s",
        Goal.PICTURE: f"the {need.picture} picture after {figure(miss.reached, 's')}",
        Goal.LIGHT_OUT: f"light out after {figure(miss.reached, 's')}",
    }[miss.goal]
    yield reached
    if need.every_s and miss.goal in (Goal.FULL_RATE, Goal.FRAMES):
        yield " in the worst burst"
    if short and lacking:
        yield f", {figure(lacking, _UNIT_OF_GOAL[miss.goal])} {_LACKS[miss.goal]}"
    else:
        yield f", but only {goal_odds(miss.goal, miss.share, miss.draws)}"


_MORE_IS_BETTER = (Goal.DAY, Goal.FULL_RATE, Goal.FRAMES)
_UNIT_OF_GOAL = {
    Goal.DAY: "frames", Goal.COPIED: "min", Goal.FULL_RATE: "s", Goal.FRAMES: "frames",
    Goal.PICTURE: "s", Goal.LIGHT_OUT: "s",
}  # fmt: skip
_LACKS = {
    Goal.DAY: "too few", Goal.COPIED: "too long", Goal.FULL_RATE: "too short",
    Goal.FRAMES: "too few", Goal.PICTURE: "too late", Goal.LIGHT_OUT: "too late",
}  # fmt: skip


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
