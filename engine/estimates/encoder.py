"""How many frames a second a body's processor finishes, where nobody has noted it."""

from engine.figures.figure import Figure
from engine.figures.uncertainty import Skewed

# Of the full rate, for one format: below it in one of six, so that some format of three or four is
# limited in a third of bodies or more; docs/model.md, "Estimates".
OF_FULL_RATE = Skewed(below=1.0, above=1.2, middle=2.5, tail=0.05)


def unknown_encoder(usual_fps: float) -> Figure:
    """The processor of a body that usually shoots so fast."""
    return Figure.around_middle(
        usual_fps,
        OF_FULL_RATE,
        "in one format of six the processor is slower than the shutter",
    )
