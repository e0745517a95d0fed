"""A made-up body with hidden figures: the same ones for every set-up, as a real body has them."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from engine.burst.plan import COUPLING_NUMBER
from engine.burst.scenario import COUPLINGS, Coupling, Scenario
from engine.measurement.assumed import AssumedSetup
from engine.measurement.population import (
    COUPLING_FACTOR,
    FILE_SIZE_FACTOR,
    drawn_couplings,
)


@dataclass(frozen=True)
class HiddenBody:
    """A body that follows from a seed; of two set-ups, what has one name is the same figure."""

    seed: int

    def scenario(self, setup: AssumedSetup, burst: int = 0) -> Scenario:
        """What the body really does in a set-up; `burst` numbers its bursts, no two are alike."""
        ratios, scenario = self.ratios(setup), setup.scenario
        of_burst = setup.sources.between_bursts * float(self._random(f"burst {burst}").normal())
        size = ratios[FILE_SIZE_FACTOR] * float(np.exp(of_burst))
        files = tuple(replace(file, mb=file.mb * size) for file in scenario.files)
        held_mb = scenario.held_mb * ratios["held size"]
        frame_mb = max(held_mb, sum(file.mb for file in files))
        return replace(
            scenario,
            frame_rate_fps=scenario.frame_rate_fps * ratios["frame rate"],
            memory_mb=max(
                scenario.memory_mb * ratios["memory"], frame_mb * scenario.resume_free_frames
            ),
            held_mb=held_mb,
            process_fps=scenario.process_fps and scenario.process_fps * ratios["encoder"],
            files=files,
            slots=tuple(
                replace(
                    slot,
                    write_mb_s=slot.write_mb_s * ratios[f"card {place}"],
                    slot_limit_mb_s=slot.slot_limit_mb_s
                    and slot.slot_limit_mb_s * ratios[f"slot {place}"],
                    overhead_s=slot.overhead_s * ratios[f"overhead {place}"],
                    cache_mb=slot.cache_mb * ratios[f"cache {place}"],
                    cache_write_mb_s=slot.cache_write_mb_s
                    and slot.cache_write_mb_s * ratios[f"card {place}"],
                )
                for place, slot in enumerate(scenario.slots, 1)
            ),
            coupling=self._coupling(setup),
        )

    def ratios(self, setup: AssumedSetup) -> Mapping[str, float]:
        """What each factor of a set-up is multiplied by; the same for the same figure."""
        found = {}
        for factor, uncertainty in setup.sources.factors.items():
            name = setup.figures.get(factor)
            if factor == COUPLING_FACTOR or name is None:
                continue
            normal = self._random(name).standard_normal(1)
            found[factor] = float(uncertainty.ratios(normal)[0])
        return found

    def _coupling(self, setup: AssumedSetup) -> Coupling:
        name = setup.figures.get(COUPLING_FACTOR)
        if name is None or setup.sources.knows_coupling:
            return setup.scenario.coupling
        number = int(drawn_couplings(self._random(name), (1,))[0])
        return next(one for one in COUPLINGS if COUPLING_NUMBER[one] == number)

    def _random(self, name: str) -> np.random.Generator:
        return np.random.default_rng([self.seed, *name.encode()])
