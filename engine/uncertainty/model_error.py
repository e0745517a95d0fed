"""What the model of a burst leaves out, as ratios to what it predicts of a set-up.

Cards pause to tidy up, speeds waver from file to file, and two slots that write together hold each
other up: docs/model.md, "Estimates". A card that was tested in a body has shown a part of this, one
that was not has all of it.
"""

from engine.burst.arrangement import Arrangement
from engine.figures.figure import Figure
from engine.figures.uncertainty import LogNormal, Skewed

OF_PACE = LogNormal(0.09)  # at which cards are written
OF_PACE_TESTED = LogNormal(0.05)  # of a card that was measured in this body
OF_PACE_OF_TWO = Skewed(0.14, 0.10, 0.93)  # of each of two slots at the same time
OF_BUFFER = LogNormal(0.04)


def pace(arrangement: Arrangement, *, is_tested: bool) -> Figure:
    """What a slot writes at, against what it and its card let expect."""
    if arrangement.writes_both:
        return Figure.around_middle(1.0, OF_PACE_OF_TWO)
    return Figure(1.0, OF_PACE_TESTED if is_tested else OF_PACE)
