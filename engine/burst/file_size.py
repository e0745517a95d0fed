"""How file size follows ISO and the detail of a scene.

A working rule: noise and detail are what compression can't remove. An uncompressed file has steps
of 0. The photographer's own files are the better source.
"""

import math

BASE_ISO = 400  # file sizes are stated for this ISO and a mixed scene

ISO_STEPS = [100, 200, 400, 800, 1600, 3200, 6400, 12_800, 25_600, 51_200]

DETAIL_OF_SCENE = {"open water": -1, "a mixed scene": 0, "busy foliage": 1}

# How far off the rule may be for one body and format, as a share of what it adds or takes away
# (standard deviation): a working assumption until own files tell.
RULE_SPREAD = 0.5

# Between these the noise reduction of a JPEG takes away what noise would add (docs/model.md).
SMOOTHED_FROM_ISO, SMOOTHED_TO_ISO = 1_600, 3_200


def stops_above_base(iso: float, *, smoothed: bool) -> float:
    """Stops of noise above BASE_ISO, below 0 under it; a `smoothed` file has none in between."""
    stops = math.log2(iso / BASE_ISO)
    if not smoothed:
        return stops
    lowest, highest = (math.log2(end / BASE_ISO) for end in (SMOOTHED_FROM_ISO, SMOOTHED_TO_ISO))
    return stops - min(max(stops - lowest, 0), highest - lowest)


def size_factor(
    iso: int, detail: int, iso_step: float, detail_step: float, *, smoothed: bool = False
) -> float:
    """File size over its stated size, above 0.

    Every stop adds the share `iso_step` (0.05), and takes it away below BASE_ISO. Each step of
    `detail` (-1 plain, 0, 1 busy) adds `detail_step`, which counts less as noise makes up more of
    the file. `smoothed` tells of a file whose noise is reduced before it is compressed, as JPEG.
    """
    noise = float((1 + iso_step) ** stops_above_base(iso, smoothed=smoothed))
    return noise * (1 + detail_step * detail / max(noise, 1))


def size_spread(
    iso: int, detail: int, iso_step: float, detail_step: float, *, smoothed: bool = False
) -> float:
    """The standard deviation of the logarithm of file size that comes of the rule itself."""
    noise = abs(iso_step * stops_above_base(iso, smoothed=smoothed))
    return RULE_SPREAD * math.hypot(noise, detail_step * detail)
