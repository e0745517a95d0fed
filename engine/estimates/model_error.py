"""What the model of a burst leaves out, as ratios to what it predicts of a set-up.

Cards pause to tidy up, speeds waver from file to file, and two slots that write together hold each
other up: docs/model.md, "Estimates". A set-up that was tested has shown its own part of this, one
that was not has all of it.
"""

from engine.figures.uncertainty import LogNormal, Skewed

OF_PACE = LogNormal(0.09)  # at which cards are written
OF_PACE_OF_TWO = Skewed(0.14, 0.10, 0.93)  # of each of two slots at the same time
OF_BUFFER = LogNormal(0.04)
