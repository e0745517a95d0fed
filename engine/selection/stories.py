"""Jobs as short stories, each with the numbers that it stands for; working assumptions of Ondata's.

They are where a photographer starts from and changes what is different. Durations are those of
the action from the moment that the finger goes down; it comes again every so often, from press to
press.
"""

from dataclasses import dataclass

from engine.selection.requirements import Need


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
        Need(lasts_s=3, every_s=10, goes_on_min=20, full_rate_s=3),
    ),
    Story(
        "take-off",
        "wildlife",
        "A take-off",
        "The swan runs along the water before it lifts. It takes its time, and every stride may be "
        "the one; afterwards there is a long wait.",
        Need(lasts_s=6, every_s=30, goes_on_min=10, full_rate_s=5),
    ),
    Story(
        "may-fly",
        "wildlife",
        "A perched bird that may fly",
        "It leans, shifts, leans again: you hold the button in hope, and the buffer must not be "
        "full when it goes. Then again, half a minute later.",
        Need(lasts_s=10, every_s=30, goes_on_min=8, frames=80, frames_in_s=10),
    ),
    Story(
        "start",
        "sport",
        "A start",
        "The boats leave the line within a second of each other. Two copies go on the cards, "
        "because nobody starts again for you; the next heat is minutes away.",
        Need(lasts_s=4, every_s=120, goes_on_min=80, full_rate_s=3, copies=2),
    ),
    Story(
        "gate-run",
        "sport",
        "A gate run",
        "The kayak takes two gates in front of you, with a breath in between, and the next boat is "
        "on the course already.",
        Need(lasts_s=5, every_s=15, goes_on_min=15, frames=40, frames_in_s=5),
    ),
    Story(
        "sprint-finish",
        "sport",
        "A sprint finish",
        "Four metres before the line until the arms go up. That last picture is the one that the "
        "desk wants, while the winner still stands there.",
        Need(
            lasts_s=6, every_s=240, goes_on_min=160, full_rate_s=4, picture_s=5, picture="last",
            copied_min=20,
        ),
    ),
    Story(
        "rebound",
        "sport",
        "A rebound",
        "The shot, the save, and the second shot that counts: two short bursts with a second in "
        "between.",
        Need(lasts_s=2, every_s=3, goes_on_min=0.1, full_rate_s=2),
    ),
)  # fmt: skip
STORY_OF_NAME = {story.name: story for story in STORIES}
