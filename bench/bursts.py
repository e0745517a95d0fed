"""A burst that was found among files: its strokes drawn, and what it tells a run."""

from dataclasses import dataclass
from functools import cached_property
from urllib.parse import urlencode

from engine.measurement.capture_times import Burst
from engine.measurement.strokes import Strokes
from engine.typed_numbers import as_typed

WIDTH, HEIGHT = 1_000, 40


@dataclass(frozen=True)
class FoundBurst:
    """What a page shows of a burst."""

    burst: Burst

    @property
    def strokes(self) -> Strokes | None:
        """When its frames were taken; None where the files have whole seconds only."""
        return self.burst.strokes if self.burst.has_strokes else None

    @property
    def lasted_s(self) -> float:
        """From the first frame to the last."""
        return self.burst.frames[-1][0].taken_s - self.burst.frames[0][0].taken_s

    @cached_property
    def path(self) -> str:
        """A stroke for each frame, across the width."""
        first, lasted_s = self.burst.frames[0][0].taken_s, self.lasted_s or 1
        places = (WIDTH * (files[0].taken_s - first) / lasted_s for files in self.burst.frames)
        return " ".join(f"M{place:.1f} 0V{HEIGHT}" for place in places)

    @property
    def query(self) -> str:
        """What the form of a run is filled in with."""
        told: dict[str, object] = {"method": "files", "frames": len(self.burst.frames)}
        told["files_mb"] = as_typed(round(self.burst.mean_mb, 2))
        if self.burst.is_covered:
            told["covered"] = "on"
        if strokes := self.strokes:
            told["hold_s"] = as_typed(round(self.lasted_s + strokes.interval_s / 2, 2))
            told["frame_rate_fps"] = as_typed(round(strokes.frame_rate_fps, 2))
            told |= (
                {"did_not_slow": "on"}
                if strokes.wall is None
                else {"frames_at_full_speed": strokes.wall}
            )
        return urlencode(told)
