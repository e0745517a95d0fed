"""The pictures of a day: those of one body among a folder's, as frames."""

from collections.abc import Sequence
from dataclasses import dataclass

from bench.from_files import CAMERA, ENDINGS
from engine.day.frames_taken import FramesTaken
from engine.formats import figure
from engine.measurement.capture_times import (
    MANY,
    Picture,
    frames_of,
    notes_of,
    of_each_body,
    with_deleted,
)


@dataclass(frozen=True)
class BodyPictures:
    """The pictures of one body among those of a folder, and what was odd about all of them.

    `others` are further bodies that took some.
    """

    body: str
    pictures: Sequence[Picture]
    notes: Sequence[str]
    others: Sequence[str]

    @classmethod
    def of(cls, pictures: Sequence[Picture], camera: str = "") -> "BodyPictures":
        """Those of one `camera`, or of the body that took most of them; each file counts once."""
        by_body = of_each_body(pictures)
        most = max(by_body, key=lambda one: len(by_body[one]))
        body = camera if camera in by_body else most
        notes = list(notes_of(pictures, by_body))
        others = [other for other in by_body if other not in ("", body)]
        if len(by_body) > 1:
            notes.append(f"Only those of the {body or 'unnamed body'} are replayed here.")
        return cls(body, by_body[body], notes, others)

    @property
    def decimals(self) -> int:
        """Digits after the second that all of them tell; 0: their frames can only be counted."""
        return min(one.decimals for one in self.pictures)

    @property
    def endings(self) -> str:
        """The endings of their names."""
        return ",".join(sorted({one.ending for one in self.pictures}))

    @property
    def of_day(self) -> "PicturesOfDay":
        """Its day. Raises :class:`InvalidDay`."""
        notes, frames = list(self.notes), frames_of(self.pictures)
        filled = with_deleted(frames)[:MANY]  # those among them that were deleted since, too
        if deleted := len(filled) - len(frames):
            notes.append(
                f"{figure(deleted)} frames were deleted since, by their numbers; they count as "
                "taken, evenly between those beside them."
            )
        taken = FramesTaken.of(filled, 10.0**-self.decimals)
        return PicturesOfDay(taken, self.decimals, self.body, self.endings, notes)


@dataclass(frozen=True)
class PicturesOfDay:
    """The frames of one body on a day, exact to so many decimals of a second.

    `endings` are those of its files, `notes` what was odd about them.
    """

    taken: FramesTaken
    decimals: int
    body: str
    endings: str
    notes: Sequence[str]

    @property
    def told(self) -> dict[str, str]:
        """What they say of the set-up, by the names that a found burst has for it."""
        told = {CAMERA: self.body, ENDINGS: self.endings}
        told["files_mb"] = f"{self.taken.mb.mean():.2f}"
        if fps := self.taken.frame_rate_fps:
            told["frame_rate_fps"] = f"{fps:.2f}"
        return told
