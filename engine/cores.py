"""Work on all cores, in threads: compiled code releases the interpreter lock."""

import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

_Part = TypeVar("_Part")
_Came = TypeVar("_Came")

CORES = os.cpu_count() or 1


def in_parts(act: Callable[..., object], arrays: Iterable[NDArray[Any]]) -> None:
    """Calls `act` with a part of every array on each core; what it writes stands in the arrays."""
    parts = zip(*(np.array_split(array, CORES) for array in arrays), strict=True)
    on_all_cores(lambda part: act(*part), parts)


def on_all_cores(act: Callable[[_Part], _Came], parts: Iterable[_Part]) -> list[_Came]:
    """What comes of `act` for each of `parts`, in their order; raises what the first one raises."""
    with ThreadPoolExecutor(CORES) as pool:
        return list(pool.map(act, parts))
