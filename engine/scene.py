"""How file size follows ISO and the detail of a scene."""

import math

BASE_ISO = 400  # file sizes are stated for this ISO and a mixed scene

ISO_STEPS = [100, 200, 400, 800, 1600, 3200, 6400, 12_800, 25_600, 51_200]

DETAIL_OF_SCENE = {"open water": -1, "a mixed scene": 0, "busy foliage": 1}


def size_factor(iso: int, detail: int, iso_step: float, detail_step: float) -> float:
    """File size over its stated size.

    Noise adds `iso_step` (a share: 0.05) for every stop above BASE_ISO, and none below, where
    noise no longer matters; each step of `detail` (-1 plain, 0, 1 busy) adds `detail_step`. A
    working rule: noise and detail are what compression can't remove, and an uncompressed file has
    steps of 0. The photographer's own files are the better source.
    """
    stops = max(0.0, math.log2(iso / BASE_ISO))
    return (1 + iso_step * stops) * (1 + detail_step * detail)
