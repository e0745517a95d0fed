"""How set-ups and what comes of them are said, the same on every screen."""

from engine.formats import figure


def light_words(sooner_s: float) -> str:
    """How much sooner, or below zero later, the light is out."""
    way = "sooner" if sooner_s > 0 else "later"
    return f"light out {figure(abs(sooner_s), 's')} {way}"
