"""The time that a slot spends on a frame before its bytes, where nobody has noted it."""

from engine.figures.figure import Figure
from engine.figures.uncertainty import Skewed

# Most bodies spend next to none, a quarter 4 ms and more, one in fifty 30; docs/model.md.
USUAL_S, USUAL = 0.0015, Skewed(below=1.5, above=1.4)


def unknown_overhead() -> Figure:
    """What is spent on each frame."""
    return Figure(USUAL_S, USUAL, "most cameras spend next to no time on opening a file")
