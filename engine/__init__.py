"""The burst model: what a camera does while its shutter button is held down.

Give :func:`simulate` a :class:`Scenario`; it answers with a :class:`Result`. This package knows
nothing of the web, the database, files or the clock.
"""

from engine.burst.result import Result
from engine.burst.scenario import File, InvalidScenario, LoadedSlot, Scenario
from engine.burst.simulate import simulate

__all__ = ["File", "InvalidScenario", "LoadedSlot", "Result", "Scenario", "simulate"]
