"""The round values that the axes of all drawings carry."""

import math

NICE = (1, 2, 5, 10)


def round_steps(end: float, most: int) -> list[float]:
    """Round values from 0 to below `end`: steps of 1, 2 or 5 times a power of ten, `most` or fewer.

    Heckbert, "Nice numbers for graph labels", Graphics Gems (1990). `end` is above 0.
    """
    power = 10.0 ** math.floor(math.log10(end / most))
    step = next(power * nice for nice in NICE if end / (power * nice) <= most)
    return [round(step * number, 9) for number in range(math.ceil(end / step))]
