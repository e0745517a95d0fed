"""What a single run says by itself, with pencil and paper (docs/model.md, working backwards)."""

from dataclasses import dataclass

from engine.formats import figure
from engine.measurement.runs import Observed


@dataclass(frozen=True)
class ByHand:
    """One hold of `hold_s` at `frame_rate_fps`, and what was seen of it."""

    observed: Observed
    frame_rate_fps: float
    hold_s: float

    @property
    def sustained_fps(self) -> float | None:
        """Frames a second once the buffer is full: all that was taken went to the card.

        From frames and light out F / (T + C); from frames and the wall (F - N) / (T - N / f).
        """
        seen = self.observed
        if seen.frames is None or seen.did_not_slow:
            return None
        if seen.clear_s is not None:
            return seen.frames / (self.hold_s + seen.clear_s)
        if seen.frames_at_full_speed is None:
            return None
        after_s = self.hold_s - seen.frames_at_full_speed / self.frame_rate_fps
        return (seen.frames - seen.frames_at_full_speed) / after_s if after_s > 0 else None

    @property
    def buffer_frames(self) -> float | None:
        """Frames that the buffer holds: F - r T."""
        fps, frames = self.sustained_fps, self.observed.frames
        if fps is None or frames is None or fps >= self.frame_rate_fps:
            return None
        return max(frames - fps * self.hold_s, 0)

    @property
    def sentences(self) -> list[str]:
        """What it comes to, and what one more observation would add."""
        seen, told = self.observed, []
        if self.sustained_fps is not None:
            told.append(f"It writes {figure(self.sustained_fps, 'fps')} once the buffer is full.")
        if self.buffer_frames is not None:
            told.append(f"The buffer holds about {figure(self.buffer_frames)} frames.")
        if seen.frames is None:
            told.append("The frames of the camera's counter would tell the rate once it is full.")
        elif seen.clear_s is None and not seen.did_not_slow:
            told.append("The moment of light out would tell the rate and the buffer on their own.")
        elif seen.frames_at_full_speed is None and not seen.did_not_slow:
            told.append("The moment at which it slowed would check this.")
        return told
