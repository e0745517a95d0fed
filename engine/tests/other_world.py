"""Made-up cameras of a world that is not the model's, to see what ranges are worth there.

Drawn apart from `engine.estimates`, and shot by a simulation of its own: cards pause to tidy up,
speeds waver from file to file, two slots hold each other up, some slots let even a fast card crawl,
printed figures are boasts, and people err. Everything follows from a seed.
"""

import heapq
import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

BUSES_MB_S = {"UHS-I": 104.0, "UHS-II": 312.0, "CFexpress A": 1_000.0, "CFexpress B": 2_000.0}
FORMATS = {
    "lossless RAW": (1.10, 0.14), "lossy RAW": (0.85, 0.2), "compact RAW": (0.68, 0.18),
    "JPEG fine": (0.40, 0.3), "HEIF": (0.25, 0.3),
}  # fmt: skip  # MB a megapixel, and how far cameras differ
LABELS = {
    "UHS-I": (("U1", 20, 18), ("V30", 70, 52), ("V30", 90, 70)),
    "UHS-II": (("V60", 100, 85), ("V60", 150, 90), ("V90", 250, 170), ("V90", 280, 200)),
    "CFexpress A": (("", 700, 420), ("VPG400", 700, 480)),
    "CFexpress B": (("", 1_500, 700), ("", 1_480, 350), ("VPG400", 1_300, 800)),
}  # class, printed write, what a good slot keeps of it, in MB/s
FEWEST_FRAMES = 6  # that the buffer of any camera holds


@dataclass(frozen=True)
class Card:
    """A card: what is printed on it, what it keeps, and how often and long it pauses."""

    label: str
    of_class: str
    bus: str
    keeps_mb_s: float
    pause_mb: float
    pause_s: float


@dataclass(frozen=True)
class Shot:
    """What came of a burst."""

    depth: int | None
    frames: int
    clear_s: float


