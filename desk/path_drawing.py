"""The path of the data, drawn to scale: how much each part can pass on, and the narrowest."""

from collections.abc import Collection
from dataclasses import dataclass

from engine import Result
from engine.burst.rates import Part

HEIGHT = 136
LABEL_HEIGHT = 34  # two lines above each part
WIDEST = 2.0  # times the sensor's rate: a part wider than this is drawn this wide
LEAST_HEIGHT = 5


WORDS_OF_PART = {"encoder": "processor"}


@dataclass(frozen=True)
class Box:
    """One part: its place in per cent of the width and units of height, and what it says."""

    part: Part
    left: float
    width: float
    top: float
    height: float
    narrowest: bool

    @property
    def words(self) -> str:
        """What a photographer calls the part."""
        return part_words(self.part)


def part_words(part: Part) -> str:
    """What a photographer calls a part of the camera: "processor", "card 1"."""
    return WORDS_OF_PART.get(part.name, part.name)


def draw_path(result: Result, narrowest: Collection[str], *, shows_encoder: bool) -> list[Box]:
    """Sensor, encoder and card sides from left to right, each as high as the rate it can pass.

    At the speeds at which the burst ended; `narrowest` names the parts that everything waits for.
    A processor of which nobody knows anything is best not shown.
    """
    parts = result.final_regime.path
    shown = ("sensor", "encoder") if shows_encoder else ("sensor",)
    inner = [part for part in parts if part.name in shown]
    sides = [part for part in parts if part.name not in ("sensor", "encoder")]
    width = 100 / (len(inner) + 1)
    room = HEIGHT / len(sides) - LABEL_HEIGHT  # so that all parts have one scale
    lane = HEIGHT / len(sides)
    boxes = [
        _box(part, number * width, width, HEIGHT / 2, room, result, narrowest)
        for number, part in enumerate(inner)
    ]
    return boxes + [
        _box(part, len(inner) * width, width, lane * (number + 0.5), room, result, narrowest)
        for number, part in enumerate(sides)
    ]


def _box(
    part: Part, left: float, width: float, middle: float, room: float, result: Result,
    narrowest: Collection[str],
) -> Box:  # fmt: skip
    share = min(part.fps / (WIDEST * result.scenario.frame_rate_fps), 1)
    height = max(share * room, LEAST_HEIGHT)
    top = middle + (LABEL_HEIGHT - height) / 2
    return Box(part, left, width, round(top, 1), round(height, 1), part.name in narrowest)
