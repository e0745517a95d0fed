"""What the subjects are called, and what they do in each stage."""

from dataclasses import dataclass

from engine.practice.subjects import StageKind


@dataclass(frozen=True, kw_only=True)
class SubjectWords:
    """The words of a subject: its name, what it does, its moment as a noun ("before the entry").

    `does` is said as a stage begins, `did` is for "while it ..." afterwards, `again` is said when
    it goes back to waiting.
    """

    name: str
    about: str
    moment: str
    again: str
    does: dict[StageKind, str]
    did: dict[StageKind, str]


WORDS_OF_SUBJECT = {
    "gannet": SubjectWords(
        name="Gannet, Skerry Head",
        about="It circles, tips over, and dives. Keep it going into the water.",
        moment="the entry",
        again="It circles on.",
        does={
            StageKind.WAITING: "It circles.",
            StageKind.BUILD_UP: "It tips over.",
            StageKind.LEAD: "It dives.",
            StageKind.MOMENT: "It hits the water.",
            StageKind.AFTER: "It is under.",
        },
        did={
            StageKind.WAITING: "circled",
            StageKind.BUILD_UP: "tipped over",
            StageKind.LEAD: "dived",
            StageKind.MOMENT: "went in",
            StageKind.AFTER: "was under",
        },
    ),
    "gate": SubjectWords(
        name="Start gate, Brackwater",
        about="The paddlers lean forward, and the gate drops without a sign. Keep the start.",
        moment="the start",
        again="They sit back.",
        does={
            StageKind.WAITING: "They wait.",
            StageKind.BUILD_UP: "They lean forward.",
            StageKind.MOMENT: "The gate drops.",
            StageKind.AFTER: "They are off.",
        },
        did={
            StageKind.WAITING: "waited",
            StageKind.BUILD_UP: "leant forward",
            StageKind.MOMENT: "started",
            StageKind.AFTER: "were off",
        },
    ),
    "kayak": SubjectWords(
        name="Kayak, Brackwater weir",
        about="It turns, runs at the gate, and rolls through. Keep the roll.",
        moment="the roll",
        again="It drifts back.",
        does={
            StageKind.WAITING: "It paddles upstream.",
            StageKind.BUILD_UP: "It turns.",
            StageKind.LEAD: "It runs at the gate.",
            StageKind.MOMENT: "It rolls.",
            StageKind.AFTER: "It is through.",
        },
        did={
            StageKind.WAITING: "paddled upstream",
            StageKind.BUILD_UP: "turned",
            StageKind.LEAD: "ran at the gate",
            StageKind.MOMENT: "rolled",
            StageKind.AFTER: "was through",
        },
    ),
    "bird": SubjectWords(
        name="Perched bird",
        about="It leans forward, and flies, or doesn't. Keep the take-off.",
        moment="the take-off",
        again="It sits back.",
        does={
            StageKind.WAITING: "It sits.",
            StageKind.BUILD_UP: "It leans forward.",
            StageKind.LEAD: "It opens its wings.",
            StageKind.MOMENT: "It takes off.",
            StageKind.AFTER: "It is away.",
        },
        did={
            StageKind.WAITING: "sat",
            StageKind.BUILD_UP: "leant forward",
            StageKind.LEAD: "opened its wings",
            StageKind.MOMENT: "took off",
            StageKind.AFTER: "was away",
        },
    ),
}
PLURAL = ("gate",)  # "while they leant forward"
