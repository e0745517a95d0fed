"""How fast each part of the camera can pass frames on, and which part is the narrowest."""

from dataclasses import dataclass
from typing import Literal

from engine.scenario import Scenario, Slot
from engine.units import BYTES_IN_MB

PartName = Literal["sensor", "encoder", "slot 1", "slot 2", "card 1", "card 2"]
Narrowest = PartName | Literal["nothing in this hold"]


@dataclass(frozen=True)
class Part:
    """A part of the path: the frames a second and MB/s that it can pass on in the long run.

    The sensor's are what it makes; `mb_s` counts what goes through that part.
    """

    name: PartName
    fps: float
    mb_s: float


def path(scenario: Scenario) -> list[Part]:
    """The parts that data flows through, in order: sensor, encoder if it limits, card sides.

    A card side is named after the card, unless it is known that the slot passes no more. Where
    one writer serves both slots, each side's rate is what it would be if the other took no time.
    In overflow only slot 1 counts, which is in use until its card is full.
    """
    frame_mb = scenario.file_bytes / BYTES_IN_MB
    parts = [Part("sensor", scenario.frame_rate_fps, scenario.frame_rate_fps * frame_mb)]
    if scenario.process_fps is not None:
        parts.append(Part("encoder", scenario.process_fps, scenario.process_fps * frame_mb))
    for number in used_slots(scenario):
        seconds = writing_s(scenario, number)
        through_mb = scenario.bytes_to(number) / BYTES_IN_MB
        name = _side(scenario.slots[number], number)
        parts.append(Part(name, 1 / seconds, through_mb / seconds))
    return parts


def used_slots(scenario: Scenario) -> range:
    """The slots (0, 1) that every frame goes to from the press on."""
    return range(2 if scenario.arrangement in ("mirror", "split") else 1)


def writing_s(scenario: Scenario, slot: int) -> float:
    """Seconds that `slot` (0 or 1) takes for one frame, its overhead included."""
    side = scenario.slots[slot]
    return side.overhead_s + scenario.timed_bytes(slot) / BYTES_IN_MB / side.write_mb_s


def writer_fps(scenario: Scenario) -> float:
    """Frames a second that the card sides write together, by the table of couplings."""
    slots = used_slots(scenario)
    times_s = [writing_s(scenario, number) for number in slots]
    if len(times_s) == 1 or scenario.coupling == "parallel":
        return 1 / max(times_s)
    if scenario.coupling == "serial":
        return 1 / sum(times_s)
    overheads_s = [scenario.slots[number].overhead_s for number in slots]
    transfers_s = [time - overhead for time, overhead in zip(times_s, overheads_s, strict=True)]
    return 1 / (max(overheads_s) + max(transfers_s))


def sustained_fps(scenario: Scenario) -> float | None:
    """Frames a second after the wall: the encoder's rate or the writer's, whichever is lower.

    None when that is not below the frame rate, so that the burst never ends. It is the long-run
    rate of a memory in which encoder and writer work side by side; a memory with room for only
    one or two frames keeps one of them waiting, and goes slower than this. It holds once a card's
    cache is used up, and until the card is nearly full or overflow goes on in slot 2.
    """
    slowest = min(writer_fps(scenario), scenario.process_fps or float("inf"))
    # A rate a billionth below the frame rate is the same rate, rounded.
    return None if slowest >= scenario.frame_rate_fps * (1 - 1e-9) else slowest


def narrowest(scenario: Scenario, *, wall_met: bool) -> Narrowest:
    """The part that everything else waits for.

    The sensor when encoder and writer keep up with it; nothing when memory outlasts the hold.
    Of equals the encoder is named before the card sides, as no card would help, and slot 1's side
    before slot 2's.
    """
    rate_fps = sustained_fps(scenario)
    if rate_fps is None:
        return "sensor"
    if not wall_met:
        return "nothing in this hold"
    if scenario.process_fps is not None and scenario.process_fps <= writer_fps(scenario):
        return "encoder"
    sides = [part for part in path(scenario) if part.name not in ("sensor", "encoder")]
    return min(sides, key=lambda part: part.fps).name


def next_in_line(scenario: Scenario) -> Part | None:
    """The part that limits once the narrowest does not: the most that widening that one brings.

    None when the narrowest is alone in the path. Where one writer serves both slots, widening one
    side brings less than this, as the other still takes its time.
    """
    parts = sorted(path(scenario), key=lambda part: part.fps)
    limiting = narrowest(scenario, wall_met=True)
    others = [part for part in parts if part.name != limiting]
    return others[0] if others else None


def _side(slot: Slot, number: int) -> PartName:
    limited_by_card = slot.slot_limit_mb_s is not None and slot.write_mb_s < slot.slot_limit_mb_s
    if number == 0:
        return "card 1" if limited_by_card else "slot 1"
    return "card 2" if limited_by_card else "slot 2"
