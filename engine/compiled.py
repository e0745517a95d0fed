"""Loads all that is compiled, or compiles it, for which whoever comes first would have to wait."""

from engine import File, LoadedSlot, Scenario
from engine.burst.arrangement import Arrangement
from engine.figures.uncertainty import PRINTED
from engine.measurement.assumed import figures_of
from engine.measurement.learning import learn
from engine.measurement.runs import Observed, ObservedRun
from engine.selection import steps
from engine.uncertainty.sources import SlotSources, Sources

FEW_BODIES = 50


def load() -> None:
    """A small choice, and a body learnt from one run, which between them need everything."""
    steps.load()
    file, slot = File(name="raw", mb=20), LoadedSlot(write_mb_s=100)
    run = ObservedRun(
        scenario=Scenario(frame_rate_fps=10, hold_s=4, memory_mb=400, files=(file,), slots=(slot,)),
        sources=Sources(slots=(SlotSources(write_mb_s=PRINTED),), memory_mb=PRINTED),
        figures=figures_of("raw", 10, [(1, "any")], Arrangement.SINGLE),
        observed=Observed(frames=35),
    )
    learn([run], FEW_BODIES)
