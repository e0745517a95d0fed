"""A made-up body with hidden figures: the same ones for every set-up, as a real body has them."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from engine.burst.plan import COUPLING_NUMBER
from engine.burst.scenario import COUPLINGS, Coupling, LoadedSlot, Scenario
from engine.figures.key import Factor, FigureKey, FigureKind
from engine.figures.uncertainty import Uncertainty
from engine.measurement.assumed import AssumedSetup
from engine.measurement.population import drawn_couplings
from engine.uncertainty.sources import COUPLING, ENCODER, FILES, FRAME_RATE, HELD, MEMORY, ROOM


@dataclass(frozen=True)
class HiddenBody:
    """A body that follows from a seed; the same figure is the same number in every set-up."""

    seed: int

    def scenario(self, setup: AssumedSetup, burst: int = 0) -> Scenario:
        """What the body really does in a set-up; `burst` numbers its bursts, no two are alike."""
        ratios, scenario = self.ratios(setup), setup.scenario
        of_burst = setup.sources.between_bursts.ratios(self._normals(f"burst {burst}"))
        size = ratios[FILES] * float(of_burst[0])
        files = tuple(replace(file, mb=file.mb * size) for file in scenario.files)
        held_mb = scenario.held_mb * ratios[HELD]
        frame_mb = max(held_mb, sum(file.mb for file in files))
        return replace(
            scenario,
            frame_rate_fps=scenario.frame_rate_fps * ratios[FRAME_RATE],
            memory_mb=max(
                scenario.memory_mb * ratios[MEMORY] * ratios[ROOM],
                frame_mb * scenario.resume_free_frames,
            ),
            held_mb=held_mb,
            process_fps=scenario.process_fps and scenario.process_fps * ratios[ENCODER],
            files=files,
            slots=tuple(_slot(slot, ratios, place) for place, slot in enumerate(scenario.slots, 1)),
            coupling=self._coupling(setup),
        )

    def ratios(self, setup: AssumedSetup) -> Mapping[Factor, float]:
        """What each factor of a set-up is multiplied by; the same for the same figure."""
        return {
            factor: self._ratio(setup.figures[factor], uncertainty, setup.sources.parts_of(factor))
            if factor in setup.figures
            else 1.0
            for factor, uncertainty in setup.sources.factors.items()
        }

    def _ratio(
        self, key: FigureKey, uncertainty: Uncertainty, in_common: Mapping[str, float]
    ) -> float:
        alone = math.sqrt(1 - sum(part**2 for part in in_common.values()))
        deviation = alone * self._normals(str(key))
        for cause, part in in_common.items():
            deviation += part * self._normals(cause)
        return float(uncertainty.ratios(deviation)[0])

    def _coupling(self, setup: AssumedSetup) -> Coupling:
        key = setup.figures.get(COUPLING)
        if key is None or setup.sources.knows_coupling:
            return setup.scenario.coupling
        number = int(drawn_couplings(self._random(str(key)), (1,))[0])
        return next(one for one in COUPLINGS if COUPLING_NUMBER[one] == number)

    def _normals(self, name: str) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
        return self._random(name).standard_normal(1)

    def _random(self, name: str) -> np.random.Generator:
        return np.random.default_rng([self.seed, *name.encode()])


def _slot(slot: LoadedSlot, ratios: Mapping[Factor, float], place: int) -> LoadedSlot:
    def ratio(kind: FigureKind) -> float:
        return ratios[Factor(kind, place)]

    card = ratio(FigureKind.CARD)
    return replace(
        slot,
        write_mb_s=slot.write_mb_s * card,
        slot_limit_mb_s=slot.slot_limit_mb_s and slot.slot_limit_mb_s * ratio(FigureKind.SLOT),
        overhead_s=slot.overhead_s * ratio(FigureKind.OVERHEAD),
        cache_mb=slot.cache_mb * ratio(FigureKind.CACHE),
        cache_write_mb_s=slot.cache_write_mb_s and slot.cache_write_mb_s * card,
        slot_share=slot.slot_share * ratio(FigureKind.SHARE),
        pace=slot.pace * ratio(FigureKind.PACE),
    )
