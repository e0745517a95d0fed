"""The same burst written as SimPy processes: an independent check, and the yardstick of speed.

It shares the scenario's whole numbers with the engine and nothing else.
"""

from collections.abc import Generator
from dataclasses import dataclass, field

import simpy

from engine import Scenario

LAST = 2  # SimPy's own events have priority 0 and 1 on an instant; a due frame asks after them.


@dataclass
class Burst:
    """What the processes wrote down."""

    taken_ns: list[int] = field(default_factory=list)
    written_ns: list[int] = field(default_factory=list)
    wall_ns: int | None = None
    card_full_ns: int | None = None


class Camera:
    """Sensor, encoder and writer as three processes around one memory."""

    def __init__(self, scenario: Scenario) -> None:
        self.scenario = scenario
        self.env = simpy.Environment()
        self.memory = simpy.Container(self.env, scenario.memory_bytes, init=scenario.memory_bytes)
        self.to_encode, self.to_write = simpy.Store(self.env), simpy.Store(self.env)
        self.room_freed = self.env.event()
        self.burst = Burst()

    def shoot(self) -> Burst:
        for process in (self.sensor(), self.encoder(), self.writer()):
            self.env.process(process)
        self.env.run()
        return self.burst

    def sensor(self) -> Generator[simpy.Event, object, None]:
        scenario, burst = self.scenario, self.burst
        left_on_card = scenario.free_bytes
        yield self.after_all_else()
        while self.now_ns < scenario.hold_ns:
            if left_on_card is not None and left_on_card < scenario.file_bytes:
                burst.card_full_ns = self.now_ns
                return
            if self.memory.level < scenario.frame_bytes:
                burst.wall_ns = self.now_ns if burst.wall_ns is None else burst.wall_ns
                while self.memory.level < scenario.frame_bytes * scenario.resume_free_frames:
                    yield self.room_freed
                    yield self.after_all_else()
                continue
            yield self.memory.get(scenario.frame_bytes)
            burst.taken_ns.append(self.now_ns)
            if left_on_card is not None:
                left_on_card -= scenario.file_bytes
            self.to_encode.put(None)
            yield self.env.timeout(scenario.frame_interval_ns)
            yield self.after_all_else()

    def encoder(self) -> Generator[simpy.Event, object, None]:
        while True:
            yield self.to_encode.get()
            yield self.env.timeout(self.scenario.encode_ns)
            self.free(self.scenario.frame_bytes - self.scenario.file_bytes)
            self.to_write.put(None)

    def writer(self) -> Generator[simpy.Event, object, None]:
        while True:
            yield self.to_write.get()
            yield self.env.timeout(self.scenario.write_ns)
            self.free(self.scenario.file_bytes)
            self.burst.written_ns.append(self.now_ns)

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
