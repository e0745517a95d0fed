"""Bursts that were found among files or in a sound, as a page shows them."""

import json
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from statistics import fmean, pstdev

from bench.drawings import stroke_path
from bench.from_files import CAMERA, ENDINGS
from engine.measurement.capture_times import Burst, day_of
from engine.measurement.strokes import Strokes
from engine.typed_numbers import as_typed

DIGITS = 4


@dataclass(frozen=True)
class Sizes:
    """Files of one kind: their mean size in MB, and the standard deviation around it."""

    ending: str
    mean_mb: float
    deviation_mb: float


@dataclass(frozen=True)
class FoundBurst:
    """A burst that was found among files or in a sound, as a page shows it.

    `sizes`, `mean_mb`, `is_covered`, the `camera` and the `day` are known where there are files.
    """

    method: str
    name: str
    times_s: Sequence[float]
    strokes: Strokes | None
    mean_mb: float | None = None
    is_covered: bool = False
    sizes: Sequence["Sizes"] = ()
    camera: str = ""
    day: str = ""

    @classmethod
    def of_files(cls, burst: Burst) -> "FoundBurst":
        """One among files; without strokes where these have whole seconds only."""
        first = burst.frames[0][0]
        first_s = first.taken_s
        return cls(
            "files",
            burst.first_name,
            [files[0].taken_s - first_s for files in burst.frames],
            burst.strokes if burst.has_strokes else None,
            burst.mean_mb,
            burst.is_covered,
            [Sizes(end, fmean(mb), pstdev(mb)) for end, mb in burst.mb_of_ending.items()],
            first.body,
            day_of(first_s).isoformat(),
        )

    @property
    def lasted_s(self) -> float:
        """From the first frame to the last."""
        return self.times_s[-1] - self.times_s[0]

    @cached_property
    def path(self) -> str:
        """A stroke for each frame, across the width."""
        return stroke_path(self.times_s, self.times_s[0], self.lasted_s or 1)

    @property
    def filled(self) -> dict[str, str]:
        """The fields of a run's form, filled in."""
        told = {"method": self.method, "frames": str(len(self.times_s))}
        if self.mean_mb is not None:
            told["files_mb"] = as_typed(round(self.mean_mb, 2))
        if self.is_covered:
            told["covered"] = "on"
        if self.day:
            told["shot_on"] = self.day
            told |= {CAMERA: self.camera, ENDINGS: ",".join(one.ending for one in self.sizes)}
        if strokes := self.strokes:
            told["hold_s"] = as_typed(round(self.lasted_s + strokes.interval_s / 2, 2))
            told["frame_rate_fps"] = as_typed(round(strokes.frame_rate_fps, 2))
            told["strokes_s"] = json.dumps([round(one, DIGITS) for one in strokes.times_s])
            if strokes.slowed:
                told["frames_at_full_speed"] = str(strokes.wall)
            elif strokes.slowed is False:
                told["did_not_slow"] = "on"
        return told


@dataclass(frozen=True)
class FoundFolder:
    """All bursts of a folder: did they ever fill the buffer?"""

    bursts: Sequence[FoundBurst]

    @property
    def filled(self) -> int:
        """How many bursts slowed."""
        return sum(one.strokes is not None and one.strokes.wall is not None for one in self.bursts)

    @property
    def longest(self) -> int:
        """The most frames that one of them has."""
        return max((len(one.times_s) for one in self.bursts), default=0)

    @property
    def sizes(self) -> list[Sizes]:
        """The mean size of each kind of file in several bursts, and how much bursts differ."""
        means: dict[str, list[float]] = defaultdict(list)
        for burst in self.bursts:
            for one in burst.sizes:
                means[one.ending].append(one.mean_mb)
        return [
            Sizes(ending, fmean(found), pstdev(found))
            for ending, found in means.items()
            if len(found) > 1
        ]
