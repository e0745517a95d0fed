"""The same burst written as SimPy processes: an independent check, and the yardstick of speed.

It shares the scenario and the rounding of units with the engine and nothing else.
"""

from collections.abc import Generator
from dataclasses import dataclass, field

import simpy

from engine import Scenario
from engine.quantities import bytes_of, ns_of, writing_ns

LAST = 2  # SimPy's own events have priority 0 and 1 on an instant; a due frame asks after them.
Process = Generator[simpy.Event, object, None]


@dataclass
class Burst:
    """What the processes wrote down."""

    taken_ns: list[int] = field(default_factory=list)
    written_ns: list[int] = field(default_factory=list)
    walls_ns: list[int | None] = field(default_factory=list)
    frames_of_holds: list[int] = field(default_factory=list)
    card_full_ns: int | None = None


@dataclass
class Frame:
    """One frame on its way: what went to each card before it, and how many slots still write it."""

    number: int
    placed: dict[int, int]
    to_go: int


class Card:
    """The card in one slot: what was placed on it, how full its cache is, how it writes.

    The level of the cache is what it was at `idle_since_ns`, None while its writer is busy.
    """

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
        self.level_bytes = 0
        self.idle_since_ns: int | None = 0

    def begin(self, now_ns: int) -> None:
        """Its writer has something to do again: the cache no longer empties."""
        flush_mb_s = self.slot.cache_flush_mb_s
        flush_bytes_s = bytes_of(self.slot.write_mb_s / 2 if flush_mb_s is None else flush_mb_s)
        if self.idle_since_ns is not None:
            emptied_bytes = (now_ns - self.idle_since_ns) * flush_bytes_s // 1_000_000_000
            self.level_bytes = max(0, self.level_bytes - emptied_bytes)
        self.idle_since_ns = None

    def fits(self) -> bool:
        free_mb = self.slot.free_mb
        return free_mb is None or self.placed_bytes + self.size_bytes <= bytes_of(free_mb)

    def transfer_ns(self, placed_bytes: int) -> int:
        """Time to write a frame whose bytes start now, after `placed_bytes` were meant for it."""
        slot, rate_mb_s = self.slot, self.slot.write_mb_s
        left_bytes = None if slot.free_mb is None else bytes_of(slot.free_mb) - placed_bytes
        if left_bytes is not None and left_bytes < bytes_of(slot.slow_below_free_mb):
            rate_mb_s = slot.write_mb_s * slot.slow_factor
        elif slot.cache_write_mb_s and self.level_bytes + self.size_bytes <= bytes_of(
            slot.cache_mb
        ):
            rate_mb_s = slot.cache_write_mb_s
            self.level_bytes += self.size_bytes
        if slot.slot_limit_mb_s is not None:
            rate_mb_s = min(rate_mb_s, slot.slot_limit_mb_s)
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
        for hold in scenario.holds:
            burst.walls_ns.append(None)
            burst.frames_of_holds.append(0)
            yield self.env.timeout(hold.press_ns - self.now_ns)
            yield self.after_all_else()
            stalled = False
            while self.now_ns < hold.finger_up_ns:
                if scenario.arrangement == "overflow" and not self.cards[targets[0]].fits():
                    targets = [1]
                if not all(self.cards[number].fits() for number in targets):
                    if burst.card_full_ns is None:
                        burst.card_full_ns = self.now_ns
                    break
                frames = scenario.resume_free_frames if stalled else 1
                if self.memory.level < frames * scenario.frame_bytes:
                    if not stalled:
                        burst.walls_ns[-1] = burst.walls_ns[-1] or self.now_ns
                    stalled = True
                    finger_up = self.env.timeout(hold.finger_up_ns - self.now_ns)
                    yield self.room_freed | finger_up
                    yield self.after_all_else()
                    continue
                stalled = False
                yield self.memory.get(scenario.frame_bytes)
                placed = {number: self.cards[number].placed_bytes for number in targets}
                for number in targets:
                    self.cards[number].placed_bytes += self.cards[number].size_bytes
                self.to_encode.put(Frame(len(burst.taken_ns), placed, len(targets)))
                burst.taken_ns.append(self.now_ns)
                burst.written_ns.append(0)
                burst.frames_of_holds[-1] += 1
                next_ns = self.now_ns + scenario.frame_interval_ns
                yield self.env.timeout(min(next_ns, hold.finger_up_ns) - self.now_ns)
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
            card.begin(self.now_ns)
            yield self.env.timeout(card.overhead_ns)
            yield self.env.timeout(card.transfer_ns(frame.placed[number]))
            card.idle_since_ns = self.now_ns
            frame.to_go -= 1
            if not frame.to_go:
                self.finish(frame)

    def only_writer(self) -> Process:
        together = sum if self.scenario.coupling == "serial" else max
        while True:
            frame = yield self.queues[0].get()
            assert isinstance(frame, Frame)
            for card in self.cards:
                card.begin(self.now_ns)
            overheads = [self.cards[number].overhead_ns for number in frame.placed]
            transfers = [
                self.cards[number].transfer_ns(placed) for number, placed in frame.placed.items()
            ]
            yield self.env.timeout(together(overheads) + together(transfers))
            for card in self.cards:
                card.idle_since_ns = self.now_ns
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
