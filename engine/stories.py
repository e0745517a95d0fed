"""Jobs as short stories, each with the numbers that it stands for; working assumptions of Ondata's.

They are where a photographer starts from and changes what is different. Durations are those of
the action from the moment that the finger goes down, readiness the time until the next one.
"""

from dataclasses import dataclass

from engine.need import Need


@dataclass(frozen=True)
class Story:
    """A job: its trade, its title, what happens in a sentence or two, and what it needs."""

    name: str
    trade: str
    title: str
    words: str
    need: Need


STORIES = (
    Story(
        "plunge-dive",
        "wildlife",
        "A plunge dive",
        "The gannet folds its wings and is under water two seconds later. You press when it tips "
        "over, and the entry is the picture; the next bird is already turning.",
        Need(lasts_s=3, full_rate_s=3, ready_s=6, frames_a_day=4_000),
    ),
    Story(
        "take-off",
        "wildlife",
        "A take-off",
        "The swan runs along the water before it lifts. It takes its time, and every stride may be "
        "the one; afterwards there is a long wait.",
        Need(lasts_s=6, full_rate_s=5, ready_s=20, frames_a_day=2_500),
    ),
    Story(
        "may-fly",
        "wildlife",
        "A perched bird that may fly",
        "It leans, shifts, leans again: you hold the button in hope, and memory must not be full "
        "when it goes. Then again, ten minutes later.",
        Need(lasts_s=10, frames=80, frames_in_s=10, ready_s=15, frames_a_day=3_000),
    ),
    Story(
        "start",
        "sport",
        "A start",
        "The boats leave the line within a second of each other. Two copies go on the cards, "
        "because nobody starts again for you; the next heat is minutes away.",
        Need(lasts_s=4, full_rate_s=3, ready_s=30, frames_a_day=3_000, copies=2),
    ),
    Story(
        "gate-run",
        "sport",
        "A gate run",
        "The kayak takes two gates in front of you, with a breath in between, and the next boat is "
        "on the course already.",
        Need(lasts_s=5, frames=40, frames_in_s=5, ready_s=8, frames_a_day=6_000),
    ),
    Story(
        "sprint-finish",
        "sport",
        "A sprint finish",
        "Four metres before the line until the arms go up. The desk wants the first picture while "
        "the winner still stands there.",
        Need(
            lasts_s=6, full_rate_s=4, ready_s=3, ready_for="first picture", frames_a_day=5_000,
            copied_min=20,
        ),
    ),
    Story(
        "rebound",
        "sport",
        "A rebound",
        "The shot, the save, and the second shot that counts: two short bursts with a second in "
        "between.",
        Need(lasts_s=2, full_rate_s=2, ready_s=1, frames_a_day=5_000),
    ),
)  # fmt: skip
STORY_OF_NAME = {story.name: story for story in STORIES}
