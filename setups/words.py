"""How set-ups and what comes of them are said, the same on every screen."""

from engine import Result
from engine.formats import figure, waiting


def light_words(sooner_s: float) -> str:
    """How much sooner, or below zero later, the light is out."""
    way = "sooner" if sooner_s > 0 else "later"
    return f"light out {figure(abs(sooner_s), 's')} {way}"


def ready_words(result: Result) -> str:
    """When the buffer is ready again after the last finger up."""
    if waiting(result.clear_s) == "at once":
        return "At once."
    half_s, clear_s = result.pause_until_free_s(0.5), result.clear_s
    return (
        f"Half of the buffer is free {figure(half_s, 's')} after finger up, "
        f"all of it after {figure(clear_s, 's')}."
    )
