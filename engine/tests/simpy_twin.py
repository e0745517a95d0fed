"""The same burst written as SimPy processes: an independent check, and the yardstick of speed.

It shares the scenario and the rounding of units with the engine and nothing else.
"""

from collections.abc import Generator
from dataclasses import dataclass, field

import simpy

from engine import Scenario
from engine.units import bytes_of, ns_of, writing_ns

LAST = 2  # SimPy's own events have priority 0 and 1 on an instant; a due frame asks after them.
Process = Generator[simpy.Event, object, None]


@dataclass
class Burst:
    """What the processes wrote down."""

    taken_ns: list[int] = field(default_factory=list)
    written_ns: list[int] = field(default_factory=list)
    wall_ns: int | None = None
    card_full_ns: int | None = None


@dataclass
class Frame:
    """One frame on its way: what went to each card before it, and how many slots still write it."""

    number: int
    placed: dict[int, int]
    to_go: int


class Card:
    """The card in one slot: what was placed on it, and how long the next frame takes."""

    def __init__(self, scenario: Scenario, number: int) -> None:
        self.slot = scenario.slots[number]
        if scenario.arrangement == "split":
            self.size_bytes = bytes_of(scenario.files[number].mb)
        else:
            self.size_bytes = scenario.file_bytes
        whole = scenario.coupling == "slowest"
        self.timed_bytes = scenario.file_bytes if whole else self.size_bytes
        self.overhead_ns = ns_of(self.slot.overhead_s)
        self.placed_bytes = 0

    def fits(self) -> bool:
        free_mb = self.slot.free_mb
        return free_mb is None or self.placed_bytes + self.size_bytes <= bytes_of(free_mb)

    def transfer_ns(self, placed_bytes: int) -> int:
        slot, rate_mb_s = self.slot, self.slot.write_mb_s
        if slot.cache_write_mb_s is not None and placed_bytes < bytes_of(slot.cache_mb):
            rate_mb_s = slot.cache_write_mb_s
        if slot.free_mb is not None:
            left_bytes = bytes_of(slot.free_mb) - placed_bytes
            if left_bytes < bytes_of(slot.slow_below_free_mb):
                rate_mb_s = slot.write_mb_s * slot.slow_factor
        return writing_ns(self.timed_bytes, rate_mb_s)


class Camera:
    """Sensor, encoder and writers as processes around one memory."""

    def __init__(self, scenario: Scenario) -> None:
        self.scenario = scenario
        self.env = simpy.Environment()
        self.memory = simpy.Container(self.env, scenario.memory_bytes, init=scenario.memory_bytes)
        self.cards = [Card(scenario, number) for number in range(len(scenario.slots))]
        self.to_encode = simpy.Store(self.env)
        self.queues = [simpy.Store(self.env) for _ in self.cards]
        self.room_freed = self.env.event()
        self.burst = Burst()

    def shoot(self) -> Burst:
        self.env.process(self.sensor())
        self.env.process(self.encoder())
        if self.scenario.coupling == "parallel":
            for number in range(len(self.cards)):
                self.env.process(self.slot_writer(number))
        else:
            self.env.process(self.only_writer())
        self.env.run()
        return self.burst

    def sensor(self) -> Process:
        scenario, burst = self.scenario, self.burst
        targets = [0, 1] if scenario.arrangement in ("mirror", "split") else [0]
        yield self.after_all_else()
        while self.now_ns < scenario.hold_ns:
            if scenario.arrangement == "overflow" and targets == [0] and not self.cards[0].fits():
                targets = [1]
            if not all(self.cards[number].fits() for number in targets):
                burst.card_full_ns = self.now_ns
                return
            if self.memory.level < scenario.frame_bytes:
                burst.wall_ns = self.now_ns if burst.wall_ns is None else burst.wall_ns
                while self.memory.level < scenario.frame_bytes * scenario.resume_free_frames:
                    yield self.room_freed
                    yield self.after_all_else()
                continue
            yield self.memory.get(scenario.frame_bytes)
            placed = {number: self.cards[number].placed_bytes for number in targets}
            for number in targets:
                self.cards[number].placed_bytes += self.cards[number].size_bytes
            self.to_encode.put(Frame(len(burst.taken_ns), placed, len(targets)))
            burst.taken_ns.append(self.now_ns)
            burst.written_ns.append(0)
            yield self.env.timeout(scenario.frame_interval_ns)
            yield self.after_all_else()

    def encoder(self) -> Process:
        while True:
            frame = yield self.to_encode.get()
            assert isinstance(frame, Frame)
            yield self.env.timeout(self.scenario.encode_ns)
            self.free(self.scenario.frame_bytes - self.scenario.file_bytes)
            if self.scenario.coupling == "parallel":
                for number in frame.placed:
                    self.queues[number].put(frame)
            else:
                self.queues[0].put(frame)

    def slot_writer(self, number: int) -> Process:
        card = self.cards[number]
        while True:
            frame = yield self.queues[number].get()
            assert isinstance(frame, Frame)
            yield self.env.timeout(card.overhead_ns + card.transfer_ns(frame.placed[number]))
            frame.to_go -= 1
            if not frame.to_go:
                self.finish(frame)

    def only_writer(self) -> Process:
        together = sum if self.scenario.coupling == "serial" else max
        while True:
            frame = yield self.queues[0].get()
            assert isinstance(frame, Frame)
            overheads = [self.cards[number].overhead_ns for number in frame.placed]
            transfers = [
                self.cards[number].transfer_ns(placed) for number, placed in frame.placed.items()
            ]
            yield self.env.timeout(together(overheads) + together(transfers))
            self.finish(frame)

    def finish(self, frame: Frame) -> None:
        self.burst.written_ns[frame.number] = self.now_ns
        self.free(self.scenario.file_bytes)

    def free(self, size_bytes: int) -> None:
        if size_bytes:
            self.memory.put(size_bytes)
        self.room_freed.succeed()
        self.room_freed = self.env.event()

    @property
    def now_ns(self) -> int:
        return int(self.env.now)

    def after_all_else(self) -> simpy.Event:
        """An event at this instant that SimPy handles after every ordinary one."""
        event = self.env.event()
        event._ok, event._value = True, None
        self.env.schedule(event, priority=LAST)  # type: ignore[arg-type]
        return event
