"""How fast each part of the camera can pass frames on, and which part is the narrowest."""

from typing import Literal

from engine.scenario import Scenario

Part = Literal["sensor", "encoder", "slot 1", "nothing in this hold"]


def writer_fps(scenario: Scenario) -> float:
    """Frames a second that slot 1 can write, its overhead on every frame included."""
    slot = scenario.slots[0]
    return 1 / (slot.overhead_s + sum(file.mb for file in scenario.files) / slot.write_mb_s)


def sustained_fps(scenario: Scenario) -> float | None:
    """Frames a second after the wall: the encoder's rate or the writer's, whichever is lower.

    None when that is not below the frame rate, so that the burst never ends. It is the long-run
    rate of a memory in which encoder and writer work side by side; a memory with room for only
    one or two frames keeps one of them waiting, and goes slower than this.
    """
    if max(scenario.encode_ns, scenario.write_ns) <= scenario.frame_interval_ns:
        return None
    slowest = writer_fps(scenario)
    return slowest if scenario.process_fps is None else min(scenario.process_fps, slowest)


def narrowest(scenario: Scenario, *, wall_met: bool) -> Part:
    """The part that everything else waits for.

    The sensor when encoder and writer keep up with it; nothing when memory outlasts the hold.
    Where encoder and writer are equally slow the encoder is named: no card would help.
    """
    if sustained_fps(scenario) is None:
        return "sensor"
    if not wall_met:
        return "nothing in this hold"
    return "encoder" if scenario.encode_ns >= scenario.write_ns else "slot 1"
