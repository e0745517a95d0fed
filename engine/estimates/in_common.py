"""What formats of one body have in common, where sizes are estimated: a run of one tells of others.

A RAW is as large beside a JPEG as alone, and until it is processed every frame is what the sensor
gave.
"""

import math
from collections.abc import Iterator, Sequence

from engine.estimates.file_sizes import HELD_RATIO
from engine.figures.figure import Figure
from engine.figures.uncertainty import LogNormal
from engine.uncertainty.sources import FILES, HELD, InCommon

MOST = 0.98  # of a deviation: no two formats are quite alike


def files_in_common(sizes: Sequence[Figure]) -> Iterator[InCommon]:
    """Each file of a frame, by its size: files that are taken to be as large are the same."""
    deviations_mb = [size.value * size.uncertainty.spread for size in sizes]
    of_all = math.hypot(*deviations_mb)
    for size, deviation_mb in zip(sizes, deviations_mb, strict=True):
        if of_all:
            yield InCommon(FILES, f"files of {size.value:g} MB", MOST * deviation_mb / of_all)


def held_in_common(held: Figure) -> Iterator[InCommon]:
    """What the sensor gives of a frame, whatever is made of it."""
    of_sensor = LogNormal.within(HELD_RATIO).spread
    if of_all := held.uncertainty.spread:
        yield InCommon(HELD, "the sensor", MOST * min(of_sensor / of_all, 1.0))