@dataclass
class Camera:
    """A camera with its cards."""

    seed: int
    printed_fps: float = field(init=False)
    formats: dict[str, tuple[float, float]] = field(init=False)
    buses: list[str] = field(init=False)
    cards: list[Card] = field(init=False)

    def __post_init__(self) -> None:
        random = np.random.default_rng([self.seed, 17])
        self.megapixels = float(random.choice([20, 24, 33, 45, 61]))
        self.printed_fps = float(random.choice([7, 10, 12, 15, 20, 30, 40]))
        self.fps = self.printed_fps * float(random.choice([1.0, random.uniform(0.85, 1)]))
        kinds = list(BUSES_MB_S)
        self.buses = [str(random.choice(kinds, p=(0.2, 0.4, 0.15, 0.25)))]
        if random.random() < 0.5:
            self.buses.append(str(random.choice(kinds[:2])))
        self.formats = {}
        full_mb_s = self.megapixels * self.fps
        for name in random.choice(list(FORMATS), 3, replace=False):
            mb, spread = FORMATS[name]
            size = mb * self.megapixels * math.exp(spread * random.standard_normal())
            encoder = full_mb_s * random.choice([0.5, 0.9, 3.0], p=(0.15, 0.15, 0.7))
            self.formats[str(name)] = (size, encoder * math.exp(0.15 * random.standard_normal()))
        self.held_mb = self.megapixels * random.uniform(1.3, 2.2)
        largest_mb = max(self.held_mb, *(mb for mb, _ in self.formats.values()))
        self.memory_mb = max(
            self.held_mb * self.fps * math.exp(random.uniform(-0.2, 1.6)),
            FEWEST_FRAMES * largest_mb,
        )
        self.shares = [float(random.triangular(0.4, 0.9, 1.0)) for _ in self.buses]
        self.ceilings = [BUSES_MB_S[bus] * float(random.beta(3, 2.2)) for bus in self.buses]
        self.overhead_s = float(random.choice([0.0, random.uniform(0.003, 0.02)], p=(0.6, 0.4)))
        self.held_up = float(random.uniform(0.75, 1))
        self.one_writer = random.random() < 0.4
        self.cards = [self._card(random, bus) for bus in self.buses for _ in range(3)]

    def _card(self, random: np.random.Generator, bus: str) -> Card:
        of_class, printed, keeps = LABELS[bus][int(random.integers(len(LABELS[bus])))]
        true = keeps * math.exp(0.22 * random.standard_normal())
        if random.random() < 0.1:  # a twin with poorer chips, or a fake
            true *= random.uniform(0.25, 0.6)
        form = bus if bus.startswith("CFexpress") else f"SDXC {bus}"
        marks = [f"128 GB {form}", of_class]
        if random.random() < 0.8:
            marks.append(f"W {printed} MB/s")
        return Card(
            " ".join(filter(None, marks)), of_class, bus, true,
            float(random.uniform(400, 6_000)), float(random.uniform(0.03, 0.5)),
        )  # fmt: skip

    def shoot(self, name: str, places: list[int], hold_s: float, burst: int) -> Shot:
        """One burst of a format on the cards at `places`; two of them get a copy each."""
        random = np.random.default_rng([self.seed, burst, len(name), *places])
        mb, encoder_mb_s = self.formats[name]
        mb *= math.exp(0.05 * random.standard_normal())
        encode_s = self.megapixels / encoder_mb_s
        writers = [_Writer(self, place, len(places) > 1, random) for place in places]
        held_mb, interval_s = max(self.held_mb, mb * 1.2), 1 / self.fps
        releases: list[tuple[float, float]] = []  # moment, and MB that are free from then on
        used, due_s, encoded_s, depth = 0.0, 0.0, 0.0, None
        taken: list[float] = []
        while due_s < hold_s - 1e-9:
            at_s = due_s
            while releases and (releases[0][0] <= at_s or used + held_mb > self.memory_mb):
                moment_s, free_mb = heapq.heappop(releases)
                at_s, used = max(at_s, moment_s), used - free_mb
            if at_s >= hold_s - 1e-9:
                depth = depth or len(taken)
                break
            if at_s > due_s + 1e-9 and depth is None:
                depth = len(taken)
            taken.append(at_s)
            frame_mb = mb * math.exp(0.05 * random.standard_normal())
            encoded_s = max(encoded_s, at_s) + encode_s * math.exp(0.05 * random.standard_normal())
            written_s = encoded_s
            for writer in writers:
                start_s = max(encoded_s, writer.free_s)
                if self.one_writer:
                    start_s = max(start_s, written_s if writer is not writers[0] else 0.0)
                writer.free_s = start_s + writer.takes_s(frame_mb)
                written_s = max(written_s, writer.free_s)
            if self.one_writer and len(writers) > 1:
                writers[0].free_s = written_s
            used += held_mb
            heapq.heappush(releases, (encoded_s, held_mb - frame_mb))
            heapq.heappush(releases, (written_s, frame_mb))
            due_s = at_s + interval_s
        clear_s = max(writer.free_s for writer in writers) - hold_s
        return Shot(depth, len(taken), max(clear_s, 0.0))

    def setups(self) -> Iterator[tuple[str, list[int]]]:
        """Each format on each card, and copies on two."""
        for name in self.formats:
            for place in range(3):
                yield name, [place]
                if len(self.buses) > 1:
                    yield name, [place, 3 + place]

    def body(self) -> dict[str, Any]:
        """What its owner knows, as a learn file has it."""
        return {
            "megapixels": self.megapixels, "rates": [{"fps": self.printed_fps}],
            "formats": [{"name": name} for name in self.formats],
            "slots": [{"bus_mb_s": BUSES_MB_S[bus]} for bus in self.buses],
        }  # fmt: skip

    def known_cards(self) -> list[dict[str, Any]]:
        """The cards by the words on them, as a learn file has them."""
        return [{"name": str(place), "label": card.label} for place, card in enumerate(self.cards)]

    def line(self, name: str, places: list[int], hold_s: float) -> dict[str, Any]:
        """A set-up as a learn file has it."""
        return {
            "format": name, "fps": self.printed_fps, "hold_s": hold_s,
            "cards": [str(place) for place in places],
            "arrangement": "mirror" if len(places) > 1 else "single",
        }  # fmt: skip

    def noted(self, name: str, places: list[int], hold_s: float, burst: int) -> dict[str, Any]:
        """A burst as somebody with a stopwatch notes it; thumbs are late rather than early."""
        random = np.random.default_rng([self.seed, burst, 3])
        shot = self.shoot(name, places, hold_s + 0.1 * random.standard_normal(), burst)
        seen: dict[str, Any] = {"frames": max(1, shot.frames)}
        late_s = random.gamma(4, 0.06)
        seen["clear_s"] = round(max(0.0, shot.clear_s + late_s), 1)
        if shot.depth is None:
            seen["did_not_slow"] = True
        else:
            heard = round(shot.depth + random.gamma(4, 0.06) * self.fps)
            seen |= {
                "frames_at_full_speed": min(max(1, heard), seen["frames"]),
                "full_speed_tapped": True,
            }
        return self.line(name, places, hold_s) | seen


class _Writer:
    """A slot with its card during a burst."""

    def __init__(
        self, camera: Camera, place: int, is_one_of_two: bool, random: np.random.Generator
    ) -> None:
        card, slot = camera.cards[place], place // 3
        self.mb_s = min(card.keeps_mb_s * camera.shares[slot] / 0.9, camera.ceilings[slot])
        if is_one_of_two and not camera.one_writer:
            self.mb_s *= camera.held_up
        self.card, self.random, self.overhead_s = card, random, camera.overhead_s
        self.until_pause_mb = random.uniform(0, card.pause_mb)
        self.waver, self.free_s = 0.0, 0.0

    def takes_s(self, mb: float) -> float:
        """Seconds for a file: its speed wavers, and now and then the card pauses."""
        self.waver = 0.9 * self.waver + 0.035 * self.random.standard_normal()
        seconds = self.overhead_s + mb / (self.mb_s * math.exp(self.waver))
        self.until_pause_mb -= mb
        if self.until_pause_mb < 0:
            self.until_pause_mb += self.card.pause_mb
            seconds += self.card.pause_s * self.random.exponential()
        return seconds
