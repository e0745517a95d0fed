"""How set-ups and what comes of them are said, the same on every screen."""

from engine.formats import figure

WORDS_OF_ARRANGEMENT = {
    "single": "to slot 1 only",
    "overflow": "to slot 1, spilling over to slot 2",
    "mirror": "the same to both slots",
    "split": "RAW to slot 1, JPEG to slot 2",
}


def light_words(sooner_s: float) -> str:
    """How much sooner, or below zero later, the light is out."""
    way = "sooner" if sooner_s > 0 else "later"
    return f"light out {figure(abs(sooner_s), 's')} {way}"
