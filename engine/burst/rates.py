"""How fast each part of the camera passes frames on, by which speed of its cards holds."""

import math
from dataclasses import dataclass
from typing import Literal, Self

from engine.burst.plan import CACHED, NEARLY_FULL, SLOT_2_PACE, STEADY, UNUSED
from engine.burst.scenario import LoadedSlot, Scenario
from engine.quantities import BYTES_IN_MB

PartName = Literal["sensor", "encoder", "slot 1", "slot 2", "card 1", "card 2"]


@dataclass(frozen=True)
class Part:
    """A part of the path: the frames a second and MB/s that it can pass on in the long run.

    The sensor's are what it makes; `mb_s` counts what goes through that part.
    """

    name: PartName
    fps: float
    mb_s: float


@dataclass(frozen=True)
class Regime:
    """The slots that frames are written to at one moment of a burst, and how fast each of them.

    `write_mb_s` maps each slot in use (0, 1) to its effective write speed, which differs with the
    level of a card's cache, with a nearly full card, and with the slot that overflow has reached.
    """

    scenario: Scenario
    write_mb_s: dict[int, float]

    @classmethod
    def at_press(cls, scenario: Scenario) -> Self:
        """With caches left aside, as every frame is written that goes to a card in the long run."""
        used = range(2 if scenario.arrangement.writes_both else 1)
        return cls(scenario, {number: scenario.slots[number].effective_mb_s for number in used})

    @classmethod
    def of_pace(cls, scenario: Scenario, pace: int) -> Self:
        """That of a frame written at `pace`, as `engine.burst.plan` counts them."""
        paces = (pace % SLOT_2_PACE, pace // SLOT_2_PACE)
        return cls(
            scenario,
            {
                number: _speed(scenario.slots[number], of_slot)
                for number, of_slot in enumerate(paces)
                if of_slot != UNUSED
            },
        )

    def writing_s(self, slot: int) -> float:
        """Seconds that `slot` (0 or 1) takes for one frame, its overhead included."""
        transfer_s = self.scenario.timed_bytes(slot) / BYTES_IN_MB / self.write_mb_s[slot]
        return self.scenario.slots[slot].overhead_s + transfer_s

    @property
    def writer_fps(self) -> float:
        """Frames a second that the card sides write together, by the table of couplings."""
        times_s = [self.writing_s(slot) for slot in self.write_mb_s]
        if len(times_s) == 1 or self.scenario.coupling == "parallel":
            return 1 / max(times_s)
        if self.scenario.coupling == "serial":
            return 1 / sum(times_s)
        overheads_s = [self.scenario.slots[slot].overhead_s for slot in self.write_mb_s]
        transfers_s = [time - wait for time, wait in zip(times_s, overheads_s, strict=True)]
        return 1 / (max(overheads_s) + max(transfers_s))

    @property
    def camera_fps(self) -> float:
        """Frames a second that encoder and writer pass on side by side, whatever is taken."""
        return min(self.writer_fps, self.scenario.process_fps or math.inf)

    @property
    def path(self) -> list[Part]:
        """The parts that data flows through, in order: sensor, encoder if it limits, card sides.

        A card side is named after the card where the slot is known to pass more. Where one writer
        serves both slots, each side's rate is what it would be if the other took no time.
        """
        scenario = self.scenario
        frame_mb = scenario.file_bytes / BYTES_IN_MB
        parts = [Part("sensor", scenario.frame_rate_fps, scenario.frame_rate_fps * frame_mb)]
        if scenario.process_fps is not None:
            parts.append(Part("encoder", scenario.process_fps, scenario.process_fps * frame_mb))
        for number in self.write_mb_s:
            seconds = self.writing_s(number)
            through_mb = scenario.bytes_to(number) / BYTES_IN_MB
            name = side_name(scenario.slots[number], number)
            parts.append(Part(name, 1 / seconds, through_mb / seconds))
        return parts


def keeps_up(fps: float, frame_rate_fps: float) -> bool:
    """Whether a part that passes `fps` never falls behind; a billionth less is rounding."""
    return fps >= frame_rate_fps * (1 - 1e-9)


def side_name(slot: LoadedSlot, number: int) -> PartName:
    """What limits in `slot` (`number` 0 or 1): its card, where the slot is known to pass more."""
    limited_by_card = (
        math.isfinite(slot.most_mb_s) and slot.write_mb_s * slot.slot_share < slot.most_mb_s
    )
    if number == 0:
        return "card 1" if limited_by_card else "slot 1"
    return "card 2" if limited_by_card else "slot 2"


def _speed(slot: LoadedSlot, pace: int) -> float:
    speeds = {STEADY: slot.effective_mb_s, CACHED: slot.cached_mb_s, NEARLY_FULL: slot.slow_mb_s}
    return speeds[pace]
