"""The results of a body: what its runs have shown of each format, card and arrangement."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from statistics import median

from bench.engine_adapter import by_hand_of
from bench.models import Run
from engine.measurement.by_hand import ByHand
from setups.reader import Reading


@dataclass(frozen=True)
class SetupMedians:
    """Medians over the runs of one set-up; None where no run tells."""

    setup: str
    cards: str
    covered: bool
    runs: int
    frames_at_full_speed: float | None
    did_not_slow: bool
    sustained_fps: float | None
    clear_s: float | None


def results_of(readings: Iterable[tuple[Run, Reading | None]]) -> list[SetupMedians]:
    """A row for each format, rate, arrangement and cards; runs that are left out are not in it."""
    groups: dict[tuple[str, str, bool], list[tuple[Run, ByHand]]] = defaultdict(list)
    for run, reading in readings:
        if reading is None or run.left_out:
            continue
        setup = reading.setup
        name = f"{setup.recording} · {setup.rate}"
        if setup.arranged.slots_used > 1:
            name += f" · {setup.arranged}"
        cards = " and ".join(str(side.card) for side in setup.sides)
        by_hand = by_hand_of(run, setup)
        groups[name, cards, run.covered].append((run, by_hand))
    return [
        SetupMedians(
            name,
            cards,
            covered,
            len(found),
            _median(run.frames_at_full_speed for run, _ in found),
            any(run.did_not_slow for run, _ in found),
            _median(fps.value for _, by_hand in found if (fps := by_hand.sustained_fps)),
            _median(run.clear_s for run, _ in found),
        )
        for (name, cards, covered), found in sorted(groups.items())
    ]


def _median(values: Iterable[float | None]) -> float | None:
    found = [value for value in values if value is not None]
    return median(found) if found else None
